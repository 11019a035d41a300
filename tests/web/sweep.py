"""Slips and extremes that a door may accept, and every page that has to go on answering after them."""

import json
import re
from collections.abc import Iterator, Sequence

from lepidos.core.catch.length_weight import LENGTH_SLACK
from lepidos.core.fish.species import Species
from tests.web.client import WebTest

TRIP_PAGES = (
    "deck", "deck?by=species", "deck?by=party", "deck?as=list", "table", "pack", "freezer", "ice",
    "yieldbook", "yieldbook.csv", "import", "waste", "plan", "",
)  # fmt: skip
PAGES = (
    "/", "/trips", "/trips/new", "/rules", "/rules/new", "/guide", "/guide/own",
    "/guide/own/write", "/guide/techniques", "/guide/do-not-eat", "/guide?q=puffer", "/devices", "/which-fish", "/health", "/licences", "/boat", "/join",
    "/freezer/next", "/freezer/find?q=fillet", "/freezer/calendar.ics",
    "/season", "/season.csv", "/season.pdf", "/season/cutters", "/season/keep", "/bundle", "/season/millimetres", "/season/what-if", "/season/what-if?species=cod&length=70",
    "/season/what-if?species=cod&length=9999", "/season/trials", "/season/fish", "/season/fish?year=all&by=cutter", "/season/fish.csv",
    "/season/fish.xlsx", "/season/fish.json",
)  # fmt: skip
API_OF_TRIP = ("", "/fish", "/order", "/pieces", "/yieldbook", "/waste")


def lengths_cm(species: Species) -> tuple[float, ...]:
    """A usual length and its slips (a tenth, ten times, the other unit), shortest and longest."""
    fit = species.length_weight
    usual = (fit.smallest_cm + fit.largest_cm) / 2
    longest = species.longest_cm * LENGTH_SLACK
    slips = (usual / 10, usual * 10, usual / 2.54, usual * 2.54, 1.0, 1.99, 2.0, 3.0, longest)
    return tuple(dict.fromkeys(round(min(cm, longest), 3) for cm in (usual, *slips) if cm >= 1))


class SweepTest(WebTest):
    """`assert_all_pages_answer` goes through the whole app."""

    def start_cold_trip(self) -> str:
        """A trip on which every model has something to calculate."""
        return self.start_trip(sea_c="16", air_c="24", ice_kg="80")

    def paths(self, trip: str, guide: Sequence[str] = ()) -> Iterator[str]:
        yield from PAGES
        for name in TRIP_PAGES:
            yield f"{trip}/{name}" if name else trip
        for name in API_OF_TRIP:
            yield f"/api/v1{trip}{name}"
        for key in guide:
            yield f"/guide/{key}"
        for fish in sorted(set(re.findall(r"/fish/[0-9A-Z]{26}", self.deck(trip)))):
            yield from (
                fish,
                f"{fish}/card",
                f"{fish}/history",
                f"/api/v1{fish}",
                f"/api/v1{fish}/card",
            )
        for piece in sorted(set(re.findall(r"/pieces/[0-9A-Z]{26}", self.page(f"{trip}/pack")))):
            yield from (piece, f"/api/v1{piece}")
        yield from sorted(set(re.findall(r'href="(/b/[0-9A-Z]+)"', self.page(f"{trip}/pack"))))

    def deck(self, trip: str) -> str:
        return self.page(f"{trip}/deck")

    def page(self, path: str) -> str:
        return str(self.client.get(path, follow_redirects=True).text)

    def assert_all_pages_answer(self, trip: str, guide: Sequence[str] = ()) -> int:
        """Every page answers 200; the API may say 409 of a fish that is set aside. How many."""
        bad, seen = [], 0
        for path in self.paths(trip, guide):
            seen += 1
            answer = self.client.get(path, follow_redirects=True)
            fine = {200, 409} if path.startswith("/api/v1/fish/") else {200}
            if answer.status_code not in fine:
                said = re.sub(r"<[^>]+>|\s+", " ", answer.text)[-300:]
                bad.append(f"{path}: {answer.status_code} {said}")
        self.assertEqual(bad, [], f"{len(bad)} of {seen} pages")
        return seen

    def land_by_api(self, trip: str, species: str, cm: float, **more: object) -> str:
        """The fish's path, or "" when the door refused it."""
        answer = self.client.post(
            f"/api/v1{trip}/fish",
            json={"species": species, "length_cm": cm, **more},
            headers={"idempotency-key": self.key()},
        )
        self.assertIn(answer.status_code, {201, 422}, answer.text)
        return f"/fish/{answer.json()['id']}" if answer.status_code == 201 else ""


HARD_NUMBERS = (float("inf"), float("nan"), -1.0, 0.0, 1e-300, 1e300)
HARD_WORDS = ("", "<b onclick=x>", "x" * 5000, 7)


def leaves(value: object, at: tuple[object, ...] = ()) -> Iterator[tuple[object, ...]]:
    """The way to every value of a TOML document, lists and tables among them."""
    if at:
        yield at
    parts = (
        value.items()
        if isinstance(value, dict)
        else enumerate(value)
        if isinstance(value, list)
        else ()
    )
    for key, part in parts:
        yield from leaves(part, (*at, key))


def spoiled(document: dict[str, object]) -> Iterator[tuple[str, str]]:
    """The document with one value replaced by one that is hard to take: (what, TOML)."""
    for way in leaves(document):
        copy = json.loads(json.dumps(document))
        holder = copy
        for key in way[:-1]:
            holder = holder[key]
        old = holder[way[-1]]
        if isinstance(old, bool):
            hard: tuple[object, ...] = ("yes",)
        elif isinstance(old, (int, float)):
            hard = HARD_NUMBERS
        elif isinstance(old, str):
            hard = HARD_WORDS
        else:
            hard = ([], {}, "x", 0)
        for value in hard:
            holder[way[-1]] = value
            yield f"{'.'.join(map(str, way))} = {str(value)[:20]!r}", to_toml(copy)
        del holder[way[-1]]
        yield f"without {'.'.join(map(str, way))}", to_toml(copy)


def to_toml(document: dict[str, object]) -> str:
    """TOML with everything below the first level in line."""
    return "\n".join(f"{key} = {_inline(value)}" for key, value in document.items())


def _inline(value: object) -> str:
    if isinstance(value, dict):
        return "{" + ", ".join(f'"{k}" = {_inline(v)}' for k, v in value.items()) + "}"
    if isinstance(value, list):
        return "[" + ", ".join(map(_inline, value)) + "]"
    if isinstance(value, float):
        return {"inf": "inf", "nan": "nan"}.get(str(value), repr(value))
    return json.dumps(value)

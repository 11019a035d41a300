"""Slips and extremes that a door may accept, and every page that has to go on answering after them."""

import re
from collections.abc import Iterator, Sequence

from lepidos.core.catch import LENGTH_SLACK
from lepidos.core.species import Species
from tests.web.client import WebTest

TRIP_PAGES = (
    "deck", "deck?by=species", "deck?by=party", "deck?as=list", "table", "pack", "freezer", "ice",
    "yieldbook", "yieldbook.csv", "import", "waste", "plan", "",
)  # fmt: skip
PAGES = (
    "/", "/trips", "/trips/new", "/rules", "/rules/new", "/guide", "/guide/own",
    "/guide/own/write", "/guide/techniques", "/devices", "/which-fish", "/health",
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
        """A trip on which every model has something to work out."""
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
            yield from (fish, f"{fish}/card", f"/api/v1{fish}", f"/api/v1{fish}/card")
        for piece in sorted(set(re.findall(r"/pieces/[0-9A-Z]{26}", self.page(f"{trip}/pack")))):
            yield from (piece, f"/api/v1{piece}")
        for bag in sorted(set(re.findall(r'href="(/b/[0-9A-Z]+)"', self.page(f"{trip}/freezer")))):
            yield bag

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

"""Each page has the style sheets that its parts need."""

import re
from pathlib import Path

from selectolax.lexbor import LexborHTMLParser

from lepidos.web.shell.static_files import STATIC
from tests.web.sweep import SweepTest


def selectors(sheet: Path) -> set[str]:
    """What a sheet gives a look of its own, without states such as :hover."""
    text = re.sub(r"/\*.*?\*/", "", sheet.read_text("utf-8"), flags=re.DOTALL)
    heads = (head.strip() for head in re.findall(r"([^{}]+)\{", text))
    every = (one for head in heads if not head.startswith("@") for one in head.split(","))
    # one with brackets says when, and not what
    plain = (re.sub(r"::?[\w-]+", "", one).strip() for one in every if not set("()") & set(one))
    return {one for one in plain if re.search(r"[.#][a-zA-Z][^ ]*$", one)}


def last_name(selector: str) -> str:
    """The class or id that a selector ends with."""
    return re.findall(r"[.#][a-zA-Z][\w-]*", selector)[-1]


class StyleSheetTest(SweepTest):
    def test_no_page_has_a_part_whose_sheet_it_lacks(self) -> None:
        trip = self.start_cold_trip()
        fish = self.land(trip)
        self.land(trip, "turbot", "45")
        for slot, weight in (("belly.A", "90 g"), ("fillet.A", "520 g"), ("fillet.B", "510 g")):
            self.weigh(fish, slot, weight)
        looks = {sheet.name: selectors(sheet) for sheet in STATIC.glob("*.css")}
        self.assertGreater(sum(map(len, looks.values())), 600)
        self.maxDiff = None
        checked, lacking = 0, set()
        for path in self.paths(trip, ("pollack", "turbot", "greater_weever")):
            answer = self.client.get(path)
            if "text/html" not in answer.headers.get("content-type", ""):
                continue
            checked += 1
            linked = set(re.findall(r"/static/(\w+\.css)\?", answer.text))
            # two stations may give one name a look each: then its own page's is there
            has = {last_name(one) for sheet in linked & set(looks) for one in looks[sheet]}
            tree = LexborHTMLParser(answer.text)
            for sheet in set(looks) - linked:
                for one in looks[sheet]:
                    if last_name(one) not in has and tree.css_matches(one):
                        lacking.add((re.sub(r"[0-9A-Z]{26}", "…", path), one, sheet))
        self.assertGreater(checked, 40)
        self.assertEqual(sorted(lacking), [])

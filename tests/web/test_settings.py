"""Settings, home waters, the demo's door, the round, and each page's own help."""

import re
import urllib.request
from pathlib import Path

from lepidos.guide.library import load_guide
from lepidos.web.settings.demo_door import DemoDoor
from lepidos.web.shell.help import help_texts, stops
from tests.web.client import WebTest

TEMPLATES = Path(__file__).parents[2] / "lepidos" / "web" / "templates"
# parts of pages, and pages of no person: the header alone, the API's own, a drawing for another page
NO_HELP = {"plain", "join", "trust", "base", "header", "api_docs"}


class WatersTest(WebTest):
    def offered(self) -> list[str]:
        return re.findall(r'<option value="([^"]+)">', self.client.get("/start").text)

    def test_home_waters_are_asked_once_and_put_their_fish_first(self) -> None:
        self.assertIn("Where do you fish?", self.client.get("/start").text)
        self.assertEqual(self.offered()[0], "albacore")
        answer = self.form("/settings/waters", waters="fresh_europe", back="/start")
        self.assertEqual(answer.headers["location"].split("?")[0], "/start")
        page = self.client.get("/start").text
        self.assertNotIn("Where do you fish?", page)
        self.assertEqual(self.offered()[0], "brown trout")
        self.assertLess(self.offered().index("zander"), self.offered().index("albacore"))
        self.assertIn("albacore", self.offered())  # nothing is left out

    def at_hand(self, deck: str) -> list[str]:
        """Kinds that can be landed without opening the list of all."""
        row = self.client.get(deck).text.partition("More …")[0]
        return re.findall(r'id="s-(\w+)"', row)

    def test_a_new_crew_is_asked_on_deck_where_it_fishes(self) -> None:
        """Before, its first choice was albacore, char, bonito and croaker: the alphabet's."""
        deck = f"{self.start_trip()}/deck"
        self.assertEqual(self.at_hand(deck), [])
        self.assertIn("Where do you fish?", self.client.get(deck).text)
        answer = self.form("/settings/waters", waters="north_east_atlantic", back=deck)
        self.assertEqual(answer.headers["location"].split("?")[0], deck)
        self.assertEqual(self.at_hand(deck), ["mackerel", "pollack", "cod", "european_sea_bass"])
        self.assertNotIn("Where do you fish?", self.client.get(deck).text)

    def test_without_waters_only_kinds_that_lie_there_are_at_hand(self) -> None:
        trip = self.start_trip()
        for kind, cm in (("turbot", "45"), ("ling", "90"), ("turbot", "50")):
            self.land(trip, kind, cm)
        self.assertEqual(self.at_hand(f"{trip}/deck"), ["turbot", "ling"])
        self.assertIn("Where do you fish?", self.client.get(f"{trip}/deck").text)
        self.form("/settings/waters", waters="")
        self.assertEqual(self.at_hand(f"{trip}/deck"), ["turbot", "ling"])
        self.assertNotIn("Where do you fish?", self.client.get(f"{trip}/deck").text)

    def test_what_is_often_landed_in_any_of_several_waters_comes_first(self) -> None:
        self.client.post(
            "/settings/waters",
            data={"key": self.key(), "waters": ["fresh_europe", "north_east_atlantic"]},
            headers={"origin": "http://127.0.0.1"},
        )
        place = self.offered().index
        self.assertLess(max(map(place, ("brown trout", "mackerel"))), place("rainbow trout"))
        self.assertLess(place("common carp"), place("turbot"))  # often here, met there
        self.assertLess(place("turbot"), place("albacore"))

    def test_here_and_there_is_an_answer_too(self) -> None:
        self.form("/settings/waters", waters="")
        self.assertNotIn("Where do you fish?", self.client.get("/start").text)
        self.assertEqual(self.offered()[0], "albacore")

    def test_the_guide_begins_with_what_is_met_there(self) -> None:
        def shown() -> tuple[list[str], list[str]]:
            page = self.client.get("/guide").text
            kinds = re.findall(r'<section id="kind-\d+" aria-label="([^"]+)"', page)
            return kinds, re.findall(r'href="/guide/(\w+)"', page)

        kinds, _ = shown()
        self.assertEqual(kinds[0], "Australasian table fish")
        self.form("/settings/waters", waters="north_east_atlantic")
        near, fish = shown()
        self.assertEqual(sorted(near), kinds)
        self.assertNotEqual(near[0], kinds[0])
        self.assertLess(fish.index("cod"), fish.index("pacific_cod"))
        self.assertLess(near.index("wrasses"), near.index("Australasian table fish"))

    def test_waters_that_nobody_knows_are_refused_and_nothing_is_kept(self) -> None:
        answer = self.form("/settings/waters", waters="styx")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("knows no waters “styx”", answer.text)
        self.assertIn("Where do you fish?", self.client.get("/start").text)

    def test_a_retry_keeps_the_first_answer(self) -> None:
        for _ in range(2):
            self.form("/settings/waters", key="k" * 26, waters="australasia")
        self.form("/settings/waters", waters="north_east_pacific")
        page = self.client.get("/settings").text
        self.assertRegex(page, r'value="north_east_pacific" id="\w[^"]*" checked')
        self.assertNotRegex(page, r'value="australasia" id="\w[^"]*" checked')

    def test_a_name_of_two_fish_is_that_of_the_home_waters(self) -> None:
        """Fluke is a European flounder on one side of the Atlantic and a summer flounder on the other."""
        refused = self.form("/start", species="fluke", length="40")
        self.assertEqual(refused.status_code, 422)
        for waters, kind in (
            ("north_east_atlantic", "European flounder"),
            ("north_west_atlantic", "summer flounder"),
        ):
            self.form("/settings/waters", waters=waters)
            bench = self.form("/start", species="fluke", length="40").headers["location"]
            self.assertIn(kind, self.client.get(bench).text)
        self.form("/settings/waters", waters="australasia")
        self.assertEqual(self.form("/start", species="fluke", length="40").status_code, 422)

    def test_look_alikes_of_the_home_waters_come_first(self) -> None:
        def keys() -> list[str]:
            return re.findall(r'href="/which-fish/(\w+)"', self.client.get("/which-fish").text)

        before = keys()
        self.form("/settings/waters", waters="gulf_and_caribbean")
        after = keys()
        self.assertEqual(sorted(before), sorted(after))
        self.assertLess(after.index("snappers"), after.index("gadoids"))
        self.form("/settings/waters", waters="north_east_atlantic")
        self.assertLess(keys().index("gadoids"), keys().index("snappers"))


class ZoneTest(WebTest):
    def zone_of(self, trip: str) -> str:
        return str(self.client.get(f"/api/v1{trip}").json()["timezone"])

    def test_a_zone_that_the_app_was_started_with_goes_before_the_browsers(self) -> None:
        self.client.cookies.set("zone", "Pacific%2FAuckland")
        self.assertEqual(self.zone_of(self.start_trip()), "Etc/GMT-1")

    def test_else_a_trip_is_in_the_browsers_zone_and_its_date_is_the_day_there(self) -> None:
        """At noon in UTC it is past midnight in Kiritimati, fourteen hours ahead."""
        self.app.state.settings.timezone = ""
        self.client.cookies.set("zone", "Pacific%2FKiritimati")
        self.assertIn('value="2026-07-15"', self.client.get("/trips/new").text)
        trip = self.start_trip(on_date="2026-07-15")
        self.assertEqual(self.zone_of(trip), "Pacific/Kiritimati")
        self.client.cookies.set("zone", "Atlantis%2FPort")
        self.assertEqual(self.zone_of(self.start_trip()), self.ctx.timezone)


class GuideWatersTest(WebTest):
    def test_every_fish_is_at_home_somewhere(self) -> None:
        guide = load_guide()
        at_home = frozenset().union(*(one.species for one in guide.waters.values()))
        self.assertEqual(set(guide.species) - at_home, set())

    def test_some_of_each_waters_fish_are_landed_often(self) -> None:
        for key, waters in load_guide().waters.items():
            with self.subTest(waters=key):
                self.assertGreaterEqual(len(waters.often), 4)  # as many as the deck has at hand
                self.assertEqual(len(waters.often), len(set(waters.often)))
                self.assertLessEqual(set(waters.often), waters.species)


class HelpTest(WebTest):
    def test_every_page_has_a_few_sentences_of_its_own(self) -> None:
        pages = {p.stem for p in TEMPLATES.rglob("*.html") if not p.stem.startswith("_")} - NO_HELP
        self.assertEqual(pages - set(help_texts()), set())
        self.assertEqual(set(help_texts()) - pages, set())
        self.assertIn(help_texts()["start"][0], self.client.get("/start").text)

    def test_the_round_is_only_in_the_demo(self) -> None:
        self.assertEqual([s.number for s in stops()], list(range(1, 7)))
        self.client.cookies.set("round", "2")
        self.assertNotIn("The round", self.client.get("/start").text)


class DemoDoorTest(WebTest):
    def test_the_demo_runs_beside_the_app_and_ends_with_it(self) -> None:
        door = DemoDoor("127.0.0.1", "")
        self.addCleanup(door.close)
        port = door.port()
        self.assertEqual(door.port(), port)  # one is enough
        address = f"http://127.0.0.1:{port}/"
        self.assertIn(b"Demo: all of it invented", urllib.request.urlopen(address).read())
        # nothing of it came here
        self.assertEqual(self.client.get("/").headers["location"], "/start")
        folder = Path(door._folder)
        self.assertTrue((folder / "data").exists())
        door.close()
        self.assertFalse(folder.exists())
        with self.assertRaises(OSError):
            urllib.request.urlopen(address, timeout=2)

    def test_the_way_to_it_is_on_the_first_page(self) -> None:
        self.assertIn('href="/demo"', self.client.get("/start").text)
        self.assertIn("Make it and look", self.client.get("/demo").text)

"""The deck's pages over HTTP: card, bench, rule cards, keys, ice, the queue's entries, the API."""

import re
import threading
from collections.abc import Callable
from typing import ClassVar
from unittest.mock import patch

from lepidos.stations.schedule import boards
from lepidos.web.shell.progress import WriteProgress
from tests.web.client import HOST, WebTest


class DeckPagesTest(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip(sea_c="14", air_c="18", ice_kg="40")

    def text(self, path: str) -> str:
        answer = self.client.get(path)
        self.assertEqual(answer.status_code, 200, answer.text[-400:])
        return answer.text

    def sent(self, path: str, **fields: object) -> str:
        answer = self.form(path, **fields)
        self.assertEqual(answer.status_code, 303, re.sub(r"<svg.*?</svg>", "", answer.text)[-900:])
        return str(answer.headers["location"])


class CardPageTest(DeckPagesTest):
    def test_a_warm_mackerel_is_not_called_chilled(self) -> None:
        for lies, says in (("", "not chilled yet after"), ("iced", "chilled after")):
            more = {"lies": lies} if lies else {}
            fish = self.land(self.trip, "mackerel", "37", landed_at="2026-07-14T08:00", **more)
            page = " ".join(self.text(f"{fish}/card").split())
            self.assertRegex(page, rf"of at most \d h; {says} \d\.\d h of at most 9 h", lies)

    def test_a_fishs_day_on_its_card(self) -> None:
        fish = self.land(self.trip, lies="iced", landed_at="2026-07-14T11:00")
        self.sent(f"{fish}/states", state="gutted")
        self.sent(f"{fish}/core", core="13.5")
        self.sent(f"{fish}/looks", gills="0", eyes="1", blood="0")
        page = self.text(f"{fish}/card")
        for words in (
            "Gutted <small>13:00",
            "1 probe reading is",
            "Last: 1 point of 7",
            "How cold it is",
        ):
            self.assertIn(words, page)
        location = self.sent(f"{fish}/board")
        self.assertTrue(location.startswith(f"{fish}?done="))
        self.assertIn("On the board", self.text(f"{self.trip}/deck"))

    def test_each_slip_is_shown_at_its_field(self) -> None:
        fish = self.land(self.trip, lies="iced")
        cases = [
            ("core", {"core": "85"}, "problem-core", "inside a fish"),
            ("core", {"core": "cold"}, "problem-core", "not a temperature"),
            ("core", {}, "problem-core", "does not answer"),
            ("states", {"state": "boiled"}, "problem-state", "Unknown state"),
            ("states", {"state": "iced"}, "problem-state", "on drained ice already"),
            ("looks", {}, "problem-look", "Touch what you see"),
            ("correct", {"species": "pollack", "length": "9 m"}, "problem-length", "longest known"),
            ("correct", {"species": "", "length": "68"}, "problem-species", "Choose which fish"),
        ]  # fmt: skip
        for path, fields, element, words in cases:
            with self.subTest(path=path, fields=fields):
                answer = self.form(f"{fish}/{path}", **fields)
                self.assertEqual(answer.status_code, 422)
                self.assertRegex(answer.text, f'id="{element}"[^>]*>[^<]*{words}')

    def test_a_fish_can_be_corrected_in_the_crews_units(self) -> None:
        fish = self.land(self.trip)
        self.form("/units", back="/")
        shown = re.search(r'name="length" [^>]*value="([^"]+)"', self.text(f"{fish}/card"))
        assert shown
        self.assertEqual(shown[1], "26.8 in")
        self.sent(f"{fish}/correct", species="pollack", length="27", length_type="total", weight="6 lb 8 oz",
                  landed_at="2026-07-14T12:40", hooked_at="2026-07-14T12:31")  # fmt: skip
        page = self.text(f"{fish}/card")
        self.assertIn("27.0 in total", page)
        self.assertIn("landed 12:40, hooked 12:31", page)


class QueuePageTest(DeckPagesTest):
    def arrive(self, key: str, waited_ms: int, **fields: object):
        entry = {"species": "cod", "length": "70", "lies": "iced", "bled": "on"} | fields
        return self.form(f"/live{self.trip}/fish", key=key, waited_ms=waited_ms, **entry)

    def test_an_entry_arriving_five_times_is_one_fish(self) -> None:
        answers = [self.arrive("queued-000001", 500 * n).json() for n in range(5)]
        self.assertEqual(len({a["id"] for a in answers}), 1)
        self.assertEqual([a["repeated"] for a in answers], [False, True, True, True, True])
        self.assertEqual(self.text(f"{self.trip}/deck").count('class="slab-fish"'), 1)

    def test_a_refused_entry_comes_back_with_its_fields(self) -> None:
        answer = self.arrive("queued-000002", 0, length="9000", party="nobody")
        self.assertEqual(answer.status_code, 422)
        self.assertEqual({e["field"] for e in answer.json()["errors"]}, {"length", "party"})
        self.assertEqual(self.arrive("queued-000003", -5).status_code, 422)

    def test_two_people_landing_at_once_get_two_codes(self) -> None:
        threads = [
            threading.Thread(target=self.arrive, args=(f"queued-1{n:05d}", 0)) for n in range(8)
        ]
        for t in threads:
            t.start()
        for t in threads:
            t.join()
        codes = re.findall(r'class="code">(C\d)<', self.text(f"{self.trip}/deck"))
        self.assertEqual(sorted(codes), [f"C{n}" for n in range(1, 9)])


class SlabPageTest(DeckPagesTest):
    def test_the_slab_by_urgency_species_party_and_as_a_list(self) -> None:
        self.land(self.trip, "mackerel", "37")
        self.land(self.trip, "cod", "70")
        for query, heading in (
            ("", "Cut first|Next|Can rest"),
            ("?by=species", "Cod"),
            ("?by=party", "Nobody&#39;s yet"),
        ):
            with self.subTest(query=query):
                self.assertRegex(self.text(f"{self.trip}/deck{query}"), f"<h2>({heading})")
        listed = self.text(f"{self.trip}/deck?as=list")
        self.assertEqual(listed.count('class="row-link"'), 2)
        self.assertIn("<th>Ice-days</th>", listed)
        self.assertIn("On the slab", self.text(f"{self.trip}/deck?by=%00&as=x"))

    def test_what_is_kept_of_a_fish_is_never_older_than_the_fish(self) -> None:
        """Its line on the slab is kept as long as it shows the same: after each change as if made again."""
        fish = self.land(self.trip, lies="iced", landed_at="2026-07-14T11:00")
        other = self.land(self.trip, "cod", "60")
        parties = re.findall(r'name="party" id="p-(\w+)"', self.text(f"{self.trip}/deck"))

        def correct(**fields: object) -> None:
            usual = {"species": "pollack", "length": "66", "landed_at": "2026-07-14T11:00"}
            self.sent(f"{fish}/correct", **(usual | fields))

        acts: dict[str, Callable[[], object]] = {
            "another length": correct,
            "another kind": lambda: correct(species="cod"),
            "that kind again": correct,
            "on the scale": lambda: correct(weight="3.1"),
            "whose": lambda: correct(weight="3.1", party=parties[0]),
            "another's": lambda: correct(weight="3.1", party=parties[1]),
            "the core": lambda: self.sent(f"{fish}/core", core="9.5"),
            "the other first": lambda: self.sent(
                f"{other}/place", neighbour=fish.split("/")[-1], side="before"
            ),
            "a longer fish": lambda: self.land(self.trip, "ling", "120"),
            "not bled": lambda: self.sent(f"{self.trip}/fish", species="turbot", length="45"),
            "bled": lambda: self.sent(f"{self.unbled()}/states", state="bled"),
            "in pounds": lambda: self.form("/units", back="/"),
            "on the board": lambda: self.sent(f"{fish}/board"),
            "the core again": lambda: self.sent(f"{fish}/core", core="47"),
        }
        before: list[str] = []
        for name, act in acts.items():
            with self.subTest(name):
                act()
                kept = self.slab("") + self.slab("?by=party")
                self.assertNotEqual(kept, before)
                before = self.slab("", fresh=True) + self.slab("?by=party", fresh=True)
                self.assertEqual(kept, before)

    def slab(self, by: str, fresh: bool = False) -> list[str]:
        """Each fish on the slab as it is shown, with what is kept or without."""
        if fresh:
            self.assertTrue(self.ctx.memo._kept.pop("slab fish"))
        return re.findall(r"<li data-fish.*?</li>", self.text(f"{self.trip}/deck{by}"))

    def unbled(self) -> str:
        (found,) = re.findall(r'"(/fish/\w+)/card"[^>]*>(?:(?!</li>).)*class="press"',
                              " ".join(self.slab("")))  # fmt: skip
        return str(found)

    def test_the_gauges_are_on_every_page(self) -> None:
        fish = self.land(self.trip)
        for path in (f"{self.trip}/deck", f"{self.trip}/table", fish, f"{fish}/card", f"{self.trip}/pack",
                     f"{self.trip}/freezer", f"{self.trip}/yieldbook", "/guide", "/rules", "/which-fish",
                     f"{self.trip}/ice", "/devices"):  # fmt: skip
            with self.subTest(path=path):
                page = self.text(path)
                for name in (
                    "Fish left",
                    "Round weight",
                    "Ice left / needed",
                    "Table clears",
                    "Last, 13:00",
                ):
                    self.assertIn(f"<dt>{name}</dt>", page)

    def test_a_pasted_table_is_checked_like_a_file(self) -> None:
        answer = self.form(f"{self.trip}/import", text="species,length_cm\ncod,70\nmermaid,160")
        self.assertIn("1 row can be landed, 1 cannot", answer.text)


class BenchPageTest(DeckPagesTest):
    def test_boards_parties_and_places_by_plain_forms(self) -> None:
        fish = [self.land(self.trip, length=str(60 + n)) for n in range(4)]
        self.sent(f"{self.trip}/boards", cutter="Ines")
        page = self.text(f"{self.trip}/table")
        board = re.search(r"/boards/([0-9A-Z]{26})", page)
        party = re.search(r"/parties/([0-9A-Z]{26})", page)
        assert board
        assert party
        self.sent(f"{self.trip}/boards/{board[1]}", break_from="13:30", break_to="13:45")
        self.sent(f"{self.trip}/parties/{party[1]}", leaves_at="16:00", together="on")
        order = re.findall(r"/fish/[0-9A-Z]{26}/place", page)
        self.sent(order[-1], board=board[1])
        page = self.text(f"{self.trip}/table")
        self.assertIn("break 13:30 to 13:45", page)
        self.assertIn("Let 1 held fish go", page)
        self.sent(f"{self.trip}/places/free")
        self.assertNotIn("held fish", self.text(f"{self.trip}/table"))
        self.sent(f"{fish[0]}/board", board=board[1])
        self.assertIn("On the board now.", self.text(f"{self.trip}/table"))
        while 'class="how"' not in (plain := self.text(fish[0])):  # steps that need no help
            step = re.search(r'name="step" value="(\w+)"', plain)
            assert step
            self.sent(f"{fish[0]}/steps", step=step[1])
        self.sent(f"{self.trip}/boards/{board[1]}", hands="1", left_handed="1", first_time="1")
        turned = self.text(fish[0])
        self.assertRegex(
            turned, r'<g transform="translate\(1000 0\) scale\(-1 1\)"><g transform=""'
        )
        self.assertRegex(turned, r'class="how"[^>]* open>')
        self.assertNotRegex(plain, r'class="how"[^>]* open>')
        places = [float(x) for x in re.findall(r'class="caption" x="(\d+)"', plain)]
        there = [float(x) for x in re.findall(r'class="caption" x="(\d+)"', turned)]
        self.assertEqual([1000 - x for x in places], there)
        wrong = self.form(f"{self.trip}/boards/{board[1]}", break_from="15:00", break_to="14:00")
        self.assertRegex(wrong.text, 'id="problem-break_to"[^>]*>The break ends before')
        wrong = self.form(f"{self.trip}/boards/{board[1]}", opens_at="noon")
        self.assertRegex(wrong.text, 'id="problem-opens_at"[^>]*>Give a time')

    def test_a_place_from_the_slab_goes_back_to_the_slab(self) -> None:
        self.land(self.trip)
        last = self.land(self.trip, length="60")
        self.assertIn("/deck?done=", self.sent(f"{last}/place", **{"from": "deck"}))

    def test_the_page_says_honestly_what_the_order_is(self) -> None:
        self.land(self.trip)
        self.assertIn("Proven: no order has less lateness.", self.text(f"{self.trip}/table"))
        many = boards.MAX_BOARDS * 4
        for n in range(many):
            self.land(self.trip, length=str(50 + n), landed_at="2026-07-14T08:00")
        page = self.text(f"{self.trip}/table")
        self.assertRegex(page, r"fish will be late|All in time")
        self.assertRegex(page, "Proven:|looking for a better order|The best found, not proven")


class RulePageTest(DeckPagesTest):
    CARD: ClassVar = {"species": "pollack", "area": "Skarrow Bay", "source": "invented", "checked_on": "2026-07-01",
            "min_cm": "57", "per_person": "2", "season_from": "1.6", "season_to": "31.8"}  # fmt: skip

    def test_a_card_is_written_changed_and_thrown_away(self) -> None:
        self.sent("/rules", **self.CARD)
        self.land(self.trip, length="50")
        page = self.text("/rules")
        for words in ("57.0 cm", "Season 1.6. to 31.8.", "1 of 2"):
            self.assertIn(words, page)
        card = re.search(r"/rules/[0-9A-Z]{26}", page)
        assert card
        self.assertIn('value="57.0 cm"', self.text(card[0]))
        self.sent(card[0], **(self.CARD | {"min_cm": "22 in", "skin_patch": "on"}))
        self.assertIn("55.9 cm", self.text("/rules"))
        self.sent(f"{card[0]}/remove")
        self.assertIn("No card yet", self.text("/rules"))
        self.assertEqual(self.client.get(card[0]).status_code, 404)

    def test_a_minimum_over_the_maximum_is_said_at_the_field(self) -> None:
        cases = [
            ({"max_cm": "40"}, "max_cm", "below the smallest"),
            ({"season_to": "31.2"}, "season_to", "day and month"),
            ({"season_to": ""}, "season_to", "first and the last day"),
            ({"checked_on": "2027-01-01"}, "checked_on", "still to come"),
            ({"species": ""}, "species", "Choose which fish"),
            ({"per_person": "-2"}, "per_person", "whole number"),
            ({"min_cm": "long"}, "min_cm", "not a length"),
        ]
        for change, field, words in cases:
            with self.subTest(field=field):
                answer = self.form("/rules", **(self.CARD | change))
                self.assertEqual(answer.status_code, 422)
                self.assertRegex(answer.text, f'id="problem-{field}"[^>]*>[^<]*{words}')
        self.assertIn("No card yet", self.text("/rules"))

    def test_a_landing_beyond_a_limit_is_landed_and_asked_about(self) -> None:
        self.sent("/rules", **self.CARD)
        location = self.sent(f"{self.trip}/fish", species="pollack", length="50")
        page = self.text(location)
        self.assertRegex(
            page, r"50\.0 cm total length, under the card&#39;s smallest size, 57\.0 cm"
        )
        self.assertNotRegex(page.lower(), r"\blegal\b")


class KeyPageTest(DeckPagesTest):
    def test_answers_narrow_the_list_to_one_and_end_in_the_protected_one(self) -> None:
        self.assertIn("Cod and its kin", self.text("/which-fish"))
        path, seen = "/which-fish/gadoids", 9
        for _ in range(6):
            page = self.text(path)
            self.assertIn("If in doubt, treat it as the protected one", page)
            left = page.count('class="candidate"')
            self.assertLessEqual(left, seen)
            seen = left
            following = re.findall(r'class="answer" href="([^"]+)"', page)
            if not following:
                break
            path = following[-1].replace("&amp;", "&")
        self.assertEqual(seen, 1)
        self.assertIn("The answers leave one", page)

    def test_what_the_key_does_not_know_is_said(self) -> None:
        self.assertEqual(self.client.get("/which-fish/mermaids").status_code, 404)
        self.assertEqual(self.client.get("/which-fish/gadoids?a=body.nine").status_code, 422)
        many = "&".join(["a=body.two"] * 40)
        self.assertEqual(self.client.get(f"/which-fish/gadoids?{many}").status_code, 422)
        self.assertIn(
            "fits all the answers", self.text("/which-fish/gadoids?a=body.two&a=barbel.none")
        )


class IcePageTest(DeckPagesTest):
    def test_ice_seen_and_the_run_home(self) -> None:
        self.land(self.trip)
        self.sent(f"{self.trip}/ice", seen_kg="12")
        self.sent(
            f"{self.trip}/conditions",
            sea_c="14",
            air_c="20",
            ice_kg="40",
            box_w_per_k="2,5",
            home_at="2026-07-14T18:00",
        )
        page = self.text(f"{self.trip}/ice")
        self.assertIn("aboard at first <strong>12 kg</strong>", page)
        self.assertIn('value="2.5"', page)
        for fields, field in (
            ({"box_w_per_k": "900"}, "box_w_per_k"),
            ({"sea_c": "85"}, "sea_c"),
            ({"box_w_per_k": "x"}, "box_w_per_k"),
        ):
            answer = self.form(f"{self.trip}/conditions", **fields)
            self.assertIn(f'id="problem-{field}"', answer.text)
        self.assertIn("problem-seen_kg", self.form(f"{self.trip}/ice", seen_kg="-3").text)
        self.assertIn("Give the ice", self.form(f"{self.trip}/ice").text)

    def test_the_stand_in_probe_has_a_panel(self) -> None:
        fish = self.land(self.trip, lies="iced")
        self.form("/devices/probe", do="set", tip="12.5")
        self.sent(f"{fish}/core")
        self.assertIn("<strong>12.5 °C</strong> by probe", self.text(f"{fish}/card"))
        self.assertRegex(self.form("/devices/probe", do="set", tip="900").text, "−60 to 150")
        self.assertRegex(self.form("/devices/probe", do="set").text, "Give a temperature")
        self.form("/devices/probe", do="off")
        self.assertIn("Switched off", self.text("/devices"))


class ProgressTest(WebTest):
    def test_a_long_file_says_how_far_it_is(self) -> None:
        rows = "".join(f"pollack,{40 + n / 10}\n" for n in range(60))
        fields = {"accept": "1", "text": f"species,length_cm\n{rows}", "key": "import-progress-01"}
        seen: list[tuple[int, int]] = []
        told = WriteProgress.teller

        def watched(self: WriteProgress, key: str) -> Callable[[int, int], None]:
            tell = told(self, key)

            def both(done: int, of: int) -> None:
                tell(done, of)
                seen.append((done, of))

            return both

        with patch.object(WriteProgress, "teller", watched):
            self.client.post(f"{self.start_trip()}/import", data=fields)
        self.assertEqual(seen, [(25, 60), (50, 60), (60, 60)])
        said = self.client.get("/live/progress/import-progress-01").json()
        self.assertEqual(said, {"done": 60, "of": 60})
        self.assertEqual(self.client.get("/live/progress/unknown").json(), {"done": 0, "of": 0})


class ApiTest(DeckPagesTest):
    def send(self, method: str, path: str, **body: object):
        headers = {"idempotency-key": self.key(), "origin": HOST}
        return self.client.request(method, f"/api/v1{path}", json=body or None, headers=headers)

    def test_the_deck_over_the_api(self) -> None:
        fish = [self.land(self.trip, length=str(60 + n)) for n in range(3)]
        for path, body in (
            ("states", {"state": "slurry"}),
            ("core", {"celsius": 13.0}),
            ("looks", {"points": {"eyes": 1}}),
        ):
            answer = self.send("POST", f"{fish[0]}/{path}", **body)
            self.assertEqual(answer.status_code, 201, answer.text)
        found = self.client.get(f"/api/v1{fish[0]}/card").json()
        self.assertEqual((found["lies"], len(found["readings"])), ("slurry", 1))
        self.assertEqual(len(found["cold"]["curve_c"]), len(found["cold"]["hours"]))
        board = self.send("POST", f"{self.trip}/boards", cutter="Ines").json()["id"]
        self.send("POST", f"{fish[2]}/place", board_id=board)
        order = self.client.get(f"/api/v1{self.trip}/order").json()
        self.assertEqual(order["places"][0]["fish_id"], fish[2].removeprefix("/fish/"))
        self.assertTrue(order["places"][0]["held"])
        self.assertEqual(
            self.send("DELETE", f"{self.trip}/places").json()["sentence"], "1 fish let go"
        )
        self.assertEqual(self.send("POST", f"{fish[2]}/board", board_id=board).status_code, 201)
        self.assertEqual(self.send("POST", f"{self.trip}/ice", seen_kg=9).status_code, 201)
        self.assertAlmostEqual(
            self.client.get(f"/api/v1{self.trip}").json()["gauges"]["ice_left_kg"], 9.0, delta=1e-3
        )

    def test_rule_cards_over_the_api(self) -> None:
        card: dict[str, object] = {"species": "cod", "area": "Skarrow Bay", "source": "invented",
                                   "checked_on": "2026-07-01", "per_boat": 3, "season_from": [6, 1], "season_to": [8, 31]}  # fmt: skip
        made = self.send("POST", "/rules", **card)
        self.assertEqual(made.status_code, 201, made.text)
        path = f"/rules/{made.json()['id']}"
        self.send("PUT", path, **(card | {"per_boat": 5}))
        (listed,) = self.client.get(f"/api/v1/rules?trip_id={self.trip.rpartition('/')[2]}").json()
        self.assertEqual(listed["tallies"]["boat"], {"who": "the boat", "kept": 0, "limit": 5})
        wrong = self.send("POST", "/rules", **(card | {"area": "x", "min_cm": 60, "max_cm": 50}))
        self.assertEqual(wrong.json()["errors"][0]["field"], "max_cm")
        self.assertEqual(self.send("DELETE", path).status_code, 200)
        self.assertEqual(self.client.get("/api/v1/rules").json(), [])

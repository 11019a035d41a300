"""The bench in Chromium: a day of every kind at two boards, an outage, gloves, pedals, cues."""

import json
import re
import tomllib
import urllib.request
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import urlsplit

from playwright.sync_api import Page, Route, expect
from playwright.sync_api import TimeoutError as NotThere

from lepidos.core.cutting.model import FishToCut
from lepidos.core.cutting.plan import plan_cut
from lepidos.core.yields.balance import expected_slots
from lepidos.demo.scenario import SCENARIO
from lepidos.guide.library import load_guide
from lepidos.web.shell.static_files import script_url
from tests.amount import much
from tests.browser.chromium import LAPTOP, PHONE
from tests.browser.test_deck import DeckTest

TABLET = {"width": 1024, "height": 768}
GUIDE = load_guide()
MAX_OF_A_KIND = much(99, 1)


def demo_day() -> list[dict[str, object]]:
    """The fish of the demo's day that is going on, in the order they were landed."""
    trips = tomllib.loads(Path(SCENARIO).read_text("utf-8"))["trips"]
    return next(t for t in trips if t["days_ago"] == 0)["fish"]


def likely(species_key: str, kg: float) -> dict[str, float]:
    """What each piece of a fish weighs at the guide's means [kg]."""
    species = GUIDE.one(species_key)
    row = species.length_weight
    length_m = (kg * 1000 / row.a) ** (1 / row.b) / 100
    plan = GUIDE.plan_of(species)
    cut = plan_cut(FishToCut(kg, length_m), species, plan, GUIDE.pieces, GUIDE.methods)
    found = expected_slots(kg, species, plan, cut, GUIDE.pieces)
    return {key: round(e.value, 3) for key, e in found.items()}


class SessionTest(DeckTest):
    def lay(self, kg: float) -> None:
        """Put a mass on the stand-in's pan, as the panel does."""
        request = urllib.request.Request(
            f"{self.server.base}/api/v1/scale/stand-in", method="PUT",
            data=json.dumps({"load_kg": kg}).encode(), headers={"content-type": "application/json"},
        )  # fmt: skip
        urllib.request.urlopen(request, timeout=10).read()

    def land_one(self, page: Page, species: str, cm: object, kg: object) -> None:
        label = page.locator(f"label[for='s-{species}']")
        for last in (False, False, True):
            if not label.is_visible():
                page.get_by_text("More …").click()
            try:  # the landing before moves its fish to the front meanwhile
                label.click(timeout=30_000 if last else 4_000)
                break
            except NotThere:
                if last:
                    raise
        page.locator("#length").fill(str(cm))
        page.locator("#weight").fill(str(kg) if kg else "")
        page.get_by_role("button", name="Land it").click()

    def boards(self, page: Page, trip: str, *names: str) -> list[str]:
        for name in names:
            page.goto(f"{trip}/table")
            page.get_by_label("Add a cutter").fill(name)
            page.get_by_role("button", name="Take a board").click()
            expect(page.locator(".lane h2", has_text=name)).to_be_visible()
        return [
            str(form.get_attribute("action")).removesuffix("/mine")
            for form in page.locator("form[action$='/mine']").all()
        ]

    def take(self, page: Page, kg: float, name: str | None = None) -> str:
        """Type a weight and touch its piece; the slot."""
        button = (
            page.locator("#b-take")
            if name is None
            else page.get_by_role("button", name=name, exact=True)
        )
        slot = str(button.get_attribute("value"))
        page.locator("#weight").fill(f"{kg:.3f}")
        button.click()
        # the machine is shared and at times slow
        expect(page.locator(f"#bench-take button[value='{slot}']")).to_have_count(0, timeout=20_000)
        # the button goes on before the server has answered
        page.wait_for_function(
            "() => Object.keys(localStorage).filter((name) => name.startsWith('lepidos.waiting/')).length === 0",
            timeout=20_000,
        )
        return slot

    def bench(
        self,
        size: dict[str, int] = LAPTOP,
        species: str = "pollack",
        cm: float = 68,
        kg: float | None = 2.91,
        **more: object,
    ) -> Page:
        """A fish on Ines' board."""
        page = self.open(size, **more)
        trip = self.trip(page)
        self.land_one(page, species, cm, kg)
        expect(page.locator("#gauges dd").first).to_contain_text("1 of 1")
        (board,) = self.boards(page, trip, "Ines")
        page.goto(board)
        page.locator("#b-next").click()
        page.wait_for_url(re.compile("/fish/"))
        return page


class DayTest(SessionTest):
    def land_all(self, trip: str, fish: list[dict[str, object]]) -> None:
        """One after another by the API: the landing panel's own day is in test_deck."""
        for n, one in enumerate(fish):
            body = {key: one[key] for key in ("species", "length_cm", "weight_kg") if one.get(key)}
            asked = urllib.request.Request(
                f"{self.server.base}/api/v1{urlsplit(trip).path}/fish", json.dumps(body).encode(),
                {"content-type": "application/json", "idempotency-key": f"land-all-{n:04d}"},
            )  # fmt: skip
            urllib.request.urlopen(asked, timeout=30).read()

    def work(
        self,
        page: Page,
        board: str,
        weights: dict[str, dict[str, float]],
        seen: list[str],
        typed: dict[str, float],
    ) -> Iterator[None]:
        """One cutter's day: next fish, every piece the plan asks for, finish, next fish."""
        page.goto(board)
        while page.locator("#b-next").count():
            page.locator("#b-next").click()
            page.wait_for_url(re.compile("/fish/"))
            if page.get_by_text("by now; take the next one").count():
                page.goto(board)  # the other hand was quicker
                continue
            code = page.locator("h1").inner_text().split(" ")[0]
            seen.append(code)
            yield
            while page.locator("#b-disarmed").count():
                words = page.locator("#b-disarmed").inner_text()
                page.locator("#b-disarmed").click()
                expect(page.locator("#b-disarmed", has_text=words)).to_have_count(0)
                page.wait_for_timeout(700)  # a press within 0.6 s of the last is a knock
                yield
            while page.locator("#b-take:visible").count():
                slot = str(page.locator("#b-take").get_attribute("value"))
                kg = weights[code].get(slot, 0.02)
                self.take(page, kg)
                typed[code] = typed.get(code, 0.0) + round(kg, 3)
                yield
            page.locator("#b-finish").click()
            expect(page.get_by_role("heading", name=f"{code} is finished")).to_be_visible()
            yield

    def test_a_day_of_every_kind_at_two_boards(self) -> None:
        """One of each kind; the whole day's 29 at night."""
        seen: Counter[str] = Counter()
        fish = []
        for row in demo_day():
            kind = str(row["species"])
            if seen[kind] < MAX_OF_A_KIND:
                fish.append(row)
                seen[kind] += 1
        self.assertGreaterEqual(len(fish), 8)
        one, two = self.open(LAPTOP), self.open(TABLET)
        trip = self.trip(one)
        self.land_all(trip, fish)
        codes: dict[str, int] = {}
        weights: dict[str, dict[str, float]] = {}
        for row in fish:
            species = GUIDE.one(str(row["species"]))
            codes[species.key] = codes.get(species.key, 0) + 1
            pieces = dict(row.get("pieces", {})) if row.get("finished") else {}
            kg = float(row.get("weight_kg") or 0.3)
            weights[f"{species.code}{codes[species.key]}"] = {**likely(species.key, kg), **pieces}
        ines, tobias = self.boards(one, trip, "Ines", "Tobias")
        done: list[str] = []
        typed: dict[str, float] = {}
        hands = [
            self.work(page, board, weights, done, typed)
            for page, board in ((one, ines), (two, tobias))
        ]
        for hand in hands:
            next(hand)
        # while both work: each sees the other
        next(hands[0])
        expect(two.locator("#bench-session .neighbour")).to_contain_text("off")
        while hands:
            for hand in list(hands):
                if next(hand, "home") == "home":
                    hands.remove(hand)
        self.assertEqual(len(done), len(fish))
        self.assertEqual(len(set(done)), len(fish))
        one.goto(f"{trip}/table")
        expect(one.get_by_text(f"{len(fish)} fish finished:")).to_be_visible()
        expect(one.locator("#gauges dd").first).to_contain_text(f"0 of {len(fish)}")
        # every gram: what the yield book holds is what was typed
        one.goto(f"{trip}/yieldbook")
        book = json.loads(
            urllib.request.urlopen(
                f"{self.server.base}/api/v1{trip.removeprefix(self.server.base)}/yieldbook"
            ).read()
        )
        self.assertEqual(len(book["fish"]), len(fish))
        for row in book["fish"]:
            self.assertAlmostEqual(row["weighed_kg"], typed[row["code"]], places=6)
        one.goto(f"{trip}/waste")
        expect(one.get_by_role("heading", name="Not decided yet")).to_be_visible()
        self.assert_accessible(one)


class BenchTest(SessionTest):
    def steady(self, page: Page, kg: float) -> None:
        self.lay(kg)
        page.evaluate(
            "async (url) => { window.bench = await import(url); }", script_url("scale.js")
        )
        page.wait_for_function(
            "kg => { const shows = window.bench.display();"
            " return shows?.steady && Math.abs(shows.kg - kg) < 0.0025; }",
            arg=kg,
        )

    def test_scale_keys_pedal_and_no_double_take(self) -> None:
        page = self.bench()
        page.locator("h1").click()
        self.steady(page, 0.401)
        page.keyboard.press("Space")
        expect(page.locator(".panel .said")).to_contain_text("P1 gut: 40")
        # the same load again, by pedal and by touch: said, and not booked
        page.wait_for_timeout(700)
        page.keyboard.press("PageDown")
        expect(page.locator(".panel .said")).to_contain_text("taken already")
        expect(page.locator("#bench-went")).to_contain_text("1 weighing")
        self.steady(page, 0.0)
        self.steady(page, 0.091)
        page.keyboard.press("PageDown")
        expect(page.locator(".panel .said")).to_contain_text("P1 belly A: 9")
        page.keyboard.press("z")
        expect(page.locator("[role=status]").first).to_contain_text("belly A undone")
        # what lies there may be taken again, as this piece or another
        page.wait_for_timeout(700)
        page.keyboard.press("Space")
        expect(page.locator(".panel .said")).to_contain_text("P1 belly A: 9")
        page.keyboard.press("z")
        expect(page.locator("[role=status]").first).to_contain_text("belly A undone")
        # in one tray: what comes on counts
        page.keyboard.press("i")
        self.steady(page, 0.0)
        self.steady(page, 0.090)
        page.keyboard.press("Space")
        expect(page.locator(".panel .said")).to_contain_text("P1 belly A: ")
        self.steady(page, 0.181)
        page.wait_for_timeout(700)
        page.keyboard.press("Space")
        expect(page.locator(".panel .said")).to_contain_text(
            re.compile(r"P1 belly B: (89|90|91|92) g")
        )
        # a zone of the drawing takes another piece
        page.keyboard.press("i")
        self.steady(page, 0.0)
        self.steady(page, 0.585)
        page.wait_for_timeout(700)
        page.locator(".bench-drawing .zone-fillet").dispatch_event("click")
        expect(page.locator(".panel .said")).to_contain_text("P1 fillet ")
        self.lay(0.0)
        page.keyboard.press("w")
        expect(page.locator("#b-wait")).to_contain_text("Go on")

    def test_a_slow_press_is_not_lost_when_the_page_looks_again_meanwhile(self) -> None:
        page = self.bench()
        page.locator("#weight").fill("0.4")
        box = page.locator("#b-take").bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 30, box["y"] + 20)
        page.mouse.down()
        page.evaluate("url => import(url).then((live) => live.refresh())", script_url("live.js"))
        page.wait_for_timeout(300)
        page.mouse.up()
        expect(page.locator(".panel .said")).to_contain_text("P1 gut: 400 g")
        expect(page.locator("#bench-take")).to_contain_text("Take as belly A", use_inner_text=True)

    def test_a_page_that_was_asked_for_before_a_take_does_not_offer_its_piece_again(self) -> None:
        page = self.bench()

        held: list[Route] = []
        page.evaluate(
            "window.offered = []; document.addEventListener('lepidos:fresh', () =>"
            " window.offered.push(document.getElementById('b-take').value))"
        )
        address = re.compile(re.escape(page.url.split("?")[0]))
        page.route(address, lambda route: held.append(route), times=1)
        page.evaluate(
            "url => void import(url).then((live) => live.refresh())", script_url("live.js")
        )
        page.wait_for_timeout(300)
        (route,) = held
        stale = route.fetch()
        page.locator("#weight").fill("0.4")
        page.locator("#b-take").click()
        expect(page.locator(".panel .said")).to_contain_text("P1 gut: 400 g")
        self.assertEqual(page.evaluate("window.offered"), [])
        route.fulfill(response=stale)
        expect(page.locator("#bench-went")).to_contain_text("1 weighing", timeout=10_000)
        offered = page.evaluate("window.offered")
        self.assertGreaterEqual(len(offered), 2)
        self.assertEqual(set(offered), {"belly.A"})

    def test_a_question_is_put_and_answered_with_a_touch(self) -> None:
        page = self.bench()
        page.locator("#weight").fill("5.8")
        page.get_by_role("button", name="Fillet A", exact=True).click()
        question = page.locator(".question").first
        expect(question).to_contain_text("decimal point")
        self.assert_accessible(page)
        question.get_by_role("button", name="It is 580 g").click()
        expect(page.locator(".question")).to_have_count(0)
        expect(page.locator("#bench-went .strip-key")).to_contain_text("fillets 580 g")

    def test_a_slip_is_told_at_its_field(self) -> None:
        page = self.bench()
        weight = page.locator("#weight")
        weight.fill("heavy")
        page.locator("#b-take").click()
        expect(weight).to_have_attribute("aria-invalid", "true")
        expect(weight).to_have_value("heavy")
        expect(page.locator("#weigh .field-problem")).to_contain_text("heavy")
        self.assert_accessible(page)
        weight.fill("0.4")
        page.locator("#b-take").click()
        expect(page.locator("#bench-went")).to_contain_text("1 weighing")
        expect(page.locator("#weigh .field-problem")).to_have_count(0)
        page.locator("#d-worms summary").click()
        number = page.get_by_label("How many")
        for wrong in ("0", "many"):
            number.fill(wrong)
            page.get_by_role("button", name="Tail end", exact=True).click()
            expect(number).to_have_attribute("aria-invalid", "true")
            expect(number).to_have_value(wrong)
            expect(page.locator("#d-worms .field-problem")).to_have_count(1)
            self.assert_accessible(page)
            page.wait_for_timeout(700)
        number.fill("2")
        page.get_by_role("button", name="Tail end", exact=True).click()
        expect(page.locator("#bench-seen")).to_contain_text("Worms, 2, tail end.")
        expect(page.locator("#d-worms .field-problem")).to_have_count(0)

    def test_seen_fates_and_the_days_list(self) -> None:
        page = self.bench(PHONE, has_touch=True)
        self.door(page, "Seen")
        page.locator("#d-worms summary").click()
        page.get_by_label("How many").fill("3")
        page.get_by_role("button", name="Tail end").click()
        expect(page.locator("#bench-seen")).to_contain_text("Worms, 3, tail end.")
        expect(page.locator("#bench-now")).to_contain_text("Over the light")
        self.door(page, "Pieces")
        self.take(page, 0.35, "Frame")
        self.door(page, "So far")
        page.get_by_role("button", name=re.compile("^Stock")).click()
        expect(page.locator("#bench-fates")).to_contain_text("Gills out before the pot")
        self.assert_accessible(page)
        self.assert_fits(page)
        page.get_by_role("link", name="The day's list").click()
        expect(page.get_by_role("heading", name="Stock")).to_be_visible()

    def test_gloves_big_numbers_lock_and_sound(self) -> None:
        page = self.bench(PHONE, has_touch=True)
        page.keyboard.press("b")
        expect(page.locator("body")).to_have_class(re.compile(r"\bbig\b"))
        tall = page.locator("[data-shown]").evaluate("e => e.getBoundingClientRect().height")
        self.assertGreater(tall, 90)
        self.assert_fits(page)
        self.take(page, 0.4)
        expect(page.locator("body")).to_have_class(re.compile(r"\bbig\b"))
        page.keyboard.press("b")
        page.keyboard.press("l")
        splash = page.locator("dialog.splash")
        expect(splash).to_be_visible()
        page.keyboard.press("Space")
        splash.get_by_role("button").click()
        expect(splash).to_be_visible()  # a knock does not open it
        box = splash.get_by_role("button").bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 20, box["y"] + 20)
        page.mouse.down()
        page.wait_for_timeout(1200)
        page.mouse.up()
        expect(splash).to_be_hidden()
        expect(page.locator("#bench-went")).to_contain_text("1 weighing")
        # the take is under the thumb wherever the page is scrolled to
        page.mouse.wheel(0, 2500)
        take = page.locator("#b-take").bounding_box()
        assert take is not None
        self.assertTrue(0 < take["y"] < PHONE["height"] - 64)
        self.assertGreaterEqual(take["height"], 60)

    def test_on_a_phone_the_number_and_what_was_said_stay_in_sight(self) -> None:
        page = self.bench(PHONE, has_touch=True)
        mini = page.locator("#bench-take [data-mini]")
        expect(mini).to_have_text(re.compile(r"^-?\d"))
        page.mouse.wheel(0, 2500)
        page.wait_for_timeout(300)
        for kg, words, taken in (
            ("90", "more than 20 times", "0 g of"),
            ("0.4", "P1 gut: 400 g", "400 g of"),
        ):
            page.locator("#weight").fill(kg, force=True)
            page.locator("#b-take").click()
            said = page.locator(".panel .said")
            expect(said).to_contain_text(words)
            expect(said).to_be_in_viewport(ratio=1)
            expect(page.locator("#bench-went .head")).to_contain_text(taken)
            expect(mini).to_have_text(re.compile(r"^-?\d"))
            # nothing lies over the button that takes
            box, take = said.bounding_box(), page.locator("#b-take").bounding_box()
            assert box is not None
            assert take is not None
            self.assertLessEqual(box["y"] + box["height"], take["y"] + 1)
            self.assert_accessible(page)

    def test_the_bench_in_both_themes_and_three_sizes(self) -> None:
        """A fish before its first weighing; test_pages looks at one amid its work."""
        page = self.bench(LAPTOP)
        for theme in ("day", "night"):
            for size in (LAPTOP, TABLET, PHONE):
                page.set_viewport_size(size)
                with self.subTest(size=size["width"], theme=theme):
                    self.assert_accessible(page)
                    self.assert_fits(page)
            page.set_viewport_size(LAPTOP)
            if theme == "day":
                page.get_by_role("button", name="Night").click()
                expect(page.locator("html")).to_have_attribute("data-bs-theme", "dark")

    def test_without_scripts_the_forms_still_work(self) -> None:
        page = self.bench()
        here = page.url
        plain = self.open(LAPTOP, java_script_enabled=False)
        plain.goto(here)
        plain.locator("#weight").fill("0.4")
        plain.locator("#b-take").click()
        expect(plain.locator("#main")).to_contain_text("P1 gut: 400 g")


class OutageTest(SessionTest):
    may_lose_the_server = True

    def test_weighings_wait_for_the_server_and_arrive_once(self) -> None:
        page = self.bench()
        self.take(page, 0.4)
        self.server.kill()
        for name, kg in (
            ("Belly A", 0.09),
            ("Belly B", 0.09),
            ("Fillet A", 0.58),
            ("Collar A", 0.05),
        ):
            page.locator("#weight").fill(f"{kg}")
            button = page.locator(
                f"#bench-pieces button:text-is('{name}'), #bench-take button:has-text('{name[0].lower()}{name[1:]}')"
            )
            button.first.click()
            page.wait_for_timeout(700)
        expect(page.get_by_text(re.compile(r"^4 on the way: .*Kept here"))).to_be_visible()
        expect(page.locator(".lamp")).to_have_text("no answer")
        self.server.start("2026-07-14T12:40:00+00:00")
        expect(page.locator("#bench-went")).to_contain_text("5 weighings", timeout=20_000)
        expect(page.locator("#bench-went .strip-key")).to_contain_text("fillets 580 g")
        expect(page.get_by_text("on the way")).to_be_hidden()
        expect(page.locator(".lamp")).to_have_text("steady")

    def test_a_whole_fish_is_worked_while_the_server_is_away(self) -> None:
        page = self.bench(PHONE, has_touch=True)
        take = page.locator("#b-take")
        self.server.kill()
        # the main button goes on from piece to piece by itself
        named = []
        for kg in (0.35, 0.09, 0.58, 0.05):
            named.append(str(take.get_attribute("value")))
            page.locator("#weight").fill(f"{kg}")
            take.click()
        self.assertEqual(len(set(named)), 4)
        self.door(page, "Seen")
        page.locator("#d-worms summary").click()
        page.get_by_label("How many").fill("3")
        page.get_by_role("button", name="Tail end").click()
        page.locator("#b-wait").click()
        page.wait_for_timeout(700)
        page.locator("#b-wait").click()
        expect(page.get_by_text("That is on its way already.")).to_be_visible()
        page.locator("#b-done").click()
        expect(
            page.get_by_text(re.compile(r"^7 on the way: .*, Worms: Tail end, Wait, Done"))
        ).to_be_visible()
        self.assertIn("/fish/", page.url)
        self.server.start("2026-07-14T12:40:00+00:00")
        expect(page.locator("#bench-went")).to_contain_text("4 weighings", timeout=20_000)
        expect(page.locator("#bench-seen")).to_contain_text("Worms, 3, tail end.", timeout=20_000)
        expect(page.locator("#b-wait")).to_contain_text("Go on")
        expect(page.get_by_text("on the way")).to_be_hidden()
        self.assertNotIn(take.get_attribute("value"), named)
        self.assert_accessible(page)
        # the finish waits as well, and then shows the finished fish
        self.server.kill()
        page.locator("#b-finish").click()
        expect(page.get_by_text(re.compile(r"^1 on the way: Finish"))).to_be_visible()
        self.server.start("2026-07-14T13:10:00+00:00")
        finished = page.get_by_role("heading", name="P1 is finished")
        expect(finished).to_be_visible(timeout=20_000)
        page.get_by_role("button", name=re.compile("^Undo")).first.click()
        expect(page.locator("#b-finish")).to_be_visible()
        expect(take).to_be_visible()

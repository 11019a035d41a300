"""Deck and bench on a phone: one screen, doors that close by themselves, and how many touches a job takes."""

import re
import shutil
import subprocess
import unittest
from typing import ClassVar

from playwright.sync_api import Locator, Page, expect

from tests.browser.chromium import LAPTOP, PHONE
from tests.browser.test_session import SessionTest

ON_ITS_SIDE = {"width": 844, "height": 390}


class OneScreenTest(SessionTest):
    def still(self, page: Page) -> None:
        """The page does not scroll."""
        tall = page.evaluate("document.documentElement.scrollHeight - window.innerHeight")
        self.assertLessEqual(tall, 0)

    def test_upright_and_on_its_side_everything_of_a_cut_is_in_sight(self) -> None:
        page = self.bench(PHONE, has_touch=True)
        for size in (PHONE, ON_ITS_SIDE):
            page.set_viewport_size(size)
            for part in ("h1", ".clock", "#b-wait", ".now-step h2", "#b-done", ".bench-drawing",
                         "#bench-take .mini", "#b-take", "#weight", ".doors"):  # fmt: skip
                expect(page.locator(part).first).to_be_in_viewport(ratio=0.99)
            self.still(page)

    def test_a_door_opens_by_touch_and_closes_by_itself_by_the_same_touch_and_by_escape(
        self,
    ) -> None:
        page = self.bench(PHONE, has_touch=True)
        plan, door = page.locator("#bench-plan"), page.get_by_role("button", name="Plan")
        expect(plan).to_be_hidden()
        door.tap()
        expect(plan).to_be_visible()
        expect(door).to_have_attribute("aria-expanded", "true")
        expect(page.locator("#b-take")).to_be_in_viewport(ratio=0.99)
        door.tap()
        expect(plan).to_be_hidden()
        door.tap()
        page.keyboard.press("Escape")
        expect(plan).to_be_hidden()
        self.door(page, "Pieces")
        pieces = page.locator("#bench-pieces")
        expect(pieces).to_be_visible()
        self.take(page, 0.09, "Roe")
        expect(pieces).to_be_hidden()
        self.door(page, "Seen")
        page.locator("#bench-seen").get_by_role("button", name="Gut cut").tap()
        expect(page.locator("#bench-seen")).to_be_hidden()
        expect(page.locator("#bench-seen")).to_contain_text("Gut cut")

    def test_the_drawing_is_near_to_the_step_and_one_touch_shows_all_of_it(self) -> None:
        page = self.bench(PHONE, has_touch=True)
        svg = page.locator(".bench-drawing")

        def across() -> float:
            return float(str(svg.get_attribute("viewBox")).split()[2])

        whole = float(str(svg.get_attribute("data-whole")).split()[2])
        for _ in range(4):  # the first steps look at all of the fish
            page.locator("#b-done").tap()
            page.wait_for_timeout(700)
        expect(page.locator("#b-near")).to_be_visible()
        self.assertLess(across(), 0.8 * whole)
        page.get_by_role("button", name="Whole fish").tap()
        self.assertEqual(across(), whole)
        page.reload()
        expect(page.get_by_role("button", name="Close up")).to_be_visible()
        self.assertEqual(across(), whole)  # what was chosen is kept

    def test_a_fingertip_beside_a_small_zone_means_it_and_its_name_is_said(self) -> None:
        page = self.bench(PHONE, has_touch=True, cm=74, kg=3.9)  # large enough for its cheeks
        if page.locator("#b-near").is_visible():
            page.get_by_role("button", name="Whole fish").tap()
        box = page.locator("[data-zone='cheek.A']").bounding_box()
        assert box
        self.assertLess(min(box["width"], box["height"]), 48)
        page.locator("#weight").fill("0.03")
        page.touchscreen.tap(box["x"] + box["width"] / 2 + 6, box["y"] + box["height"] / 2 - 16)
        expect(page.locator("#zone-echo")).to_have_text("cheek")
        expect(page.locator("#bench-went")).to_contain_text("1 weighing")
        # one that is done shows its weighings instead of taking another
        zone = page.locator("[data-zone='cheek.A'][data-weighed]")
        zone.focus()
        page.keyboard.press("Enter")
        expect(page.locator("#d-weighings td").first).to_contain_text("cheek A")
        expect(page.locator("#d-weighings")).to_have_attribute("open", "")
        expect(page.locator("#bench-went")).to_be_visible()

    def test_a_zone_has_role_name_and_tab_stop(self) -> None:
        page = self.bench(LAPTOP)
        zone = page.get_by_role("button", name="Take the weight as belly")
        page.locator("#weight").fill("0.09")
        zone.focus()
        page.keyboard.press("Space")
        expect(page.locator("#bench-went")).to_contain_text("bellies 90 g")

    def test_single_keys_can_be_switched_off(self) -> None:
        page = self.bench(LAPTOP)
        here = page.url
        page.goto("/settings")
        page.get_by_label("Single keys").uncheck()
        page.goto(here)
        before = page.locator(".now-step h2").first.inner_text()
        page.keyboard.press("d")
        page.keyboard.press("2")
        page.wait_for_timeout(700)
        self.assertEqual(page.locator(".now-step h2").first.inner_text(), before)
        self.assertEqual(page.url, here)
        page.keyboard.press("PageUp")  # a pedal still does
        expect(page.locator(".now-step h2").first).not_to_have_text(before)

    def test_a_reload_offers_no_older_undo(self) -> None:
        page = self.bench(PHONE, has_touch=True)
        expect(page.locator(".main > .said")).to_be_visible()  # put on the board just now
        self.take(page, 0.35)
        page.reload()
        expect(page.locator("#b-take")).to_be_visible()
        expect(page.locator(".main > .said")).to_have_count(0)
        page.keyboard.press("z")
        page.wait_for_timeout(500)
        expect(page.locator("#b-take")).to_be_visible()

    def test_more_fish_lie_over_the_panel_and_leave_the_keypad_where_it_was(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.trip(page)
        # in the wider type of a phone that has not the app's own yet
        page.evaluate(
            "document.querySelectorAll('*').forEach(e => e.style.fontFamily = 'DejaVu Sans')"
        )
        before = page.locator(".keypad").bounding_box()
        page.get_by_text("Where do you fish?").tap()
        expect(page.get_by_role("button", name="North-east Atlantic")).to_be_visible()
        page.get_by_role("button", name="Close").tap()
        expect(page.get_by_role("button", name="North-east Atlantic")).to_be_hidden()
        page.get_by_text("More …").tap()
        page.get_by_role("button", name="Close").tap()
        expect(page.get_by_label("Find a fish")).to_be_hidden()
        page.get_by_text("More …").tap()
        page.get_by_label("Find a fish").fill("turb")
        page.locator("label[for=s-turbot]").tap()
        expect(page.get_by_label("Find a fish")).to_be_hidden()
        expect(page.locator(".chips summary", has_text="More")).to_contain_text("turbot")
        self.assertEqual(page.locator(".keypad").bounding_box(), before)
        self.still(page)

    def test_what_was_said_leaves_what_must_be_done_at_once_in_sight(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.trip(page)
        page.get_by_text("More …").tap()
        page.locator("label[for=s-turbot]").tap()
        page.get_by_label("length, cm").fill("45")
        page.get_by_role("button", name="Land it").tap()
        expect(page.locator(".deck-next .line")).to_contain_text("bleed it at once")
        said = page.get_by_role("status").filter(has_text="landed")
        expect(said).to_be_visible()
        over, under = said.bounding_box(), page.locator(".deck-next .line").bounding_box()
        assert over
        assert under
        self.assertLessEqual(over["y"] + over["height"], under["y"] + 1)

    def test_whoever_says_where_they_fish_has_its_fish_at_hand(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.trip(page)
        page.get_by_text("Where do you fish?").tap()
        page.get_by_role("button", name="North-east Atlantic").tap()
        page.locator("label[for=s-mackerel]").tap()
        page.get_by_label("Length, cm").fill("35")
        page.get_by_role("button", name="Land it").tap()
        expect(page.get_by_role("status")).to_contain_text("M1 landed")
        self.still(page)


class KeptPlaceTest(SessionTest):
    def test_ticks_that_were_not_sent_yet_outlive_what_others_do(self) -> None:
        page, other = self.bench(LAPTOP), self.open(LAPTOP)
        page.locator("#d-together > summary").click()
        page.locator("#together .tick-row", has_text="Gut").locator("input").check()
        page.locator("#together .tick-row", has_text="Head and gills").locator("input").check()
        page.locator("#together-weight").fill("0.9")
        page.locator("h1").click()  # nothing of it has the focus
        other.goto(page.url)
        self.take(other, 0.4, "Frame")
        expect(page.locator("#bench-went")).to_contain_text("1 weighing")
        expect(page.locator("#together input:checked")).to_have_count(2)
        expect(page.locator("#together-weight")).to_have_value("0.9")

    def test_after_units_or_colours_the_page_is_where_it_was(self) -> None:
        page = self.bench(PHONE, has_touch=True)
        self.door(page, "Plan")
        page.get_by_role("button", name="kg cm").tap()
        expect(page.locator("html[data-units=imperial]")).to_have_count(1)
        expect(page.locator("#bench-plan")).to_be_visible()
        page.set_viewport_size(LAPTOP)
        page.goto("/guide")
        page.evaluate("document.querySelector('.main').scrollTop = 600")
        page.get_by_role("button", name="Night").click()
        expect(page.locator("html[data-bs-theme=dark]")).to_have_count(1)
        page.wait_for_function("document.querySelector('.main').scrollTop === 600")


class OfflineStepsTest(SessionTest):
    may_lose_the_server = True

    def test_steps_go_on_finish_is_there_and_what_was_not_sent_can_be_taken_back(self) -> None:
        page = self.bench(PHONE, has_touch=True)
        title = page.locator(".now-step h2").first
        self.server.kill()
        seen = [title.inner_text()]
        for _ in range(3):
            page.locator("#b-done").tap()
            expect(title).not_to_have_text(seen[-1])
            seen.append(title.inner_text())
            page.wait_for_timeout(650)  # a second knock is no second touch
        self.assertEqual(len(set(seen)), 4)
        expect(page.locator("#b-finish")).to_be_hidden()
        page.locator("#weight").fill("0.35")
        page.locator("#b-take").tap()
        expect(page.locator("#b-finish")).to_be_visible()
        note = page.locator(".waiting-note")
        expect(note).to_contain_text("4 on the way")
        page.get_by_role("button", name="Take the last one back").tap()
        expect(note).to_contain_text("3 on the way")
        expect(page.locator("#b-finish")).to_be_hidden()
        page.get_by_role("button", name="Take the last one back").tap()
        expect(title).to_have_text(seen[2])
        self.server.start("2026-07-14T12:40:00+00:00")
        expect(page.get_by_text("on the way")).to_be_hidden()
        expect(page.locator("#bench-plan li.done")).to_have_count(2)
        expect(title).to_have_text(seen[2])


class TouchesTest(SessionTest):
    """Jobs of a day on a phone, in touches; what is typed counts as one number. Nobody scrolls."""

    def test_on_deck_landing_is_one_screen_and_the_rest_lies_in_a_sheet(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.trip(page)
        about, sheet = page.locator(".about-button"), page.locator("#about-it")
        for size in (PHONE, ON_ITS_SIDE):
            page.set_viewport_size(size)
            panel = page.locator(".panel")
            expect(about).to_be_in_viewport(ratio=0.99)
            expect(page.get_by_role("button", name="Land it")).to_be_in_viewport(ratio=0.99)
            for part in ("#length", ".keypad", "label[for=st-gutted]"):
                expect(page.locator(part)).to_be_in_viewport(ratio=0.99)
            self.assertLessEqual(panel.evaluate("e => e.scrollHeight - e.clientHeight"), 0)
            expect(sheet).to_be_hidden()
            about.tap()
            expect(sheet).to_be_visible()
            expect(about).to_have_text("Close")
            page.locator("label[for=li-slurry]").tap()
            about.tap()
            expect(sheet).to_be_hidden()
            expect(about).to_contain_text("Slurry")
        # it closes by itself when the fish is landed
        page.set_viewport_size(PHONE)
        self.choose(page, "pollack")
        page.locator("#length").fill("60")
        about.tap()
        page.get_by_role("button", name="Land it").tap()
        expect(page.locator(".said").first).to_contain_text("landed")
        expect(sheet).to_be_hidden()

    def test_on_deck_a_fish_that_can_hurt_says_so_in_sight(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.trip(page)
        care = page.locator("#landing-care")
        expect(care).to_be_hidden()
        self.choose(page, "greater weever", "greater_weever")
        expect(care).to_be_in_viewport(ratio=0.99)
        expect(care).to_contain_text("spine")
        expect(page.get_by_role("button", name="Land it")).to_be_in_viewport(ratio=0.99)

    def choose(self, page: Page, name: str, key: str = "") -> None:
        page.get_by_text("More …").tap()
        page.get_by_label("Find a fish").fill(name)
        page.locator(f"label[for=s-{key or name}]").tap()

    counted: ClassVar[dict[str, int]] = {}

    def touch(self, what: Locator) -> None:
        expect(what).to_be_in_viewport(ratio=0.6)
        what.tap()
        self.touches += 1

    def job(self, name: str, most: int) -> None:
        """What was touched since the last job was this one."""
        self.assertLessEqual(self.touches, most, name)
        self.counted[name] = self.touches
        self.touches = 0

    def test_jobs_of_a_day(self) -> None:
        self.touches = 0
        page = self.open(PHONE, has_touch=True)
        self.trip(page)
        # deck
        self.touch(page.get_by_text("More …"))
        self.touch(page.get_by_label("Find a fish"))
        page.keyboard.type("polla")
        self.touch(page.locator("label[for=s-pollack]"))
        self.touch(page.locator("#length"))
        page.keyboard.type("68")
        self.touch(page.get_by_role("button", name="Land it"))
        said = page.locator(".said").first
        expect(said).to_contain_text("P1 landed")
        self.job("land the first fish of its kind", 5)
        self.touch(page.get_by_role("button", name="6", exact=True))
        self.touch(page.get_by_role("button", name="0", exact=True))
        self.touch(page.get_by_role("button", name="Land it"))
        expect(said).to_contain_text("P2 landed")
        self.job("land the next of its kind (two digits)", 3)
        self.touch(said.get_by_role("button", name="Undo"))
        expect(said).to_contain_text("undone")
        self.job("undo a landing", 1)
        self.touch(
            page.get_by_role("button", name="Dispatched").or_(
                page.locator("label[for=st-dispatched]")
            )
        )
        self.job("say what was done to the next fish", 1)
        self.touch(page.get_by_role("button", name="On the slab"))
        self.touch(page.locator(".slab-fish").first)
        page.wait_for_url(re.compile("/card"))
        self.job("see a fish's card", 2)
        page.go_back()
        self.touches = 0
        self.touch(page.get_by_role("button", name=re.compile("^Cut P1")))
        page.wait_for_url(re.compile("/fish/"))
        self.job("from the deck to the first cut", 2)
        # bench
        self.touch(page.locator("#b-done"))
        expect(page.locator("#bench-plan li.done")).to_have_count(1)
        self.job("a step done", 1)
        while not page.locator("#bench-likely button").count():
            page.wait_for_timeout(700)
            done = page.locator("#bench-plan li.done").count()
            page.locator("#b-done").tap()
            expect(page.locator("#bench-plan li.done")).to_have_count(done + 1)
        likely = page.locator("#bench-likely button").first
        seen = str(likely.inner_text()).removeprefix("Note:").strip()
        self.touch(likely)
        expect(page.locator("#bench-seen .checks")).to_contain_text(re.compile(seen, re.I))
        self.job("note what is usually seen at this step", 1)
        for kg in ("0.35", "0.09", "0.09"):
            page.locator("#weight").fill(kg)
            slot = str(page.locator("#b-take").get_attribute("value"))
            self.touch(page.locator("#b-take"))
            expect(page.locator(f"#bench-take button[value='{slot}']")).to_have_count(0)
            page.wait_for_timeout(700)
        expect(page.locator("#bench-went")).to_contain_text("3 weighings")
        self.job("three pieces", 3)
        self.touch(page.locator(".news .said").get_by_role("button", name="Undo"))
        expect(page.locator("#bench-went")).to_contain_text("2 weighings")
        self.job("undo a weighing", 1)
        page.locator("#weight").fill("0.6")
        spot = page.evaluate("""() => {
          const box = document.querySelector(".bench-drawing").getBoundingClientRect();
          for (let y = box.top + 4; y < box.bottom; y += 8) for (let x = box.left + 4; x < box.right; x += 8)
            if (document.elementFromPoint(x, y)?.dataset.slot === "fillet.B") return [x, y];
        }""")
        page.touchscreen.tap(*spot)
        self.touches += 1
        expect(page.locator("#bench-went")).to_contain_text("3 weighings")
        self.job("another piece than the one on offer, on the drawing", 1)
        page.locator("#weight").fill("6.1")
        self.touch(page.get_by_role("button", name="Pieces"))
        self.touch(page.get_by_role("button", name="Fillet A", exact=True))
        self.touches = 0
        self.touch(page.get_by_role("button", name="It is 610 g"))
        expect(page.locator("#bench-went")).to_contain_text("fillets 1.21 kg")
        self.job("correct a slip that was asked about", 1)
        self.touch(page.get_by_role("button", name="Seen"))
        self.touch(page.locator("#bench-seen").get_by_role("button", name="Blood"))
        self.job("note something seen that is rare at this step", 2)
        self.touch(page.locator("#b-wait"))
        expect(page.locator("#b-wait")).to_have_text(re.compile("Go on"))
        self.job("let the fish wait", 1)
        self.touch(page.get_by_role("button", name="Plan"))
        self.job("see the plan", 1)
        self.touch(page.get_by_role("button", name="Plan"))
        self.touches = 0
        self.touch(page.locator("#b-finish"))
        expect(page.get_by_role("heading", name="P1 is finished")).to_be_visible()
        self.job("finish the fish", 1)
        # pack, freezer
        self.touch(page.get_by_role("link", name="Pack its pieces"))
        self.job("from the finished fish to its first bag", 1)
        self.touch(page.get_by_role("button", name=re.compile("^Seal and print")))
        expect(page.locator(".said").first).to_contain_text("sealed")
        self.job("seal a bag", 1)
        self.touch(page.get_by_role("link", name=re.compile("Freezer")))
        self.job("to the freezer", 1)
        self.touch(page.get_by_role("button", name="Help and keys"))
        self.job("help on a page", 1)
        self.touch(page.get_by_role("button", name="Close"))
        self.touches = 0
        self.touch(page.get_by_role("link", name="First aid"))
        self.job("first aid", 1)
        self.assertGreaterEqual(len(self.counted), 20)


def has_arial() -> bool:
    """Whether the machine has type of Arial's widths, as nearly all have: it stands in."""
    if not shutil.which("fc-match"):
        return False
    found = subprocess.run(["fc-match", "Arial"], capture_output=True, text=True, check=False)
    return any(name in found.stdout for name in ("Arial", "Liberation"))


@unittest.skipUnless(has_arial(), "no type of Arial's widths on this machine")
class LateTypeTest(SessionTest):
    """On a slow phone the app's own type comes too late: no line breaks otherwise for it."""

    expects = ("net::ERR_FAILED",)

    def test_landing_stands_as_it_does_in_the_apps_own_type(self) -> None:
        pages = self.open(PHONE, has_touch=True), self.open(PHONE, has_touch=True)
        pages[1].route("**/*.woff2", lambda route: route.abort())
        deck = self.trip(pages[0])
        pages[1].goto(f"{deck}/deck")
        for size in (PHONE, ON_ITS_SIDE):
            tops = []
            for page in pages:
                page.set_viewport_size(size)
                panel = page.locator(".panel")
                self.assertLessEqual(panel.evaluate("e => e.scrollHeight - e.clientHeight"), 0)
                boxes = [
                    page.locator(p).bounding_box() for p in (".keypad", "label[for=st-gutted]")
                ]
                tops.append([box["y"] for box in boxes if box])
            self.assertEqual(tops[0], tops[1], size)

"""What was asked for reaches the board, and first aid is there without the machine, in Chromium."""

import re

from playwright.sync_api import expect

from lepidos.core.cutting.model import FishToCut
from lepidos.core.cutting.plan import plan_cut
from lepidos.guide.library import load_guide
from tests.browser.chromium import PHONE
from tests.browser.test_session import SessionTest
from tests.browser.test_slips import KNOCK_MS

GUIDE = load_guide()
POLLACK = GUIDE.one("pollack")
PARTS = (POLLACK, GUIDE.plan_of(POLLACK), GUIDE.pieces, GUIDE.methods)


class CutForTest(SessionTest):
    may_lose_the_server = True

    def test_a_touch_changes_what_a_fish_becomes_and_waits_for_the_server(self) -> None:
        page = self.bench(PHONE, has_touch=True)
        plan = page.locator("#bench-plan")
        expect(plan).not_to_contain_text("slits")
        self.door(page, "Fish")
        page.locator("#d-cut-for > summary").click()
        self.assert_accessible(page)
        self.server.kill()
        page.get_by_role("button", name="whole in the oven").click()
        expect(page.locator(".waiting-note")).to_contain_text("whole in the oven")
        self.server.start()
        summary = page.locator("#d-cut-for > summary")
        expect(summary).to_contain_text("Whole in the oven", timeout=20_000)
        expect(page.locator("#b-take")).not_to_contain_text("fillet")
        page.reload()
        expect(summary).to_contain_text("Whole in the oven")
        self.assert_fits(page)

    def test_from_now_on_is_every_such_fish_and_a_partys_wish_goes_before_it(self) -> None:
        page = self.bench()
        page.locator("#d-cut-for > summary").click()
        page.get_by_text("Every pollack of usual size from now on").click()
        page.get_by_role("button", name="to smoke").click()
        expect(page.locator("#d-cut-for > summary")).to_contain_text("To smoke")
        trip = self.trip(page)
        page.goto(f"{trip}/table")
        wish = page.locator(".party-wish", has_text="Marsh")
        wish.locator("summary").click()
        wish.get_by_label("What their fish is for").select_option("raw")
        wish.get_by_label("collars").check()
        page.get_by_role("button", name="Say so for Marsh").click()
        expect(wish.locator("summary")).to_contain_text("to be eaten raw")
        page.goto(f"{trip}/deck")
        page.locator("label[for^=p-]", has_text="Marsh").click()
        self.land_one(page, "pollack", 66, 2.7)
        expect(page.locator("#gauges dd").first).to_contain_text("1 of 1")
        page.goto(f"{trip}/table")
        page.get_by_role("button", name=re.compile("^Cut P1 next")).click()
        page.wait_for_url(re.compile("/fish/"))
        expect(page.locator("#d-cut-for > summary")).to_contain_text("To be eaten raw, skin off")
        expect(page.locator("#bench-now")).to_contain_text("Marsh asks for the collars")

    def test_another_way_and_one_piece_for_something_else(self) -> None:
        page = self.bench()
        page.locator("#d-cut-for > summary").click()
        page.locator("#d-ways > summary").click()
        page.get_by_role("button", name=re.compile("^Instead: off first")).click()
        expect(page.locator("#bench-plan")).to_contain_text("Head off", ignore_case=True)
        page.locator("#d-cut-for > summary").click()
        page.wait_for_timeout(700)  # two presses within 0.6 s are one knock of a glove
        page.get_by_label("One piece for something else").select_option("fillet.B")
        page.get_by_label("What it is for").select_option("raw")
        page.locator(".piece-for button").click()
        expect(page.locator("#bench-plan")).to_contain_text("of fillet B only")


VOICE = """
window.heard = [];
const synth = { getVoices: () => [{ name: "test" }], addEventListener() {}, cancel() { window.heard.push("(cut)"); },
  speak(said) { window.heard.push(said.text); } };
Object.defineProperty(window, "speechSynthesis", { value: synth });
window.SpeechSynthesisUtterance = class { constructor(text) { this.text = text; } };
"""


class VoiceTest(SessionTest):
    def test_what_was_taken_and_the_next_step_are_read_aloud_until_it_is_turned_off(self) -> None:
        page = self.bench()
        self.assertFalse(page.locator("#b-voice").is_visible())  # this Chromium has no voice
        page.add_init_script(VOICE)
        page.reload()
        page.locator("#b-done").click()
        expect(page.locator("#bench-plan li.done")).to_have_count(1)
        heard = page.evaluate("window.heard")
        self.assertIn(page.locator("#bench-now h2").inner_text(), heard[-1])
        page.wait_for_timeout(700)
        while "ut out" not in page.locator("#bench-now h2").inner_text():
            done = page.locator("#bench-plan li.done").count()
            page.locator("#b-done").click()
            expect(page.locator("#bench-plan li.done")).to_have_count(done + 1)
            page.wait_for_timeout(700)
        page.locator(".now-step details.how > summary").first.click()
        expect(page.locator(".now-step details.how")).to_contain_text("You feel")
        self.take(page, 0.35)
        self.assertTrue([t for t in page.evaluate("window.heard") if t.startswith("gut, 0.350")])
        page.locator("#b-voice").click()
        before = page.evaluate("window.heard.length")
        self.take(page, 0.09)
        self.assertEqual(page.evaluate("window.heard.length"), before)
        self.assert_accessible(page)


class FirstAidTest(SessionTest):
    may_lose_the_server = True

    def test_first_aid_and_its_clock_need_no_server(self) -> None:
        page = self.bench(PHONE, has_touch=True)
        self.server.kill()
        page.get_by_role("link", name="First aid").click()
        box = page.get_by_role("dialog", name="First aid")
        expect(box).to_contain_text("as hot as can be borne without scalding")
        box.get_by_role("button", name="Start the hot water clock").click()
        expect(box).to_contain_text("at least 30 minutes")
        self.assert_accessible(page)
        box.get_by_role("button", name="Close").click()
        self.server.start()
        page.goto("/guide")
        expect(page.locator(".aid-door")).to_contain_text(re.compile(r"0:\d\d"))
        page.get_by_role("link", name="First aid").click()
        page.get_by_role("button", name=re.compile("stop the clock")).click()
        expect(page.locator(".aid-door")).not_to_contain_text(":")

    def test_eighteen_spines_are_counted_off_one_by_one(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.trip(page)
        self.land_one(page, "lionfish", 30, 0.6)
        expect(page.locator("#gauges dd").first).to_contain_text("1 of 1")
        page.goto(page.url.replace("/deck", "/table"))
        page.get_by_role("button", name=re.compile("^Cut .* next")).click()
        page.wait_for_url(re.compile("/fish/"))
        button = page.locator("#b-disarmed")
        expect(button).to_contain_text("Spine 1 of 18 is off")
        for n in range(2, 10):
            page.wait_for_timeout(KNOCK_MS)
            button.click()
            expect(button).to_contain_text(f"Spine {n} of 18 is off")
        page.locator("#b-spine-back").click()
        expect(button).to_contain_text("Spine 8 of 18 is off")
        page.reload()
        expect(button).to_contain_text("Spine 8 of 18 is off")
        for n in range(9, 18):
            page.wait_for_timeout(KNOCK_MS)
            button.click()
            expect(button).to_contain_text(f"Spine {n} of 18 is off")
        page.wait_for_timeout(KNOCK_MS)
        button.click()
        expect(button).to_contain_text("All 18 are off")
        self.assertEqual(page.locator("#bench-plan li.done").count(), 0)
        page.wait_for_timeout(KNOCK_MS)
        button.click()
        expect(page.locator("#bench-plan li.done")).to_have_count(1)


class GuideTest(SessionTest):
    def test_a_plan_is_there_at_once_and_changes_in_place(self) -> None:
        page = self.open()
        page.goto("/guide/pollack")
        steps = page.locator(".plan-steps > li")
        self.assertTrue(steps.first.is_visible())
        before = steps.count()
        self.assert_accessible(page)
        page.get_by_role("link", name="whole in the oven").click()
        expect(steps).not_to_have_count(before)
        expect(page).to_have_url(re.compile("purpose=oven"))
        page.locator("#length").focus()
        for _ in range(3):
            page.keyboard.press("PageUp")
        expect(page.locator(".way-fish")).to_contain_text("large for its kind")
        expect(page.locator("#way .advice", has_text="Too large")).to_be_visible()
        page.go_back()  # the address was changed in place: back leaves the page
        expect(page).not_to_have_url(re.compile("guide/pollack"))

    def test_cuts_are_played_in_order_and_each_step_shows_its_own(self) -> None:
        page = self.open(PHONE, has_touch=True)
        page.goto("/guide/pollack")
        seen = []
        while True:
            page.get_by_role("button", name="Next cut").click()
            (key,) = page.eval_on_selector_all(
                ".of-step:not([hidden])", "all => all.map(one => one.dataset.step)"
            )
            if seen and key == seen[-1]:
                break
            seen.append(key)
        cut = plan_cut(FishToCut(2.69, 0.65), *PARTS)
        drawn = {c.key for c in PARTS[1].cuts}
        self.assertEqual(seen, [s.key for s in cut.steps if s.cut in drawn])
        self.assertGreater(len(seen), 3)
        expect(page.locator(".of-step:not([hidden]) .cut")).to_be_visible()
        self.assert_fits(page)
        page.get_by_role("button", name="Play the cuts").click()
        expect(page.locator("[data-play-title]")).to_have_text(cut.steps[1].title)
        page.get_by_role("button", name="Stop").click()

    def test_a_flatfish_turns_over_for_the_cuts_on_its_blind_side(self) -> None:
        page = self.open(PHONE, has_touch=True)
        page.goto("/guide/plaice?state=whole")
        eyed, blind = page.locator("[data-fish]").all()
        order = page.eval_on_selector_all(
            ".plan-steps li", "all => all.map(one => one.dataset.step)"
        )
        played = []
        while not played or played[-1] != "turn":
            page.get_by_role("button", name="Next cut").click()
            played.append(page.locator(".of-step:not([hidden])").get_attribute("data-step"))
            upper, under = (eyed, blind) if played[-1] not in {"gut_out", "turn"} else (blind, eyed)
            expect(upper).to_be_visible()
            expect(under).to_be_hidden()
        self.assertIn("gut_out", played)
        self.assertEqual(played, [key for key in order if key in played])
        page.get_by_role("link", name="blind side", exact=True).click()
        expect(page.locator("[data-look=blind]")).to_have_attribute("aria-current", "true")
        expect(blind).to_be_visible()
        page.get_by_role("link", name="some hours later").click()
        expect(blind).to_be_hidden()
        self.assertEqual(page.locator("[data-fish]:visible .mark-orange.pale").count(), 17)
        self.assert_fits(page)

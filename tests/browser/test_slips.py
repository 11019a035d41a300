"""Slips at the bench in Chromium: Enter, a second weight, and entries that the server will not take."""

import re
import sqlite3

from playwright.sync_api import Page, Route, expect

from tests.browser.chromium import LAPTOP, PHONE
from tests.browser.test_session import SessionTest


class EnterTest(SessionTest):
    def test_enter_takes_the_piece_on_offer_and_not_the_first_button(self) -> None:
        page = self.bench()
        for kg, piece in (("0.4", "gut"), ("0.09", "belly A"), ("0.088", "belly B")):
            expect(page.locator("#b-take [data-piece]")).to_have_text(piece)
            page.locator("#weight").fill(kg)
            page.locator("#weight").press("Enter")
            expect(page.locator("#bench-went")).to_contain_text(
                re.compile(rf"{piece}|bellies", re.I)
            )
            expect(page.locator("#b-take [data-piece]")).not_to_have_text(piece)
        page.locator("#d-weighings summary").click()
        expect(page.locator("#d-weighings tbody tr")).to_have_count(3)
        expect(page.locator("#bench-questions .question")).to_have_count(0)

    def test_enter_takes_the_piece_on_offer_without_scripts_too(self) -> None:
        here = self.bench().url
        plain = self.open(LAPTOP, java_script_enabled=False)
        plain.goto(here)
        plain.locator("#weight").fill("0.4")
        plain.locator("#weight").press("Enter")
        expect(plain.locator("#main")).to_contain_text("P1 gut: 400 g")
        plain.locator("#weight").fill("0.09")
        plain.locator("#weight").press("Enter")
        expect(plain.locator("#main")).to_contain_text("P1 belly A: 90 g")

    def test_a_second_weight_is_asked_about_and_may_stand_instead(self) -> None:
        page = self.bench()
        self.take(page, 0.400)
        for kg in ("0.58", "0.56"):
            page.locator("#weight").fill(kg)
            page.locator(
                "button[form=weigh]:not(.default)", has_text=re.compile(r"^\s*Fillet A\s*$")
            ).click()
            page.wait_for_function(
                "() => Object.keys(localStorage).filter((name) => name.startsWith('lepidos.waiting/')).length === 0"
            )
        question = page.locator("#bench-questions .question")
        expect(question).to_contain_text(
            "The fillet A has 580 g already. Is 560 g instead, or besides?"
        )
        self.assert_accessible(page)
        question.get_by_role("button", name="Instead").click()
        expect(question).to_have_count(0)
        page.locator("#d-weighings summary").click()
        expect(page.locator("#d-weighings tbody")).to_contain_text("560 g")
        expect(page.locator("#d-weighings tbody")).not_to_contain_text("580 g")


KNOCK_MS = 450  # one knock of a glove is one spine


class WeeverTest(SessionTest):
    def test_the_main_button_takes_no_weight_before_the_spines_are_off(self) -> None:
        page = self.open(PHONE)
        trip = self.trip(page)
        self.land_one(page, "greater_weever", 34, 0.35)
        expect(page.locator("#gauges dd").first).to_contain_text("1 of 1")
        (board,) = self.boards(page, trip, "Ines")
        page.goto(board)
        page.locator("#b-next").click()
        page.wait_for_url(re.compile("/fish/"))
        page.locator("#weight").fill("0.05")
        page.locator("#weight").press("Enter")  # nothing is on offer, so nothing is booked
        for words in ("The spines are off", "Spine 1 of 2 is off", "Both gill spines are off"):
            expect(page.locator("#b-take")).to_have_count(0)
            self.assert_accessible(page)
            page.wait_for_timeout(KNOCK_MS)
            page.get_by_role("button", name=words).click()
        expect(page.locator("#b-take [data-piece]")).to_have_text("gut")
        expect(page.locator("#d-weighings")).to_have_count(0)


class SetAsideFishTest(SessionTest):
    def test_a_fish_that_cannot_be_calculated_shows_itself_and_can_be_corrected(self) -> None:
        page = self.open(LAPTOP)
        trip = self.trip(page)
        for cm in (60, 61):
            self.land_one(page, "pollack", cm, "")
        expect(page.locator(".slab-fish")).to_have_count(2)
        with sqlite3.connect(self.server.folder / "lepidos.sqlite") as file:
            file.execute("UPDATE fish_now SET length_m = 9.9 WHERE length_m = 0.61")
        file.close()
        self.land_one(page, "pollack", 62, "")
        notice = page.locator("#notices .set-aside")
        expect(notice).to_contain_text("P2 pollack is set aside, all else goes on")
        expect(page.locator(".slab-fish")).to_have_count(2)
        self.assert_accessible(page)
        notice.get_by_role("link", name="Correct P2").click()
        expect(page.get_by_text("Nothing can be calculated for this fish")).to_be_visible()
        self.assert_accessible(page)
        self.assert_fits(page)
        page.get_by_label("Length").fill("61")
        page.get_by_role("button", name="Correct it").click()
        expect(page.locator("#main")).to_contain_text("P2 corrected")
        page.goto(f"{trip}/deck")
        expect(page.locator(".slab-fish")).to_have_count(3)


class WaitingTest(SessionTest):
    may_lose_the_server = True
    expects = ("status of 503",)

    def wait_for_queue(self, page: Page, entries: int) -> None:
        page.wait_for_function(
            "n => Object.keys(localStorage).filter((name) => name.startsWith('lepidos.waiting/')).length === n",
            arg=entries,
        )

    def test_what_waits_stays_in_the_units_it_was_typed_in(self) -> None:
        page = self.bench()
        lost = True
        page.route("**/live/fish/*/weighings", lambda r: r.abort() if lost else r.continue_())
        page.locator("#weight").fill("0.4")
        page.locator("#weight").press("Enter")
        self.wait_for_queue(page, 1)
        page.get_by_role("button", name="switch units").click()
        expect(page.get_by_role("button", name="switch units")).to_contain_text("lb in")
        lost = False
        self.wait_for_queue(page, 0)
        page.reload()
        page.locator("#d-weighings summary").click()
        # 400 g, and not 0.4 lb
        expect(page.locator("#d-weighings tbody")).to_contain_text("14.1 oz")

    def test_an_entry_whose_connection_hangs_is_sent_again(self) -> None:
        page = self.bench()
        # the app's fifteen seconds in one
        page.evaluate(
            "() => { const s = AbortSignal.timeout; AbortSignal.timeout = (ms) => s.call(AbortSignal, ms / 15); }"
        )
        hung: list[Route] = []
        page.route("**/live/fish/*/weighings", lambda r: r.continue_() if hung else hung.append(r))
        page.locator("#weight").fill("0.4")
        page.locator("#weight").press("Enter")
        self.wait_for_queue(page, 1)
        self.wait_for_queue(page, 0)
        self.assertEqual(len(hung), 1)
        page.locator("#d-weighings summary").click()
        expect(page.locator("#d-weighings tbody tr")).to_have_count(1)

    def test_of_two_pages_neither_loses_what_the_other_keeps(self) -> None:
        first = self.bench()
        second = first.context.new_page()
        second.goto(first.url)
        second.locator("#weight").wait_for()
        late: list[Route] = []
        first.context.route("**/live/fish/*/weighings", lambda r: late.append(r))
        first.locator("#weight").fill("0.4")
        first.locator("#weight").press("Enter")
        self.wait_for_queue(first, 1)
        while not late:
            first.wait_for_timeout(20)
        second.locator("#weight").fill("0.3")
        second.locator("#weight").press("Enter")
        self.wait_for_queue(second, 2)
        late[0].fulfill(
            status=503,
            headers={"retry-after": "5", "content-type": "application/json"},
            body='{"detail": "Something else is writing."}',
        )
        first.context.unroute("**/live/fish/*/weighings")
        for other in late[1:]:
            other.continue_()
        self.wait_for_queue(first, 0)
        self.wait_for_queue(second, 0)
        for page in (first, second):
            page.locator("#d-weighings summary").click()
            expect(page.locator("#d-weighings tbody tr")).to_have_count(2)


class AsideTest(SessionTest):
    expects = ("the server responded with a status of 500",)

    def failing(self, page: Page, length: str) -> None:
        """The server answers 500 to the landing of this length."""

        def answer(route: Route) -> None:
            if f"length={length}&" in (route.request.post_data or ""):
                route.fulfill(status=500, json={"detail": "Something broke on our side."})
            else:
                route.continue_()

        page.route("**/live/trips/*/fish", answer)

    def test_an_entry_that_keeps_failing_is_set_aside_and_the_rest_goes_on(self) -> None:
        page = self.open(PHONE, has_touch=True)
        trip = self.trip(page)
        self.failing(page, "61")
        for cm in (60, 61, 62):
            self.land_one(page, "pollack", cm, "")
        aside = page.locator("#set-aside li")
        expect(aside).to_have_count(1, timeout=20_000)
        expect(aside).to_contain_text("pollack 61")
        expect(aside).to_contain_text(
            "Tried 3 times, and the app failed each time. Something broke on our side."
        )
        expect(page.locator(".slab-fish")).to_have_count(2)
        self.assert_accessible(page)
        # it is kept, on every page, until a hand does something about it
        page.goto(f"{trip}/freezer")
        expect(aside).to_contain_text("pollack 61")
        page.unroute("**/live/trips/*/fish")
        aside.get_by_role("button", name="Send again").click()
        expect(page.locator("#set-aside")).to_be_hidden()
        page.goto(f"{trip}/deck")
        expect(page.locator(".slab-fish")).to_have_count(3)

    def test_a_refused_weighing_is_kept_until_it_is_corrected(self) -> None:
        page = self.bench()
        page.locator("#weight").fill("900")
        page.locator("#b-take").click()
        aside = page.locator("#set-aside li")
        expect(aside).to_contain_text("times the whole fish")
        page.reload()
        expect(aside).to_have_count(1)
        expect(page.locator("#weight")).to_have_value("900")
        page.locator("#weight").fill("0.4")
        page.locator("#b-take").click()
        expect(page.locator("#bench-went")).to_contain_text("1 weighing")
        expect(aside).to_have_count(0)

    def test_what_was_set_aside_can_be_dropped(self) -> None:
        page = self.bench()
        page.locator("#weight").fill("900")
        page.locator("#b-take").click()
        page.locator("#set-aside").get_by_role("button", name="Drop").click()
        expect(page.locator("#set-aside")).to_be_hidden()
        page.reload()
        expect(page.locator("#set-aside")).to_be_hidden()
        expect(page.locator("#bench-went")).not_to_contain_text("weighing")

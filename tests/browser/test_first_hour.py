"""The first hour on an empty folder: few touches to the first cut, by thumb, keyboard and night."""

import re

from playwright.sync_api import Locator, expect

from tests.browser.chromium import LAPTOP, PHONE, BrowserTest


class FirstFishTest(BrowserTest):
    def test_from_an_empty_folder_to_the_first_cut_in_four_touches_and_a_number(self) -> None:
        page = self.open(PHONE, has_touch=True)
        page.goto("/")
        touches = 0

        def touch(what) -> None:
            nonlocal touches
            expect(what).to_be_in_viewport()  # nobody has to scroll for it
            what.tap()
            touches += 1

        self.assert_accessible(page)
        self.assert_fits(page)
        touch(page.get_by_label("Which fish"))
        page.keyboard.type("pollack")
        touch(page.get_by_label(re.compile("^Length")))
        page.keyboard.type("68")
        touch(page.get_by_role("button", name="Show me the first cut"))
        page.wait_for_url(re.compile("/fish/"))
        expect(page.locator(".now-step h2").first).to_contain_text("Look once more")
        self.assertLessEqual(touches, 4)


class StartTest(BrowserTest):
    def test_by_keyboard_at_night_with_a_slip(self) -> None:
        page = self.open(LAPTOP)
        page.goto("/start")
        page.get_by_role("button", name="Night").click()
        page.get_by_label("Which fish").focus()
        page.keyboard.type("mackrel")
        page.keyboard.press("Tab")
        while not page.get_by_label(re.compile("^Length")).evaluate(
            "e => e === document.activeElement"
        ):
            page.keyboard.press("Tab")
        page.keyboard.type("36")
        page.keyboard.press("Enter")
        problem = page.locator("#problem-species")
        expect(problem).to_contain_text("mackerel")
        self.assert_accessible(page)
        page.get_by_label("Which fish").fill("mackerel")
        page.keyboard.press("Enter")
        page.wait_for_url(re.compile("/fish/"))
        self.assert_accessible(page)

    def test_pounds_and_inches_where_the_browser_has_them_until_somebody_chooses(self) -> None:
        page = self.open(LAPTOP, locale="en-US")
        page.goto("/start")
        page.get_by_label("Which fish").fill("pollack")
        page.get_by_label("Length, in").fill("27")
        page.get_by_role("button", name="Show me the first cut").click()
        page.wait_for_url(re.compile("/fish/"))
        expect(page.locator(".head .line").first).to_contain_text("27.0 in total")
        page.get_by_role("button", name=re.compile("lb in")).click()
        expect(page.locator(".head .line").first).to_contain_text("69 cm")
        page.reload()
        expect(page.locator(".head .line").first).to_contain_text("69 cm")

    def test_a_trip_needs_nothing_but_its_date(self) -> None:
        page = self.open(PHONE)
        page.goto("/start")
        page.get_by_role("link", name="Start a trip").click()
        self.assert_accessible(page)
        page.get_by_role("button", name="Start the trip").click()
        expect(page.get_by_role("button", name="Land it")).to_be_visible()
        expect(page.locator(".whose")).to_contain_text("The boat")


class FirstLabelTest(BrowserTest):
    """From an empty folder to the first label, by what a person sees and touches. Its time is in measurements.md."""

    def test_to_the_first_label_in_few_touches(self) -> None:
        page = self.open(PHONE, has_touch=True)
        page.goto("/")
        touches = 0

        def touch(what: Locator) -> None:
            nonlocal touches
            what.scroll_into_view_if_needed()
            what.tap()
            touches += 1

        touch(page.get_by_label("Which fish"))
        page.keyboard.type("mackerel")
        touch(page.get_by_label(re.compile("^Length")))
        page.keyboard.type("36")
        touch(page.get_by_role("button", name="Show me the first cut"))
        page.wait_for_url(re.compile("/fish/"))
        for name, grams in (("Fillet A", "0.112"), ("Fillet B", "0.109")):
            touch(page.locator("#weight"))
            page.keyboard.type(grams)
            if name.lower() in page.locator("#b-take").inner_text().lower():
                touch(page.locator("#b-take"))
            else:
                touch(page.get_by_role("button", name="Pieces"))
                touch(page.get_by_role("button", name=name, exact=True))
            expect(page.locator("#bench-went")).to_contain_text("fillet")
            page.wait_for_timeout(650)  # one knock of a glove is one take
        touch(page.locator("#b-finish"))
        expect(page.get_by_role("heading", name="M1 is finished")).to_be_visible()
        touch(page.get_by_role("link", name="Pack its pieces"))
        touch(page.get_by_role("button", name=re.compile("^Seal and print")))
        expect(page.locator(".said").first).to_contain_text("sealed")
        expect(page.locator(".label").first).to_be_visible()
        self.assertLessEqual(touches, 15)

"""Twelve mackerel without a scale, on an empty folder: landed, finished, packed, frozen and found again."""

import os
import re
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from tests.browser.chromium import LAPTOP, PHONE, BrowserTest

MAX_TOUCHES = 24  # beside typed numbers and names; every bag that is sealed is one
SHOTS = os.environ.get("LEPIDOS_SHOTS", "")  # a folder, to look at it


class AlikeTest(BrowserTest):
    touches = 0
    by_finger = False
    chest = "laptop's chest"

    def touch(self, what: Locator) -> None:
        """As a finger does, and counted."""
        what.tap() if self.by_finger else what.click()
        self.touches += 1

    def shot(self, page: Page, name: str) -> None:
        if SHOTS:
            page.wait_for_timeout(800)
            page.screenshot(path=str(Path(SHOTS) / f"{name}-{page.viewport_size['width']}.png"))  # type: ignore[index]

    def trip(self, page: Page) -> str:
        page.goto("/trips/new")
        page.get_by_label("Boat, or shore mark").fill("Marram Lass")
        page.get_by_role("button", name="Start the trip").click()
        page.wait_for_url(re.compile("/deck"))
        return page.url.removesuffix("/deck")

    def land(self, page: Page) -> None:
        more = page.locator("summary", has_text="More …")
        self.touch(more)
        page.locator("#find-fish").fill("mackerel")
        self.touch(page.locator("label[for='s-mackerel']"))
        page.locator("#length").fill("24")
        if page.locator(".about-button").is_visible():
            self.touch(page.locator(".about-button"))
        page.locator("#count").fill("12")
        page.locator("#longest").fill("34")
        self.shot(page, "land")
        self.assert_stands(page)
        if page.locator(".about-button").is_visible():
            expect(page.locator(".about-button")).to_contain_text("Close")
        expect(page.locator("label[for=length]")).to_contain_text("Shortest")
        self.touch(page.get_by_role("button", name="Land it"))
        expect(
            page.locator(".said, [data-said]").filter(has_text="M1 to M12 landed").first
        ).to_be_visible()
        expect(page.locator(".slab-fish")).to_have_count(12)

    def walk(self, page: Page) -> int:
        self.touches = 0
        trip = self.trip(page)
        self.land(page)
        self.shot(page, "slab")
        if not self.by_finger:
            self.touch(page.get_by_role("link", name=re.compile("Table")).first)
        self.touch(page.get_by_role("button", name=re.compile("^Cut M")).first)
        expect(page.locator("#b-finish-ask")).to_be_in_viewport()
        self.shot(page, "bench")
        self.touch(page.locator("#b-finish-ask"))
        self.shot(page, "finish")
        self.assert_stands(page)
        self.touch(page.get_by_role("button", name="Finish all 12 like it"))
        expect(page.get_by_role("heading", name=re.compile("is finished"))).to_be_visible()
        self.shot(page, "finished")
        self.touch(page.get_by_role("link", name="Pack its pieces"))
        self.shot(page, "pack")
        self.assert_stands(page)
        seal = page.get_by_role("button", name=re.compile("^Seal"))
        expect(seal.first).to_be_visible()
        bags = 0
        while seal.count():
            with page.expect_navigation():
                self.touch(seal.first)
            bags += 1
        self.touch(page.get_by_role("link", name="Put them in the freezer"))
        page.locator("#place-name").fill(self.chest)
        self.touch(page.get_by_role("button", name="Add the place"))
        expect(page.get_by_role("status")).to_contain_text("is ready")
        self.touch(page.get_by_role("button", name=self.chest).first)
        expect(page.get_by_role("status")).to_contain_text(f"{bags} bags")
        self.shot(page, "freezer")
        self.touch(page.locator("nav.ways").get_by_role("link", name="Find"))
        page.locator("input[name=q]").fill("mackerel")
        page.locator("input[name=q]").press("Enter")
        expect(page.locator("main")).to_contain_text("mackerel")
        self.shot(page, "found")
        self.assert_stands(page)
        page.goto(f"{trip}/yieldbook")
        expect(page.locator("main")).to_contain_text("M12")
        return bags

    def test_on_a_phone(self) -> None:
        self.by_finger, self.chest = True, "phone's chest"
        bags = self.walk(self.open(PHONE, has_touch=True))
        self.assertLessEqual(self.touches - bags, MAX_TOUCHES - 8, self.touches)

    def test_on_a_laptop(self) -> None:
        bags = self.walk(self.open(LAPTOP))
        self.assertLessEqual(self.touches - bags, MAX_TOUCHES - 8, self.touches)

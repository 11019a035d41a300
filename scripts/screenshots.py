"""Takes one picture of each main view from a running demo, for docs/screenshots.

Run `make screenshots`: it starts the demo with a fixed clock, so that the pictures can be compared.
"""

import re
import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from tests.browser.chromium import program

TARGET = Path(__file__).parents[1] / "docs" / "screenshots"
ARGS = ["--no-sandbox", "--disable-background-networking", "--disable-quic", "--disable-sync"]
LAPTOP, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}


def first(page: Page, base: str, path: str, pattern: str, index: int = 0) -> str:
    """The index-th address on a page that fits a pattern."""
    page.goto(base + path)
    return re.findall(pattern, page.content())[index]


def main(base: str) -> None:
    """Look at every view of the app at `base`."""
    TARGET.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=program(), args=ARGS)
        page = browser.new_page(viewport=LAPTOP, reduced_motion="reduce", locale="en-GB")
        page.goto(base + "/")
        trip = page.url.removeprefix(base).removesuffix("/deck")
        page.goto(f"{base}{trip}/table")
        fish = page.get_by_role("link", name=re.compile("Go on with")).get_attribute("href")
        weever = page.get_by_role("link", name=re.compile("greater weever")).get_attribute("href")
        cod = page.get_by_role("link", name=re.compile("C3 cod")).get_attribute("href")
        bag = first(page, base, f"{trip}/freezer", r"/b/[2-9A-Z]{6}", 2)
        place = first(page, base, f"{trip}/freezer", r"/freezer/places/\w+", 0)
        views = [
            ("start-phone", "/start", PHONE, "day"),
            ("deck", f"{trip}/deck", LAPTOP, "day"),
            ("deck-phone-night", f"{trip}/deck", PHONE, "night"),
            ("card", f"{cod}", LAPTOP, "day"),
            ("order", f"{trip}/table", LAPTOP, "day"),
            ("every-fish", "/season/fish?year=all&species=pollack", LAPTOP, "day"),
            ("which-fish", "/which-fish/gadoids?a=body.three", LAPTOP, "day"),
            ("table-phone", fish, PHONE, "day"),
            ("table-spiny-night", str(weever).removesuffix("/card"), LAPTOP, "night"),
            ("pack", f"{trip}/pack", LAPTOP, "day"),
            ("freezer", f"{trip}/freezer", LAPTOP, "day"),
            ("bag", bag, LAPTOP, "day"),
            ("yield-book", f"{trip}/yieldbook", LAPTOP, "day"),
            ("guide", "/guide", LAPTOP, "day"),
            ("species", "/guide/turbot", LAPTOP, "day"),
            ("use-next", "/freezer/next?people=6&on=2026-07-17", LAPTOP, "day"),
            ("table-plan", f"{trip}/plan", LAPTOP, "day"),
            ("place", place, LAPTOP, "day"),
        ]
        for name, path, size, theme in views:
            page.context.clear_cookies()
            if theme == "night":
                page.context.add_cookies([{"name": "theme", "value": "night", "url": base}])
            page.set_viewport_size(size)
            page.goto(base + path)
            page.wait_for_timeout(700)
            page.screenshot(path=TARGET / f"{name}.png")
            print(f"{name}.png")
        # the bench asks: a decimal point that slipped, as it comes
        page.context.clear_cookies()
        page.set_viewport_size(LAPTOP)
        page.goto(base + str(fish))
        page.get_by_label("Or type the weight").fill("7.4")
        page.locator("#b-take").click()
        page.locator(".question").first.wait_for()
        page.wait_for_timeout(700)
        page.screenshot(path=TARGET / "table.png")
        print("table.png")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1].rstrip("/"))

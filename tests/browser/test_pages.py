"""Every view of the demo, by day and by night, in four sizes and much enlarged: what must hold.

What is found is listed by check, selector and detail; `page_check.js` says how each is checked.
"""

import html
import re
from urllib.parse import urljoin

from playwright.sync_api import Page

from tests.amount import some
from tests.browser.chromium import LAPTOP, PHONE, BrowserTest, findings, script

CHECK = script("page_check.js")
SIZES = {
    "phone": (390, 844),
    "on its side": (844, 390),
    "tablet": (768, 1024),
    "laptop": (1280, 800),
}
ENLARGED = {
    "narrow": (320, 640),
    "four times": (320, 256),
}  # reflow at 320 px, and 1280 x 1024 at 400 %
STRONG = {"deck", "bench", "order of work"}
ONE_SCREEN = ("phone", "on its side", "tablet")
MIN_TARGET_PX, GLOVE_PX, APART_PX = 40, 48, 8
MIN_TEXT_PX, BENCH_TEXT_PX = 14, 16
MAX_SHIFT = 0.03
# A poor line at sea. It costs the machine nothing, as a slowed processor would: that is a busy one.
POOR_LINE = {
    "offline": False, "latency": 60, "downloadThroughput": 800_000, "uploadThroughput": 100_000,
}  # fmt: skip
MAX_FIRST_LOAD = 200_000
MAX_MOVING_S = 15  # what moves for ever takes a phone's battery: it is painted again and again
RESTLESS = """
  most => document.getAnimations().filter((one) => one.effect.getComputedTiming().endTime > most)
    .map((one) => `${one.animationName} of ${one.effect.target.outerHTML.slice(0, 60)}`)
"""
# until what a new size or theme changes has been laid out and painted
DRAWN = """
  () => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))
"""
PUSHED_DOWN = """
  () => {
    const late = document.createElement("div");
    late.style.height = "200px";
    document.querySelector("h1").before(late);
  }
"""
WATCH_SHIFTS = """
  window.shift = 0;
  new PerformanceObserver((list) => {
    for (const entry of list.getEntries()) if (!entry.hadRecentInput) window.shift += entry.value;
  }).observe({ type: "layout-shift", buffered: true });
"""


class PagesTest(BrowserTest):
    """What both kinds of tests need."""

    demo = True

    def views(self, page: Page) -> dict[str, str]:
        """The address of every main view, from the demo's own links."""

        def first(path: str, pattern: str) -> str:
            page.goto(path)
            return urljoin(page.url, html.unescape(re.findall(pattern, page.content())[0]))

        page.goto("/")
        trip = page.url.removesuffix("/deck")
        return {
            "deck": f"{trip}/deck",
            "bench": first(f"{trip}/table", r'href="(/fish/\w+)"'),
            "deck as a list": f"{trip}/deck?as=list",
            "deck by party": f"{trip}/deck?by=party",
            "board": first(f"{trip}/table", r'action="(/boards/\w+)/mine"'),
            "rule card": first("/rules", r'href="(/rules/\w+)"'),
            "order of work": f"{trip}/table",
            "card": first(f"{trip}/table", r'href="(/fish/\w+/card)"'),
            "history": first(f"{trip}/table", r'href="(/fish/\w+)/card"') + "/history",
            "the whole table": f"{trip}/plan",
            "where it goes": f"{trip}/waste",
            "ice": f"{trip}/ice",
            "import": f"{trip}/import",
            "pack": f"{trip}/pack",
            "moving a piece": first(f"{trip}/pack", r'href="(\?bag=[^"]+move=[^"]+)"'),
            "receipt": self.private(page, trip),
            "share": first(f"{trip}/pack", r'href="(/trips/\w+/shares/\w+)"'),
            "piece": first(f"{trip}/pack", r'href="(/pieces/\w+)'),
            "freezer": f"{trip}/freezer",
            "bag": first(f"{trip}/freezer", r'"(/b/\w{6})"'),
            "place": first(f"{trip}/freezer", r'href="(/freezer/places/\w+)"'),
            "count": first(f"{trip}/freezer", r'href="(/freezer/places/\w+)"') + "/count",
            "use next": "/freezer/next",
            "find": "/freezer/find?q=cod",
            "yield book": f"{trip}/yieldbook",
            "season": "/season",
            "cutters": "/season/cutters",
            "how many to keep": "/season/keep?species=pollack&length=60&portions=8&serving=0.2",
            "every fish": "/season/fish?year=all&species=pollack&by=cutter",
            "trials": "/season/trials",
            "what if": "/season/what-if?species=pollack&length=60&cutter=Ines+Quill",
            "millimetres": "/season/millimetres",
            "the whole log": "/bundle",
            "a fish in front of me": "/start",
            "trips": "/trips",
            "new trip": "/trips/new",
            "settings": "/settings",
            "guide": "/guide",
            "species": "/guide/turbot",
            "techniques": "/guide/techniques?family=flat",
            "which fish": "/which-fish",
            "look-alikes": "/which-fish/gadoids?a=body.three",
            "snappers": "/which-fish/snappers?a=patch.anchor",
            "a sting": "/guide/greater_weever",
            "a name misspelt": "/guide?q=snaper",
            "tools": "/guide/tools",
            "own guide": "/guide/own",
            "write one's own": "/guide/own/write",
            "health": "/health",
            "licences": "/licences",
            "not found": "/nowhere",
            "rules": "/rules",
            "devices": "/devices",
            "who is aboard": "/boat",
            "come aboard": "/join",
            "first aid": "/first-aid",
        }

    def private(self, page: Page, trip: str) -> str:
        """The private address of a party's receipt, made once."""
        page.goto(f"{trip}/pack")
        page.goto(re.findall(r'href="(/trips/\w+/shares/\w+)"', page.content())[0])
        if not page.locator(".private").count():
            page.get_by_role("button", name="Make a private address").click()
        return str(page.locator(".private").first.get_attribute("href"))

    def problems(self, page: Page, view: str, size: str) -> list[str]:
        at_bench = view in {"deck", "bench"} and size in ONE_SCREEN
        rules = {
            "target": GLOVE_PX if at_bench else MIN_TARGET_PX,
            "apart": APART_PX if at_bench else 0,
            "text": BENCH_TEXT_PX if at_bench else MIN_TEXT_PX,
            "focus": True,
            # what must not scroll on one screen: the page, the doors, and upright the step
            "still": ""
            if not at_bench
            else ".doors"
            if size == "on its side"
            else ".doors, #bench-now",
        }
        page.evaluate(DRAWN)
        return [f"{view}, {size}: {problem}" for problem in page.evaluate(CHECK, rules)]

    def axe(self, page: Page, view: str, size: str, theme: str) -> list[str]:
        """Serious and critical findings, by night of colours; at deck and bench 7 to 1, too."""
        found = findings(page, enhanced=view in STRONG, only_colours=theme == "dark")
        return [f"{view} ({theme}), {size}: {one}" for one in found]


class EveryPageTest(PagesTest):
    def test_every_view_in_every_size_by_day_and_by_night(self) -> None:
        """What moves is checked in all sizes by day; colours by day in one window, by night in the other."""
        page = self.open(PHONE)
        found = []
        views = list(self.views(page).items())
        for number, (view, address) in enumerate(some(views, 3)):
            page.set_viewport_size(PHONE)
            page.goto(address)
            page.evaluate("document.fonts.ready")
            for size, (width, height) in (SIZES | ENLARGED).items():
                page.set_viewport_size({"width": width, "height": height})
                found += self.problems(page, view, size)
            windows = [("laptop", LAPTOP), ("phone", PHONE)]
            for turn, theme in enumerate(("light", "dark")):
                page.evaluate("name => { document.documentElement.dataset.bsTheme = name; }", theme)
                at = (number + turn) % 2
                for size, window in windows if view in STRONG else windows[at : at + 1]:
                    page.set_viewport_size(window)
                    found += self.axe(page, view, size, theme)
        self.assertEqual(found, [], "\n".join(found))


class LoadingTest(PagesTest):
    def test_no_page_jumps_as_it_loads_over_a_poor_line(self) -> None:
        # not `is_mobile`: this Chromium then tells of no shift at all
        page = self.open(PHONE, has_touch=True, reduced_motion="no-preference")
        views = self.views(page)
        page.context.add_init_script(WATCH_SHIFTS)
        session = page.context.new_cdp_session(page)
        session.send("Network.enable")
        session.send("Network.emulateNetworkConditions", POOR_LINE)
        session.send("Network.setCacheDisabled", {"cacheDisabled": True})
        loaded = [0.0]

        def count(event: dict[str, float]) -> None:
            loaded[0] += event["encodedDataLength"]

        session.on("Network.loadingFinished", count)
        shifts, restless = {}, {}
        sample = some(list(views), 3, always=["deck"])
        for view in sample:
            loaded[0] = 0.0
            page.goto(views[view])
            page.wait_for_timeout(600)
            shifts[view] = page.evaluate("window.shift")
            restless[view] = page.evaluate(RESTLESS, MAX_MOVING_S * 1000)
            if view == "deck":
                self.assertLess(loaded[0], MAX_FIRST_LOAD)
        jumping = {view: round(shift, 3) for view, shift in shifts.items() if shift >= MAX_SHIFT}
        self.assertEqual(jumping, {})
        self.assertEqual({view: moves for view, moves in restless.items() if moves}, {})
        self.assertEqual(len(shifts), len(sample))
        # and a jump is seen where there is one
        page.evaluate(PUSHED_DOWN)
        page.wait_for_function("window.shift > 0.1")

    def test_the_guide_loads_its_drawings_as_they_come_into_view(self) -> None:
        page = self.open(PHONE)
        page.goto("/guide")
        drawn = page.locator("svg[data-drawing]:has(.skin)")
        last = page.locator("svg[data-drawing]").last
        page.locator("svg[data-drawing]").first.scroll_into_view_if_needed()
        drawn.first.wait_for()
        self.assertLess(drawn.count(), 40)
        self.assertEqual(last.locator(".skin").count(), 0)
        last.scroll_into_view_if_needed()
        last.locator(".skin").wait_for(state="attached")
        self.assertLess(drawn.count(), 80)  # those between were not asked for
        page.goto("/guide?q=turbot")
        page.locator(".species-list use").first.wait_for(state="attached")

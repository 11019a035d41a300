"""Debian's headless Chromium on the real app, watched for errors, outside requests and axe findings."""

import atexit
import shutil
import tempfile
import unittest
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any, ClassVar

from axe_playwright_python.base import AXE_SCRIPT
from playwright.sync_api import Browser, Page, Playwright, expect, sync_playwright
from playwright.sync_api import Error as PlaywrightError

from tests.server import Server

ARGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-sync",
    "--disable-background-networking", "--disable-component-update",
    # what asks for anything but the app meets an error, of which the console tells
    "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1",
]  # fmt: skip
# the machine is shared and at times slow: what is expected may take longer than the usual five seconds
expect.set_options(timeout=20_000)

TOO_WIDE = "document.documentElement.scrollWidth - window.innerWidth"
# what Chromium says of a page that goes away, or is not there yet, while it is looked at
ON_ITS_WAY = ("context was destroyed", "Cannot find context", "null (reading 'scrollWidth')")
# what the console says when the app has gone, and not when a page asks for something outside
LOST = tuple(f"net::ERR_{why}" for why in (
    "CONNECTION_REFUSED", "CONNECTION_RESET", "EMPTY_RESPONSE", "INCOMPLETE_CHUNKED_ENCODING",
    "CONTENT_LENGTH_MISMATCH", "INTERNET_DISCONNECTED", "SOCKET_NOT_CONNECTED", "FAILED",
))  # fmt: skip
LOOKS = 5  # a form asks first whether the app is there, sends, and is sent on: three pages at most
LAPTOP = {"width": 1280, "height": 800}
SMALL_PX = 820  # up to this width deck and bench have doors, see deck_small.css
PHONE = {"width": 390, "height": 844}


def program() -> str:
    """Where Chromium is: the headless shell, which takes a quarter less time, or the whole browser.

    Raises:
        RuntimeError: neither is on this machine.
    """
    names = ("chromium-headless-shell", "chromium", "chromium-browser")
    found = next(filter(None, map(shutil.which, names)), None)
    if found is None:
        raise RuntimeError("Chromium is missing: apt-get install chromium-headless-shell")
    return found


def script(name: str) -> str:
    """A function in a file beside this, without its comments and its last semicolon."""
    lines = Path(__file__).with_name(name).read_text("utf-8").splitlines()
    return "\n".join(line for line in lines if not line.startswith("//")).rstrip(";\n")


EACH_COLOUR = script("each_colour.js")


@cache
def playwright() -> Playwright:
    """The one of this process."""
    started = sync_playwright().start()
    atexit.register(started.stop)
    return started


_running: list[Browser] = []


def chromium() -> Browser:
    """The one Chromium of this process: to start it takes as long as a short test.

    Each window is a context of its own, which shares nothing with the others.
    """
    if not _running or not _running[-1].is_connected():
        _running.append(playwright().chromium.launch(executable_path=program(), args=ARGS))
    return _running[-1]


def findings(page: Page, enhanced: bool = False, only_colours: bool = False) -> list[str]:
    """What axe finds serious or critical; `enhanced` asks for a contrast of 7 to 1.

    Its script is read once a page: reading it takes as long as half of its rules. Colours take
    most of the rest, so they are looked at once for each way of showing words.
    """
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE_SCRIPT)
    colours = ["color-contrast", *(["color-contrast-enhanced"] if enhanced else [])]
    found = page.evaluate(
        f"""async ([colours, whole]) => {{
          const resultTypes = ["violations"]; // nobody reads what was passed
          const off = Object.fromEntries(colours.map((rule) => [rule, {{ enabled: false }}]));
          const all = whole ? await axe.run({{ rules: off, resultTypes }}) : {{ violations: [] }};
          const chosen = ({EACH_COLOUR})();
          const shown = await axe.run(chosen, {{ runOnly: colours, resultTypes }});
          return [...all.violations, ...shown.violations];
        }}""",
        [colours, not only_colours],
    )
    return [
        f"{one['id']}: {node['target']}: {node['failureSummary'][:300]}"
        for one in found
        if one["impact"] in {"serious", "critical"}
        for node in one["nodes"]
    ]


class BrowserTest(unittest.TestCase):
    """One app a class; each test has a page of its own that may not complain."""

    demo: ClassVar[bool] = False
    searches: ClassVar[bool] = (
        False  # for a better order of work, which is five busy seconds a change
    )
    may_lose_the_server: ClassVar[bool] = False
    weighs: ClassVar[str] = "scale"  # as the device chose; "" where nobody chose yet
    expects: ClassVar[tuple[str, ...]] = ()  # in the console, of tests that bring it about
    settings: ClassVar[dict[str, str]] = {}  # of the app, by their LEPIDOS_ names
    server: ClassVar[Server]
    complaints: list[str]  # of the page opened last

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.server = Server(Path(folder.name), cls.demo, cls.searches, **cls.settings)
        cls.server.start()
        cls.addClassCleanup(cls.server.kill)

    def open(self, size: dict[str, int] = LAPTOP, **more: Any) -> Page:
        """A fresh browser window. At the test's end it must not have complained."""
        still = {
            "reduced_motion": "reduce"
        }  # LoadingTest looks at what moves: it is painted on and on
        chosen = {"locale": "en-GB", "service_workers": "block"} | still | more
        context = chromium().new_context(viewport=size, base_url=self.server.base, **chosen)
        self.addCleanup(context.close)
        if self.weighs:
            context.add_cookies([{"name": "weighs", "value": self.weighs, "url": self.server.base}])
        page = context.new_page()
        page.set_default_timeout(30_000)  # the machine is shared and at times slow
        complaints: list[str] = []
        self.complaints = complaints
        page.on(
            "console",
            lambda m: complaints.append(m.text) if m.type in {"error", "warning"} else None,
        )
        page.on("pageerror", lambda e: complaints.append(str(e)))
        lost = (*self.expects, *(LOST if self.may_lose_the_server else ()))
        self.addCleanup(lambda: self.assertEqual(_unexpected(complaints, lost), []))
        return page

    def door(self, page: Page, name: str) -> None:
        """Open a door of the bench, or the other face of the deck, on a small screen."""
        if page.viewport_size and page.viewport_size["width"] <= SMALL_PX:
            button = page.locator("[data-doors]").get_by_role("button", name=name, exact=True)
            button.wait_for()
            page.wait_for_load_state()  # on a slow machine the page is there before its scripts
            button.click()

    def assert_accessible(self, page: Page) -> None:
        """No serious or critical finding of axe."""
        self.assertEqual(_settled(page, lambda: findings(page)), [], page.url)

    def assert_stands(self, page: Page) -> None:
        """It fits, and axe finds nothing; it looks once for what a day brings, on the laptop.

        `test_pages` has it look at every view in both windows.
        """
        if page.viewport_size == LAPTOP:
            self.assert_accessible(page)
        self.assert_fits(page)

    def assert_fits(self, page: Page) -> None:
        """Nothing sticks out at the side."""
        wide = _settled(page, lambda: page.evaluate(TOO_WIDE))
        self.assertLessEqual(wide, 0, page.url)


def _settled(page: Page, look: Callable[[], Any]) -> Any:
    """What a look at a page gives; of the page that a touch just began, where it did."""
    for _ in range(LOOKS - 1):
        try:
            return look()
        except PlaywrightError as error:
            if not any(said in error.message for said in ON_ITS_WAY):
                raise
            page.wait_for_timeout(100)
            page.wait_for_load_state()
    return look()


def _unexpected(complaints: list[str], lost: tuple[str, ...]) -> list[str]:
    # a refused form is an answer with status 4xx, which Chromium notes in its console
    known = (
        "the server responded with a status of 4",
        "Service Worker registration blocked",
        *lost,
    )
    return [c for c in complaints if not any(k in c for k in known)]

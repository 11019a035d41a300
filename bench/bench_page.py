"""Whether the scale's readings slow the bench's page: `python -m bench.bench_page`.

The page is open in Chromium; the stand-in's pan is still, then a cat sits on it, so that the display
changes with each of its twenty readings a second. Measured in the page: how long a typed take needs until
the strip shows it, and the longest time between two frames meanwhile.
"""

import re
import statistics
import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from bench.deck import post
from bench.weighing import day
from tests.browser.chromium import ARGS, LAPTOP, program
from tests.server import Server

TAKES = 20
FRAMES = """() => {
  window.gaps = []; let last = performance.now();
  const frame = (now) => { window.gaps.push(now - last); last = now; requestAnimationFrame(frame); };
  requestAnimationFrame(frame);
}"""
TAKE = """() => new Promise((done) => {
  const shown = () => document.querySelector("#d-weighings summary")?.textContent;
  const before = shown(), began = performance.now();
  document.querySelector("#weight").value = "0.012";
  document.querySelector('#bench-pieces button[value="trim"]').click();
  const look = () => (shown() === before ? requestAnimationFrame(look) : done(performance.now() - began));
  look();
})"""


def measure(page: Page) -> tuple[list[float], list[float], int]:
    """Takes [ms], gaps between frames [ms], changes of the display meanwhile."""
    page.evaluate("""() => { window.shows = 0;
      new MutationObserver(() => window.shows++).observe(document.querySelector("[data-shown]"),
        { childList: true, characterData: true, subtree: true }); }""")
    page.evaluate(FRAMES)
    takes = []
    for _ in range(TAKES):
        takes.append(page.evaluate(TAKE))
        page.wait_for_timeout(250)
    return takes, page.evaluate("window.gaps"), page.evaluate("window.shows")


def main() -> None:
    """Measure and print Markdown."""
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as play:
        server = Server(Path(folder))
        server.start()
        browser = play.chromium.launch(executable_path=program(), args=ARGS)
        try:
            _, boards, fish = day(server, 20)
            post(server.port, f"{fish[0]}/board", {"key": "page-board-1", "board": boards[0]})
            page = browser.new_page(viewport=LAPTOP, base_url=server.base, locale="en-GB")
            print(
                "| the pan | display changes a second | a take until the strip shows it, median | worst | "
                "gap between frames, 99 of 100 | longest |\n|---|---|---|---|---|---|"
            )
            for name, order in (
                ("still", "no_cat"),
                ("a cat on it", "cat"),
                ("still again", "no_cat"),
            ):
                post(server.port, "/devices/scale", {"do": order})
                page.goto(fish[0])
                page.locator(".lamp").filter(has_text=re.compile("steady|moving")).wait_for()
                page.wait_for_timeout(6000)  # the search for an order has ended
                takes, gaps, shows = measure(page)
                seconds = sum(gaps) / 1000
                gaps.sort()
                print(
                    f"| {name} | {shows / seconds:.0f} | {statistics.median(takes):.0f} ms | {max(takes):.0f} ms | "
                    f"{gaps[int(0.99 * len(gaps))]:.0f} ms | {gaps[-1]:.0f} ms |",
                    flush=True,
                )
        finally:
            browser.close()
            server.kill()


if __name__ == "__main__":
    main()

"""The app on a device when nothing answers: opened once, it opens again, lands, weighs and tells."""

import json
import re
import urllib.request
from typing import Any, ClassVar

from playwright.sync_api import Page, expect

from tests.browser.chromium import PHONE, BrowserTest, chromium
from tests.strangers import Asking, Relay

HOLDS = """async ([path, text]) => {
  const kept = await (await caches.open("lepidos-pages")).match(path);
  return Boolean(kept && (await kept.text()).includes(text));
}"""


class WithoutSignalTest(BrowserTest):
    demo = True
    may_lose_the_server = True
    expects = ("status of 503",)  # as the worker says it for the app

    def setUp(self) -> None:
        self.page = self.open(PHONE, service_workers="allow", has_touch=True)
        self.addCleanup(self.back_again)
        self.trip = self.get("/api/v1/trips")["trips"][0]["id"]

    def back_again(self) -> None:
        if not self.server.answers():
            self.server.start()

    def get(self, path: str) -> Any:
        with urllib.request.urlopen(self.server.base + path, timeout=30) as answer:
            return json.load(answer)

    def kept(self, page: Page, path: str, text: str = "") -> None:
        """Wait until a page is kept, and holds some text: one is fetched after another."""
        for _ in range(300):
            if page.evaluate(HOLDS, [path, text]):
                return
            page.wait_for_timeout(200)
        self.fail(f"{path} was not kept")

    def first_to_cut(self) -> dict[str, Any]:
        fish = self.get(f"/api/v1/trips/{self.trip}/fish")
        return next(f for f in fish if f["stage"] == "slab" and f["species"] == "pollack")

    def test_opened_once_it_opens_lands_weighs_and_shows_plan_and_first_aid(self) -> None:
        page, trip = self.page, self.trip
        fish = self.first_to_cut()
        before = len(self.get(f"/api/v1/trips/{trip}/fish"))
        page.goto("/")
        self.kept(page, f"/fish/{fish['id']}")
        self.kept(page, "/first-aid")
        self.kept(page, "/guide/pollack")
        self.server.kill()

        page.goto("/")
        note = page.locator(".kept-note")
        expect(note).to_contain_text("No answer: this page is of")
        expect(page.locator(".keypad")).to_be_visible()  # and with it the script
        page.locator("label", has_text="Mackerel").first.click()
        page.get_by_label("Length, cm").fill("31.5")
        page.get_by_role("button", name="Land it").click()
        expect(page.get_by_text("1 on the way: Mackerel 31.5")).to_be_visible()

        page.goto(f"/fish/{fish['id']}")
        expect(note).to_be_visible()
        page.get_by_label("Or type the weight").fill("123 g")
        page.locator("#b-take").click()
        expect(page.get_by_text("1 on the way: gut 123 g")).to_be_visible()

        page.goto("/guide/pollack")
        expect(page.get_by_role("heading", name="Pollack", exact=True)).to_be_visible()
        self.assertGreater(page.locator("[data-step], .step").count(), 5)
        page.goto("/first-aid")
        expect(page.get_by_role("heading", name="First aid").first).to_be_visible()
        page.goto("/trips/elsewhere/deck")
        expect(page.get_by_role("heading", name="The app does not answer")).to_be_visible()

        page.goto(f"/trips/{trip}/deck")
        self.server.start()
        expect(page.get_by_text("on the way")).to_be_hidden(timeout=60_000)
        expect(note).to_have_count(0)
        landed = self.get(f"/api/v1/trips/{trip}/fish")
        self.assertEqual(len(landed), before + 1)
        self.assertEqual(sum(abs(f["length_cm"] - 31.5) < 1e-9 for f in landed), 1)
        weighed = self.get(f"/api/v1/fish/{fish['id']}")["weighings"]
        self.assertEqual([w["kg"] for w in weighed], [0.123])

    def test_a_kept_form_is_another_than_the_one_that_was_sent(self) -> None:
        page = self.page
        page.goto("/settings")
        key = page.locator("form[action='/settings/waters'] [name=key]").first.input_value()
        self.kept(page, "/first-aid")  # the worker is there
        page.reload()
        self.kept(page, "/settings")
        key = page.locator("form[action='/settings/waters'] [name=key]").first.input_value()
        self.server.kill()
        page.reload()
        expect(page.locator(".kept-note")).to_be_visible()
        again = page.locator("form[action='/settings/waters'] [name=key]").first.input_value()
        self.assertNotEqual(again, key)
        self.assertRegex(again, r"^[\w-]{8,64}$")
        page.locator("form[action='/theme'] button").first.click()
        expect(page.get_by_text("Nothing was sent. Go back")).to_be_visible()

    def test_what_was_kept_in_other_units_goes(self) -> None:
        page = self.page
        page.goto("/")
        deck = page.evaluate("location.pathname")
        self.kept(page, deck)
        self.kept(page, "/first-aid")
        page.get_by_role("button", name="kg cm").click()
        page.wait_for_load_state()
        self.kept(page, "/first-aid", 'data-units="imperial"')
        page.goto("/settings")
        expect(page.locator("[data-kept-said]")).to_contain_text("pages are kept on this device")


class LetOutTest(BrowserTest):
    """A phone comes by a relay, so that the app sees an address that is not the machine's."""

    may_lose_the_server = True
    expects = ("status of 401", "status of 503")
    settings: ClassVar[dict[str, str]] = {"LEPIDOS_HOST": "0.0.0.0"}

    def test_a_device_that_is_let_out_forgets_what_it_kept_when_it_asks_for_anything(self) -> None:
        relay, here = Relay(self.server.port), Asking(self.server)
        relay.start()
        self.addCleanup(relay.close)
        here.ask("POST", "/trips", key="the-trip-itself", kind="boat", on_date="2026-07-14")
        context = chromium().new_context(viewport=PHONE, service_workers="allow")
        self.addCleanup(context.close)
        page = context.new_page()
        base = f"http://127.0.0.1:{relay.port}"
        here.ask("POST", "/boat/codes", key="codes-of-browser", role="crew")
        _, boat, _ = here.ask("GET", "/boat")
        page.goto(f"{base}/")
        page.get_by_label("Code").fill(re.findall(r'class="code-large">([^<]+)<', boat)[-1])
        page.get_by_label("Whose device").fill("Ines' phone")
        page.get_by_role("button", name="Come aboard").click()
        page.wait_for_url("**/deck")
        deck = page.url.removeprefix(base)
        for _ in range(300):
            if page.evaluate(HOLDS, [deck, ""]):
                break
            page.wait_for_timeout(200)
        _, boat, _ = here.ask("GET", "/boat")
        out = re.findall(r"/boat/devices/\w+/out", boat)[0]
        here.ask("POST", out, key="out-of-browser")
        page.goto(f"{base}{deck}")
        expect(page).to_have_url(re.compile("/join"))
        page.wait_for_function("async () => (await caches.keys()).length === 0", timeout=60_000)

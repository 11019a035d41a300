"""A scale plugged into the bench's own device, in Chromium with a stand-in for the port."""

import re

from playwright.sync_api import Page, expect

from tests.browser.chromium import PHONE, BrowserTest

# A port whose scale sends what `kg` says, twenty lines a second, and notes what is written to it.
PORT = """
(() => {
  window.pan = { kg: 0, written: "", opened: 0 };
  let send = null;
  const port = {
    async open() {
      window.pan.opened += 1;
      this.readable = new ReadableStream({ start(controller) { send = controller; } });
      this.writable = new WritableStream({
        write(bytes) { window.pan.written += new TextDecoder().decode(bytes); },
      });
      window.pan.timer = setInterval(() => {
        const line = JSON.stringify({ gross: window.pan.kg * 1000, unit: "g" }) + "\\n";
        const bytes = new TextEncoder().encode(line);
        send.enqueue(bytes.slice(0, 5)); // lines come in pieces
        send.enqueue(bytes.slice(5));
      }, 50);
    },
  };
  window.pan.unplug = () => { clearInterval(window.pan.timer); send.error(new Error("gone")); };
  Object.defineProperty(navigator, "serial", {
    value: { requestPort: async () => port, getPorts: async () => [port] }, configurable: true,
  });
})();
"""


class OwnScaleTest(BrowserTest):
    demo = True

    def to_a_bench(self, page: Page) -> None:
        page.goto("/")
        page.goto(page.url.replace("/deck", "/table"))
        found = re.search(r'href="(/fish/\w+)"', page.content())
        assert found
        page.goto(found[1])

    def test_it_is_shown_taken_from_zeroed_and_missed(self) -> None:
        page = self.open()
        page.add_init_script(PORT)
        self.to_a_bench(page)
        button = page.get_by_role("button", name="Scale on this device")
        expect(button).to_have_attribute("aria-pressed", "false")
        button.click()
        expect(button).to_have_attribute("aria-pressed", "true")
        page.evaluate("pan.kg = 0.084")
        expect(page.locator("[data-shown]")).to_have_text(re.compile(r"0\.08[345]"))
        expect(page.locator(".lamp")).to_have_text("steady")
        said = page.get_by_role("status", name="").filter(has_text=re.compile(r"8[345] g")).first
        for _ in range(5):
            # on a busy machine a line may be late and the display moving: one presses again
            page.locator("#b-take").click()
            page.wait_for_timeout(2000)
            if said.count():
                break
        expect(said).to_be_visible()
        page.evaluate("pan.kg = 0.004")
        expect(page.locator("[data-shown]")).to_have_text(re.compile(r"0\.00[345]"))
        page.wait_for_timeout(800)
        expect(page.locator(".lamp")).to_have_text("steady")
        for _ in range(5):  # as above
            page.get_by_role("button", name="Zero").click()
            page.wait_for_timeout(2000)
            if page.evaluate("pan.written.includes('zero')"):
                break
        self.assertIn('"zero"', page.evaluate("pan.written"))
        expect(page.locator("[data-shown]")).to_have_text(re.compile(r"^-?0\.00[01]$"))
        # on the next page it is there without being asked for again
        page.reload()
        expect(page.get_by_role("button", name="Scale on this device")).to_have_attribute(
            "aria-pressed", "true"
        )
        page.evaluate("pan.unplug()")
        expect(page.get_by_text("The scale on this device went away")).to_be_visible()
        expect(button).to_have_attribute("aria-pressed", "false")

    def test_without_such_a_browser_nothing_is_offered(self) -> None:
        page = self.open(PHONE)
        page.add_init_script("delete Navigator.prototype.serial")
        self.to_a_bench(page)
        self.door(page, "Scale")
        expect(page.get_by_role("button", name="Tare")).to_be_visible()
        expect(page.locator("[data-own-scale]")).to_be_hidden()

"""What watches over every other browser test notices what it is there for."""

from tests.browser.chromium import BrowserTest, findings

OUTSIDE = "http://outside.example/picture.png"
ASK = """
  url => new Promise((done) => {
    const picture = new Image();
    picture.onload = picture.onerror = done;
    picture.src = url;
  })
"""
WORDS = """
  ([colour, style]) => {
    for (let number = 0; number < 9; number++) {
      const row = document.createElement("p");
      document.querySelector("main").prepend(row);
      row.textContent = "A word";
      row.style.cssText = style;
      if (number === 5) Object.assign(row, { id: "pale" }).style.color = colour;
    }
  }
"""


class WatchTest(BrowserTest):
    def test_what_asks_for_something_outside_is_told_of(self) -> None:
        page = self.open()
        for address, said in (("/", "violates"), ("about:blank", "ERR_NAME_NOT_RESOLVED")):
            page.goto(address)
            page.evaluate(ASK, OUTSIDE)
            page.wait_for_timeout(100)
            self.assertIn(said, "\n".join(self.complaints))
            self.complaints.clear()

    def test_one_pale_word_among_many_alike_is_seen(self) -> None:
        page = self.open()
        for style in ("", "position: relative; opacity: 0.99", "position: sticky"):
            for only_colours in (False, True):
                with self.subTest(style=style, only_colours=only_colours):
                    page.goto("/")
                    self.assertEqual(findings(page, only_colours=only_colours), [])
                    page.evaluate(WORDS, ["#bbb", style])
                    found = findings(page, only_colours=only_colours)
                    self.assertRegex("\n".join(found), "color-contrast: .*pale")

    def test_what_is_no_matter_of_colour_is_seen(self) -> None:
        page = self.open()
        page.goto("/")
        page.evaluate("document.querySelector('main').append(document.createElement('button'))")
        self.assertRegex("\n".join(findings(page)), "button-name")

"""Pack in the browser: the demo's whole table at a touch a bag, two touches to move, and the split."""

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.chromium import LAPTOP, PHONE, BrowserTest

LINES_OF_WEIGHT = r"""
  () => {
    const words = document.createTreeWalker(document.querySelector(".label"), NodeFilter.SHOW_TEXT);
    while (words.nextNode()) {
      const weight = words.currentNode.data.match(/\d[\d.]* k?g/);
      if (!weight) continue;
      const range = new Range();
      range.setStart(words.currentNode, weight.index);
      range.setEnd(words.currentNode, weight.index + weight[0].length);
      return new Set([...range.getClientRects()].map((box) => Math.round(box.top))).size;
    }
    return 0;
  }
"""

TALL = {"width": 1280, "height": 1500}  # both ends of a drag are in sight


class DemoPack(BrowserTest):
    """What the tests of the demo's table in bags share."""

    demo = True

    def pack(self, page: Page) -> None:
        page.goto("/")
        page.goto(page.url.replace("/deck", "/pack"))


class SplitTest(DemoPack):
    searches = True  # for a better split

    def test_who_takes_what_is_chosen_in_two_touches_and_can_be_read_by_a_party(self) -> None:
        page = self.open(LAPTOP)
        self.pack(page)
        page.locator("#d-sharing > summary").click()
        page.get_by_role("button", name="All fish pooled, equal parts").click()
        expect(page.locator(".due").first).to_contain_text("gets")
        page.locator("#d-sharing > summary").click()
        # a better one than the first is found in the background, and proven, while the page is open
        expect(page.locator("#d-sharing")).to_contain_text(
            "No other split of these bags", timeout=60_000
        )
        self.assert_accessible(page)
        page.get_by_role("link", name="Marsh's sheet").click()
        expect(page.get_by_text("why did I get this")).to_be_visible()
        self.assert_accessible(page)
        page.go_back()
        page.locator("#d-sharing > summary").click()
        page.get_by_role("button", name="Each takes the fish it caught").click()
        expect(page.get_by_role("status")).to_contain_text("the fish it caught")


class PackTest(DemoPack):
    may_lose_the_server = True  # one test takes the connection away

    def test_a_the_first_label_is_two_touches_from_the_trips_page(self) -> None:
        page = self.open(PHONE, has_touch=True)
        page.goto("/")
        page.get_by_role("link", name=re.compile("^Pack")).tap()
        seal = page.get_by_role("button", name="Seal and print")
        # in sight without scrolling, above the stations
        expect(seal).to_be_in_viewport(ratio=1)
        seal.tap()
        expect(page.get_by_role("status")).to_contain_text("sealed")
        expect(page.locator(".label")).to_contain_text("Best by")
        self.assertEqual(page.evaluate("scrollY"), 0)
        # however narrow it is shown, a weight is not torn from its unit
        for width in range(340, 420, 8):
            page.set_viewport_size({"width": width, "height": 844})
            self.assertEqual(page.evaluate(LINES_OF_WEIGHT), 1, f"{width} px")
        page.set_viewport_size(PHONE)
        page.get_by_role("button", name=re.compile("^Undo")).tap()
        expect(page.get_by_role("status")).to_contain_text("undone")

    def test_b_a_piece_is_moved_in_two_touches_and_back(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.pack(page)
        bellies = page.locator(".one-bag", has_text="Cod bellies").first
        bellies.tap()
        expect(page.locator(".next-bag h2").first).to_contain_text("Cod bellies")
        count = page.locator("a.one-bag").count()
        page.get_by_role("link", name=re.compile("^Move")).first.tap()
        page.get_by_role("button", name="A bag of its own").tap()
        expect(page.get_by_role("status")).to_contain_text("in a bag of its own")
        expect(page.locator("a.one-bag")).to_have_count(count + 1)
        page.locator(".one-bag", has_text=re.compile("Cod belly")).first.tap()
        page.get_by_role("link", name=re.compile("^Move")).first.tap()
        expect(page.get_by_text("Where does")).to_be_visible()
        self.assert_accessible(page)
        page.get_by_role("button", name=re.compile("Put it here")).first.tap()
        expect(page.locator("a.one-bag")).to_have_count(count)

    def drag(self, page: Page, source: str, target: str) -> None:
        """By mouse, from the middle of one to the middle of the other."""
        page.locator(target).scroll_into_view_if_needed()
        spots = [page.locator(one).bounding_box() for one in (source, target)]
        (x, y), (to_x, to_y) = ((b["x"] + b["width"] / 2, b["y"] + 20) for b in spots if b)
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 20, y + 20, steps=4)
        page.mouse.move(to_x, to_y, steps=8)
        page.mouse.up()

    def test_b_bags_and_pieces_are_dragged(self) -> None:
        page = self.open(TALL)
        self.pack(page)
        count = page.locator("a.one-bag").count()
        page.locator(".one-bag", has_text="Cod bellies").first.click()
        expect(page.locator(".next-bag h2").first).to_contain_text("Cod bellies")
        # a piece out of its bag: dropped on its column's heading it lies in one of its own
        mine = "section.bag-column:has(.one-bag.at-hand) h2 >> nth=0"
        self.drag(page, ".in-it li >> nth=0", mine)
        expect(page.get_by_role("status")).to_contain_text("in a bag of its own")
        expect(page.locator("a.one-bag")).to_have_count(count + 1)
        # and dropped on the other belly they lie together again
        belly = '.one-bag:has-text("Cod belly") >> nth={} >> svg'
        self.drag(page, belly.format(0), belly.format(1))
        expect(page.get_by_role("status")).to_contain_text("with C")
        expect(page.locator("a.one-bag")).to_have_count(count)
        # a bag dropped in another party's column is theirs, and undo takes it back
        # found again each time: the page takes in parts that changed, and they lose what was set on them
        okoro = 'section.bag-column:has-text("Okoro") >> nth=0'
        bags = page.locator(f"{okoro} >> a.one-bag")
        before = bags.count()
        self.drag(page, '.one-bag:has-text("Cod cheeks") >> nth=0 >> svg', f"{okoro} >> h2")
        expect(page.get_by_role("status")).to_contain_text("for Okoro")
        expect(bags).to_have_count(before + 1)
        page.get_by_role("button", name=re.compile("^Undo")).click()
        expect(page.get_by_role("status")).to_contain_text("as they were")
        expect(bags).to_have_count(before)
        # what may not share a bag stays where it is, and the bag is not opened by the drop
        at = page.url.partition("?")[0]
        expect(page).to_have_url(at)  # what was done is said once, and then gone from the address
        page.locator(".one-bag", has_text="Cod cheeks").first.evaluate("e => e.id = 'cheeks'")
        page.locator(".one-bag", has_text="Turbot").last.evaluate("e => e.id = 'turbot'")
        self.drag(page, "#cheeks svg", "#turbot svg")
        expect(page.locator(".drag-ghost")).to_have_count(0)
        expect(page).to_have_url(at)

    def test_b_a_finger_that_stays_takes_a_bag_and_one_that_pulls_scrolls(self) -> None:
        page = self.open(TALL, has_touch=True)
        self.pack(page)
        cheeks = page.locator(".one-bag", has_text="Cod cheeks").first
        finger = page.context.new_cdp_session(page)

        def touch(kind: str, x: float = 0, y: float = 0) -> None:
            points = [{"x": x, "y": y}] if kind != "touchEnd" else []
            finger.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})

        def middle(of: Locator) -> tuple[float, float]:
            box = of.bounding_box()
            assert box
            return box["x"] + box["width"] / 2, box["y"] + 20

        x, y = middle(cheeks)
        touch("touchStart", x, y)
        touch("touchMove", x, y - 60)
        page.wait_for_timeout(500)  # longer than a hold
        expect(page.locator(".drag-ghost")).to_have_count(0)
        touch("touchEnd")
        heading = page.locator("section.bag-column h2", has_text="Okoro").first
        touch("touchStart", *middle(cheeks))
        expect(page.locator(".drag-ghost")).to_have_count(1)
        touch("touchMove", *middle(heading))
        touch("touchEnd")
        expect(page.get_by_role("status")).to_contain_text("for Okoro")
        page.get_by_role("button", name=re.compile("^Undo")).click()
        expect(page.get_by_role("status")).to_contain_text("as they were")

    def test_b_columns_are_chosen_and_stay(self) -> None:
        page = self.open(LAPTOP)
        self.pack(page)
        bags = page.locator("a.one-bag").count()
        page.get_by_role("link", name="by day caught").click()
        expect(page.locator(".bag-column h2").first).to_contain_text("14 Jul 2026")
        expect(page.locator("a.one-bag")).to_have_count(bags)
        self.pack(page)
        expect(page.locator(".bag-column h2").first).to_contain_text("14 Jul 2026")
        self.assert_accessible(page)
        page.get_by_role("link", name="by freezer").click()
        expect(page.locator("a.one-bag")).to_have_count(bags)
        page.get_by_role("link", name="by party").click()
        expect(page.locator(".bag-column h2").first).to_contain_text("Tolland")

    def test_b_without_the_apps_answer_the_page_stays_and_says_so(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.pack(page)
        seal = page.get_by_role("button", name="Seal and print")
        page.locator("#weight").fill("0.31")
        page.context.set_offline(True)
        seal.tap()
        expect(page.get_by_role("alert")).to_contain_text("does not answer")
        expect(page.locator("#weight")).to_have_value("0.31")
        page.locator("#weight").fill("")
        page.context.set_offline(False)
        seal.tap()
        expect(page.get_by_role("status")).to_contain_text("sealed")
        page.get_by_role("button", name=re.compile("^Undo")).tap()
        expect(page.get_by_role("status")).to_contain_text("undone")

    def test_c_a_guests_wish_is_said_by_name(self) -> None:
        page = self.open(LAPTOP)
        self.pack(page)
        page.locator("#d-wishes > summary").click()
        line = page.locator("details.guests").first
        line.locator("summary").click()
        line.get_by_label("Name").fill("Ada")
        line.get_by_label(re.compile("labels")).fill("boneless")
        line.get_by_label("Turbot").check()
        line.get_by_role("button", name="Keep").click()
        expect(page.get_by_role("status")).to_contain_text("Ada of Tolland: noted")
        page.locator(".one-bag", has_text="Turbot").first.click()
        expect(page.get_by_text("Not for Ada")).to_be_visible()
        page.locator("#d-wishes > summary").click()
        self.assert_accessible(page)

    def test_d_servings_and_the_box_are_said_by_keyboard(self) -> None:
        page = self.open(LAPTOP)
        self.pack(page)
        page.locator("#d-servings summary").focus()
        page.keyboard.press("Enter")
        line = page.locator(".rule-line", has_text="Okoro").first
        line.get_by_label("in a bag").select_option("4")
        line.get_by_role("button", name="Keep").focus()
        page.keyboard.press("Enter")
        expect(page.get_by_role("status")).to_contain_text("Okoro: 4 servings of 200 g in a bag")
        page.locator("#d-supplies summary").focus()
        page.keyboard.press("Enter")
        for name, value in (("Width", "20"), ("Length", "30"), ("There are", "2")):
            page.locator("#d-supplies").get_by_label(re.compile(f"^{name}")).fill(value)
        page.keyboard.press("Enter")
        expect(page.get_by_role("status")).to_contain_text("Bags 20.0 cm × 30.0 cm: 2 left")
        page.locator("#d-supplies summary").click()
        expect(page.locator("#d-supplies table")).to_contain_text("20 cm × 30 cm")
        self.assert_accessible(page)

    def test_d_marks_are_dragged_and_the_grams_follow(self) -> None:
        page = self.open(LAPTOP)
        self.pack(page)
        page.get_by_text("Piece by piece").click()
        page.locator("#d-pieces a", has_text=re.compile("C1 cod fillet A")).click()
        page.get_by_role("button", name="3 equal").click()
        expect(page.get_by_role("status")).to_contain_text("C1 fillet A: 2 cuts")
        grips = page.get_by_role("slider")
        expect(grips).to_have_count(2)
        weights = page.locator(".fillet-drawing text.kg")
        before = [float(text.split()[0]) for text in weights.all_text_contents()]
        self.assertLess(max(before) - min(before), 2)  # rounded to grams
        box = grips.first.locator(".mark").bounding_box()
        assert box
        page.mouse.move(box["x"], box["y"] + 60)
        page.mouse.down()
        page.mouse.move(box["x"] + 40, box["y"] + 60, steps=4)
        page.mouse.up()
        after = [float(text.split()[0]) for text in weights.all_text_contents()]
        self.assertGreater(after[0], before[0] + 20)
        self.assertAlmostEqual(after[2], before[2], delta=1)
        self.assertAlmostEqual(sum(after), sum(before), delta=3)
        grips.last.focus()
        page.keyboard.press("Shift+ArrowRight")
        self.assertLess(float(str(weights.last.text_content()).split()[0]), after[2] - 5)
        shown = weights.all_text_contents()
        page.get_by_role("button", name="Keep the marks where I put them").click()
        expect(page.locator(".dragged")).to_be_hidden()
        # what the browser reckoned while dragging is what the core says, to a gram
        for mine, core in zip(shown, weights.all_text_contents(), strict=True):
            self.assertAlmostEqual(float(mine.split()[0]), float(core.split()[0]), delta=1)
        self.assert_accessible(page)

    def test_e_the_whole_table_is_packed_at_one_touch_a_bag(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.pack(page)
        ahead = page.locator("a.one-bag").count()
        self.assertGreater(ahead, 12)
        pieces = page.locator("#d-pieces .pick li").count()
        self.assertLess(ahead, pieces)
        parties = page.locator(".bag-column").count()
        seal, touches, codes = page.get_by_role("button", name="Seal and print"), 0, set()
        while seal.count():
            expect(seal).to_be_in_viewport(ratio=1)
            with page.expect_navigation():
                seal.tap()
            touches += 1
            said = page.get_by_role("status")
            expect(said).to_contain_text("sealed")
            codes.add(said.inner_text())
            self.assertLessEqual(touches, ahead + parties)
        self.assertEqual(touches, ahead)
        self.assertEqual(len(codes), touches)
        expect(page.get_by_text("All of it is in bags.")).to_be_visible()
        expect(page.get_by_role("link", name="Put them in the freezer")).to_be_visible()
        self.assert_accessible(page)

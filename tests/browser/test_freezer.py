"""The freezer in the browser: bags in hand, dragged, counted, scanned; a logger's file; a meal."""

import re
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import ClassVar

import pypdfium2
from PIL import Image
from playwright.sync_api import Locator, Page, expect

from tests.browser.chromium import LAPTOP, PHONE, BrowserTest, playwright, program

TALL = {"width": 1280, "height": 2200}  # all places are in sight
NOW = datetime(2026, 7, 14, 12, 0, tzinfo=UTC)


def film(picture: Image.Image, path: Path) -> None:
    """Two frames of one picture on white, uncompressed."""
    size = (640, 480)
    picture.thumbnail(size)
    frame = Image.new("RGB", size, "white")
    frame.paste(picture, ((size[0] - picture.width) // 2, (size[1] - picture.height) // 2))
    y, cb, cr = frame.convert("YCbCr").split()
    half = (size[0] // 2, size[1] // 2)
    planes = y.tobytes() + cb.resize(half).tobytes() + cr.resize(half).tobytes()
    head = f"YUV4MPEG2 W{size[0]} H{size[1]} F10:1 Ip C420jpeg\n".encode()
    path.write_bytes(head + 2 * (b"FRAME\n" + planes))


class FreezerTest(BrowserTest):
    demo = True

    def freezer(self, page: Page) -> str:
        """Open it; its address."""
        page.goto("/")
        page.goto(page.url.replace("/deck", "/freezer"))
        return page.url

    def box(self, page: Page, name: str) -> Locator:
        return page.get_by_role("region", name=name, exact=True)

    def bags(self, page: Page, name: str) -> int:
        text = self.box(page, name).locator("h2 small").inner_text()
        return int(re.findall(r"(\d+) bag", text)[0])

    def test_a_two_touches_move_a_bag_and_undo_takes_a_handful_back(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.freezer(page)
        top, kitchen = self.box(page, "chest, top basket"), self.box(page, "kitchen freezer")
        before = self.bags(page, "chest, top basket"), self.bags(page, "kitchen freezer")
        expect(kitchen.get_by_role("button", name="Put here")).to_be_hidden()
        for n in (0, 1):
            top.locator(".bag-block label").nth(n).tap()
        hand = page.get_by_role("form", name="Bags in hand")
        expect(hand).to_contain_text("2 bags in hand")
        expect(hand).to_be_in_viewport()
        self.assert_accessible(page)
        with page.expect_navigation():
            kitchen.get_by_role("button", name="Put here").tap()
        expect(page.get_by_role("status")).to_contain_text("2 bags in kitchen freezer")
        after = self.bags(page, "chest, top basket"), self.bags(page, "kitchen freezer")
        self.assertEqual(after, (before[0] - 2, before[1] + 2))
        page.get_by_role("button", name=re.compile("^Undo")).tap()
        expect(page.get_by_role("status")).to_contain_text("2 bags are where they were")
        self.freezer(page)
        self.assertEqual(self.bags(page, "kitchen freezer"), before[1])

    def test_a_thrown_away_with_why(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.freezer(page)
        first = self.box(page, "chest, bottom").locator(".bag-block").first
        code = first.get_attribute("data-code")
        first.locator("label").tap()
        hand = page.get_by_role("form", name="Bags in hand")
        hand.get_by_text("Thrown away").tap()
        with page.expect_navigation():
            hand.get_by_role("button", name="freezer burn").tap()
        expect(page.get_by_role("status")).to_contain_text("thrown away: freezer burn")
        page.goto(f"/b/{code}")
        expect(page.locator(".history")).to_contain_text("thrown away: freezer burn")
        page.goto("/freezer/find?q=" + str(code))
        expect(page.get_by_text("No bag fits")).to_be_visible()
        page.get_by_label("Also what was eaten").check()
        page.get_by_role("button", name="Find", exact=True).click()
        expect(page.get_by_role("link", name=f"{code[:3]}-{code[3:]}")).to_be_visible()
        self.assert_accessible(page)

    def test_b_a_bag_is_dragged_to_another_place(self) -> None:
        page = self.open(TALL)
        self.freezer(page)
        self.box(page, "kitchen freezer").scroll_into_view_if_needed()
        source = self.box(page, "chest, bottom").locator(".bag-block").last
        code = source.get_attribute("data-code")
        spots = [
            one.bounding_box() for one in (source.locator("svg"), self.box(page, "kitchen freezer"))
        ]
        (x, y), (to_x, to_y) = (
            (b["x"] + b["width"] / 2, b["y"] + b["height"] / 2) for b in spots if b
        )
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 20, y + 20, steps=4)
        page.mouse.move(to_x, to_y, steps=8)
        expect(page.locator(".box.drop-here")).to_have_count(1)
        with page.expect_navigation():
            page.mouse.up()
        expect(page.get_by_role("status")).to_contain_text("in kitchen freezer")
        # two scans: a bag, then a place
        chest = self.box(page, "chest, bottom").get_attribute("data-place")
        page.get_by_label("Code on the label").fill(str(code))
        page.keyboard.press("Enter")
        expect(page.get_by_label("Or scan the place")).to_be_focused()
        self.assertEqual(page.evaluate("scrollY + document.querySelector('main').scrollTop"), 0)
        page.keyboard.type("the shed")
        page.keyboard.press("Enter")
        expect(page.get_by_text("No place has the code").first).to_be_visible()
        page.get_by_label("Or scan the place").fill(f"http://boat/freezer/places/{chest}")
        page.keyboard.press("Enter")
        expect(page.get_by_text("In chest, bottom", exact=True)).to_be_visible()
        self.assert_accessible(page)

    def test_b_a_bags_page_opens_at_its_top_on_a_phone(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.freezer(page)
        page.goto("/b/" + str(page.locator(".bag-block").last.get_attribute("data-code")))
        expect(page.get_by_label("Or scan the place")).to_be_focused()
        self.assertEqual(page.evaluate("scrollY"), 0)

    def test_c_a_place_is_counted_by_scanning(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.freezer(page)
        strange = (
            self.box(page, "chest, top basket")
            .locator(".bag-block")
            .first.get_attribute("data-code")
        )
        page.get_by_role("link", name="chest, bottom", exact=True).tap()
        page.get_by_role("link", name="Count what is in it").tap()
        expect(page.get_by_role("heading", name="Count chest, bottom")).to_be_visible()
        rows = page.locator('input[name="codes"]')
        codes = [rows.nth(n).get_attribute("value") for n in range(rows.count())]
        field = page.get_by_label("Scan or type a code")
        for code in (*codes[1:], strange):
            field.fill(str(code).lower())
            field.press("Enter")
        expect(page.locator("[data-counted]")).to_contain_text(
            f"{len(codes) - 1} of {len(codes)} seen"
        )
        self.assert_accessible(page)
        with page.expect_navigation():
            page.get_by_role("button", name="That is all there is").tap()
        expect(page.get_by_role("status")).to_contain_text("1 missing, 1 that should not be there")
        with page.expect_navigation():
            page.get_by_role("button", name="They are here now").tap()
        expect(page.get_by_role("status")).to_contain_text("in chest, bottom")
        with page.expect_navigation():
            page.get_by_role("button", name="Gone, nobody knows").tap()
        expect(page.get_by_role("status")).to_contain_text("taken out, missing")
        self.assert_accessible(page)

    def test_d_a_loggers_file_is_looked_at_confirmed_and_drawn(self) -> None:
        page = self.open(LAPTOP)
        self.freezer(page)
        page.get_by_role("link", name="kitchen freezer", exact=True).click()
        expect(page.get_by_text("it never counts")).to_be_visible()
        rows = ["date;value"]
        for n in range(2 * 24 * 12):
            at = NOW - timedelta(days=2) + timedelta(minutes=5 * n)
            rows.append(f"{at:%d.%m.%Y %H:%M};{-19 + n % 3 * 0.5:.1f}".replace(".5", ",5"))
        path = self.server.folder / "log.csv"
        path.write_text("\n".join(rows[:2]).replace(";-", ";hello"))
        page.get_by_label("A logger's file").set_input_files(path)
        page.get_by_role("button", name="Look at it").click()
        expect(page.get_by_text("is this a logger's table?").first).to_be_visible()
        path.write_text("\n".join(rows))
        page.get_by_label("A logger's file").set_input_files(path)
        page.get_by_role("button", name="Look at it").click()
        expect(page.get_by_text("Temperatures are: the file does not tell")).to_be_visible()
        expect(page.get_by_label("day, month, year")).to_be_checked()
        self.assert_accessible(page)
        page.get_by_label("°C").check()
        page.get_by_label("Times without a zone").select_option("UTC")
        page.get_by_role("button", name="Take it in").click()
        expect(page.get_by_role("status")).to_contain_text("576 readings")
        expect(page.get_by_role("img", name=re.compile("The last day"))).to_be_visible()
        self.assert_accessible(page)
        page.get_by_role("button", name="Take them out again").click()
        expect(page.get_by_text("No readings yet")).to_be_visible()

    def test_e_a_meal_is_found_planned_and_called_off(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.freezer(page)
        page.get_by_role("link", name="What to use next").tap()
        page.get_by_label("People").first.fill("2")
        page.get_by_label("On", exact=True).fill("2026-07-17")
        page.get_by_role("button", name="Which bags?").tap()
        expect(page.locator(".box").first).to_contain_text("Take out")
        self.assert_accessible(page)
        with page.expect_navigation():
            page.get_by_role("button", name="Plan this meal").first.tap()
        expect(page.get_by_role("status")).to_contain_text("on Friday 17 July")
        expect(page.locator(".on-day.meal")).to_have_count(1)
        page.get_by_role("button", name="Call it off").tap()
        expect(page.get_by_text("Planned", exact=True)).to_have_count(0)


class CameraTest(BrowserTest):
    """The live camera reads a label: a film of a printed one stands before it."""

    demo = True
    film: ClassVar[Path]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.film = cls.server.folder / "label.y4m"

    def test_a_label_before_the_camera_opens_its_bag(self) -> None:
        page = self.open(LAPTOP)
        page.goto("/")
        page.goto(page.url.replace("/deck", "/freezer"))
        code = str(page.locator(".bag-block").last.get_attribute("data-code"))
        page.goto(f"/b/{code}")
        href = page.get_by_role("link", name="PDF").get_attribute("href")
        pdf = page.request.get(f"{self.server.base}{href}").body()
        film(pypdfium2.PdfDocument(pdf)[0].render(scale=3).to_pil(), self.film)
        camera = playwright().chromium.launch(
            executable_path=program(),
            args=["--no-sandbox", "--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream",
                  f"--use-file-for-fake-video-capture={self.film}"],
        )  # fmt: skip
        self.addCleanup(camera.close)
        page = camera.new_page(base_url=self.server.base, locale="en-GB")
        page.goto("/freezer/find")
        page.get_by_role("button", name="Scan with the camera").click()
        page.wait_for_url(f"**/b/{code}", timeout=30_000)
        expect(page.get_by_role("heading", name=f"Bag {code[:3]}-{code[3:]}")).to_be_visible()

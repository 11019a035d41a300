"""A wound touched on the drawing: the ring stands where the finger was, on either side up."""

from playwright.sync_api import Page, expect

from tests.browser.chromium import LAPTOP, PHONE
from tests.browser.test_session import SessionTest


class SpotTest(SessionTest):
    may_lose_the_server = True

    def touch(self, page: Page, along: float, down: float) -> tuple[float, float]:
        """Touch the drawing there, in parts of its width and height."""
        self.door(page, "Seen")
        page.locator("#d-spot > summary").click()
        drawing = page.locator(".bench-drawing")
        expect(drawing).to_be_in_viewport(ratio=0.9)
        box = drawing.bounding_box()
        assert box
        at = {"x": box["width"] * along, "y": box["height"] * down}
        drawing.click(position=at)
        return along, down

    def ring(self, page: Page) -> tuple[float, float]:
        """The middle of the ring, in parts of the drawing's width and height."""
        page.locator(".spot-ring circle").wait_for()
        ring, drawing = (page.locator(at).bounding_box() for at in
                         (".spot-ring circle", ".bench-drawing"))  # fmt: skip
        assert ring
        assert drawing
        return (
            (ring["x"] + ring["width"] / 2 - drawing["x"]) / drawing["width"],
            (ring["y"] + ring["height"] / 2 - drawing["y"]) / drawing["height"],
        )

    def test_a_wound_touched_on_a_phone_waits_for_the_server_and_stays_where_it_was(self) -> None:
        page = self.bench(PHONE, has_touch=True)
        at = self.touch(page, 0.6, 0.45)
        expect(page.locator("#spot-slot")).to_have_value("fillet.A")
        self.assertEqual(page.locator("#weight").input_value(), "")
        self.assert_accessible(page)
        self.server.kill()
        page.locator("#d-spot").get_by_role("button", name="Wound").click()
        expect(page.locator(".waiting-note")).to_contain_text("Wound")
        self.server.start()
        expect(page.locator("#bench-seen")).to_contain_text("cut out", timeout=20_000)
        expect(page.locator("#bench-went")).to_contain_text("meat cut out")
        page.reload()
        self.door(page, "Seen")  # all of the fish is shown there
        found = self.ring(page)
        for touched, seen in zip(at, found, strict=True):
            self.assertAlmostEqual(seen, touched, delta=0.02)
        self.assert_fits(page)

    def test_a_fish_that_faces_the_other_way_keeps_its_spot_too(self) -> None:
        page = self.bench(LAPTOP, species="plaice", cm=44, kg=None)
        expect(page.locator("#d-spot[data-flip]")).to_have_count(1)
        at = self.touch(page, 0.35, 0.4)
        page.locator("#d-spot").get_by_role("button", name="Worms").click()
        for touched, seen in zip(at, self.ring(page), strict=True):
            self.assertAlmostEqual(seen, touched, delta=0.02)

    def test_a_left_handed_cutter_has_the_drawing_turned_round(self) -> None:
        page = self.bench(LAPTOP)
        fish = page.url
        page.locator(".rail").get_by_role("link", name="Table").click()
        page.get_by_label("left-handed").check()
        page.get_by_role("button", name="Set Ines's board").click()
        page.goto(fish)
        at = self.touch(page, 0.4, 0.45)
        expect(page.locator("#spot-slot")).to_have_value("fillet.A")
        page.locator("#d-spot").get_by_role("button", name="Wound").click()
        for touched, seen in zip(at, self.ring(page), strict=True):
            self.assertAlmostEqual(seen, touched, delta=0.02)
        answer = page.request.get(fish.replace("/fish/", "/api/v1/fish/")).json()
        stored = answer["seen"][0]["x"]
        self.assertAlmostEqual(stored, 0.6, delta=0.03)

    def test_by_keyboard_its_piece_is_chosen(self) -> None:
        page = self.bench(LAPTOP)
        page.locator("#d-spot > summary").focus()
        page.keyboard.press("Enter")
        page.get_by_label("Which piece it is in").select_option("belly.B")
        page.get_by_label("What was cut out weighs").fill("0.031")
        page.locator("#d-spot").get_by_role("button", name="Blood").press("Enter")
        expect(page.locator("#bench-seen")).to_contain_text("belly B: 31 g cut out")
        expect(page.locator(".spot-ring")).to_have_count(0)  # side A is shown

"""A day without a scale, on a phone and on a laptop: finished by eye, typed, bought, without its head."""

import json
import re
import urllib.request
from datetime import date
from typing import Any
from uuid import uuid4

from playwright.sync_api import Page, Route, expect

from tests.browser.chromium import LAPTOP, PHONE, BrowserTest


class WithoutScaleTest(BrowserTest):
    weighs = ""

    def post(self, path: str, **body: Any) -> dict[str, Any]:
        request = urllib.request.Request(
            self.server.base + path,
            json.dumps(body).encode(),
            {"Content-Type": "application/json", "Idempotency-Key": uuid4().hex},
        )
        with urllib.request.urlopen(request, timeout=30) as answer:
            return json.load(answer)

    def get(self, path: str) -> dict[str, Any]:
        with urllib.request.urlopen(self.server.base + path, timeout=30) as answer:
            return json.load(answer)

    def trip(self, kind: str = "boat") -> str:
        more = {"name": "Marram Lass"} if kind == "boat" else {}
        return self.post(
            "/api/v1/trips",
            kind=kind,
            harbour="Skarrow Quay",
            on_date=date.today().isoformat(),
            people=["Ines"],
            **more,
        )["id"]

    def land(self, trip: str, species: str = "cod", cm: float = 70, *states: str) -> str:
        path = f"/api/v1/trips/{trip}/fish"
        return self.post(path, species=species, length_cm=cm, states=[*states])["id"]

    def bench(self, size: dict[str, int], fish: str) -> Page:
        page = self.open(size, has_touch=size is PHONE)
        page.goto(f"/fish/{fish}")
        expect(page.locator("#b-voice, #weigh").first).to_be_attached()
        page.wait_for_load_state()
        return page

    def as_kept(self, route: Route, without: str) -> None:
        """The page as it was kept before something was chosen."""
        answer = route.fetch()
        route.fulfill(response=answer, body=answer.text().replace(without, ""))

    def test_finish_is_in_sight_and_asks_what_was_taken(self) -> None:
        for size in (PHONE, LAPTOP):
            trip = self.trip()
            page = self.bench(size, self.land(trip, "cod", 70, "bled", "iced"))
            ask = page.locator("#b-finish-ask")
            expect(ask).to_be_in_viewport()
            ask.click()
            expect(page.get_by_role("heading", name="What did you take of")).to_be_in_viewport()
            self.assert_stands(page)
            page.get_by_role("button", name="Not yet").click()
            expect(page.locator("#eye-fillet-A")).to_be_hidden()
            if size is LAPTOP:
                page.keyboard.press("f")
                page.keyboard.press("Tab")
                finish = page.locator(".finish-ask").get_by_role("button", name="Finish")
                expect(finish).to_be_focused()
            else:
                ask.click()
            page.locator("#eye-belly-A").uncheck()
            page.locator("#eye-belly-B").uncheck()
            page.locator(".finish-ask").get_by_role("button", name="Finish").click()
            expect(page.get_by_role("heading", name=re.compile("is finished"))).to_be_visible()
            expect(page.locator("#bench-now")).to_contain_text("judged by eye")
            on_fish = page.locator("text.caption", has_text="fillet").first
            expect(on_fish).to_contain_text("≈")
            page.get_by_role("link", name="Pack its pieces").click()
            expect(page.get_by_role("button", name=re.compile("^Seal")).first).to_be_visible()
            self.assertNotIn("belly", page.locator("main").inner_text().lower())
            page.get_by_role("button", name=re.compile("^Seal")).first.click()
            expect(page.locator(".said").first).to_contain_text("sealed")
            expect(page.locator(".label").first).to_contain_text("about")
            page.goto(f"/trips/{trip}/freezer")
            expect(page.locator(".bag-block .est").first).to_be_visible()
            self.assertEqual(page.locator(".bag-block .measured").count(), 0)

    def test_a_typed_weight_goes_to_its_piece_when_none_is_due(self) -> None:
        for size in (PHONE, LAPTOP):
            fish = self.land(self.trip(), "cod", 70, "bled", "gutted", "iced")
            for step in self.get(f"/api/v1/fish/{fish}")["steps"]:
                self.post(f"/api/v1/fish/{fish}/steps", step=step["key"])
            page = self.bench(size, fish)
            expect(page.locator("#b-take")).to_be_hidden()
            field = page.locator("#weight")
            expect(page.locator("#weight-words")).to_contain_text("then touch its piece")
            field.fill("560 g")
            field.press("Enter")
            expect(page.locator("#bench-pieces")).to_contain_text("Which piece weighs 560 g?")
            piece = page.locator("#bench-pieces").get_by_role("button", name="Fillet A", exact=True)
            expect(piece).to_be_in_viewport()
            piece.click()
            expect(page.locator(".panel [data-said]")).to_contain_text("fillet A: 560 g")
            page.wait_for_timeout(650)
            field.fill("90 g")
            zone = page.locator("#zone-belly-A")
            zone.click() if size is LAPTOP else zone.tap()
            expect(page.locator(".panel [data-said]")).to_contain_text("belly A: 90 g")

    def test_a_bought_fish_is_never_told_to_be_dispatched_or_bled(self) -> None:
        trip = self.trip("bought")
        fish = self.land(trip, "mackerel", 36)
        page = self.open(PHONE, has_touch=True)
        for path in (
            f"/trips/{trip}/deck",
            f"/fish/{fish}/card",
            f"/fish/{fish}",
            f"/trips/{trip}/table",
        ):
            page.goto(path)
            with self.subTest(path=path):
                shown = page.locator("main").inner_text().lower()
                self.assertNotRegex(shown, r"dispatch|bleed|not bled|\bbled\b")
                panel = page.locator("aside").all_inner_texts()
                self.assertNotRegex(" ".join(panel).lower(), r"dispatch|bleed|not bled|\bbled\b")
        page.goto(f"/trips/{trip}/deck")
        expect(page.locator("label[for=st-gutted]")).to_be_visible()
        self.assertEqual(page.locator("label[for=st-bled], label[for=st-dispatched]").count(), 0)

    def test_a_fish_without_its_head_is_landed_and_cut_without_one(self) -> None:
        trip = self.trip()
        page = self.open(PHONE, has_touch=True)
        page.goto(f"/trips/{trip}/deck")
        expect(page.locator("label[for=st-headed]")).to_contain_text("Head off")
        page.goto(f"/fish/{self.land(trip, 'monkfish', 80, 'headed', 'iced')}")
        self.assertEqual(page.locator("#zone-head").count(), 0)
        page.locator("[data-door=plan]").click()
        plan = page.locator("#bench-plan").inner_text()
        self.assertIn("Weigh the frame", plan)
        self.assertNotRegex(plan.lower(), r"\bhead\b|gut")
        page.keyboard.press("Escape")
        page.locator("[data-door=pieces]").click()
        self.assertEqual(
            page.locator("#bench-pieces").get_by_role("button", name="Head", exact=True).count(), 0
        )

    def test_each_piece_is_one_touch_and_a_measure_of_the_hand_another(self) -> None:
        for size in (PHONE, LAPTOP):
            fish = self.land(self.trip(), "cod", 70, "bled", "gutted", "iced")
            page = self.bench(size, fish)
            take = page.locator("#b-take")
            expect(page.locator(".scale .shown")).to_be_hidden()
            expect(take).to_contain_text("Took", use_inner_text=True)
            expect(take).to_contain_text("belly A")
            expect(page.locator("#bench-take")).to_contain_text("counts as")
            self.assert_stands(page)
            take.click() if size is LAPTOP else take.tap()
            said = page.locator(".panel [data-said]")
            expect(said).to_contain_text("belly A taken: about")
            expect(take).to_contain_text("belly B")
            page.wait_for_timeout(650)
            page.get_by_role("button", name="a palm").click()
            page.get_by_role("button", name="a palm").click()
            expect(page.locator("#weight")).to_have_value("2 palms")
            page.keyboard.press("Escape")
            take.click()
            expect(said).to_contain_text("belly B taken: about")
            rows = self.get(f"/api/v1/fish/{fish}")["weighings"]
            self.assertEqual([row["method"] for row in rows], ["eye", "eye"])
            self.assertGreater(rows[1]["kg"], rows[0]["kg"])  # two palms are more than such a belly
            page.wait_for_timeout(650)
            page.locator("#weight").fill("600 g")
            page.locator("#weight").press("Enter")
            expect(said).to_contain_text("fillet A: 600 g")
            page.locator("#b-finish").click()
            expect(page.get_by_role("heading", name=re.compile("is finished"))).to_be_visible()

    def test_a_piece_that_is_taken_passes_over_the_steps_before_it(self) -> None:
        page = self.bench(PHONE, self.land(self.trip(), "cod", 70))
        step = page.locator("#bench-now .now-step").first
        expect(step).to_contain_text("Look once more")
        for piece in ("belly A", "belly B", "fillet A"):
            expect(page.locator("#b-take")).to_contain_text(piece)
            page.locator("#b-take").tap()
            expect(page.locator(".panel [data-said]")).to_contain_text(f"{piece} taken")
            page.wait_for_timeout(650)
        expect(step).not_to_contain_text("gut out")
        expect(step).to_contain_text("two sides")
        expect(page.locator("#b-done")).to_have_text("Done, not taken", use_inner_text=True)
        page.locator("[data-door=went]").tap()
        went = page.locator("#bench-went")
        expect(went).to_contain_text("taken")
        expect(went).not_to_contain_text("weighed")
        self.assertEqual(went.locator(".strip-key strong:not(.est)").count(), 0)

    def test_a_touch_before_the_scripts_are_there_takes_it_too(self) -> None:
        fish = self.land(self.trip(), "cod", 70)
        plain = self.open(PHONE, java_script_enabled=False)
        plain.goto(f"/fish/{fish}")
        for piece in ("belly A", "belly B"):
            expect(plain.locator("#b-take")).to_contain_text(piece)
            plain.locator("#b-take").click()
            expect(plain.locator("#main")).to_contain_text(f"C1 {piece} taken: about")
        plain.locator("#weight").fill("600 g")
        plain.locator("#weight").press("Enter")
        expect(plain.locator("#main")).to_contain_text("C1 fillet A: 600 g")

    def test_a_device_remembers_whether_it_has_a_scale(self) -> None:
        fish = self.land(self.trip(), "cod", 70, "bled", "gutted", "iced")
        page = self.bench(LAPTOP, fish)
        expect(page.locator("#b-no-scale")).to_have_attribute("aria-pressed", "true")
        page.keyboard.press("n")
        expect(page.locator(".scale .shown")).to_be_visible()
        expect(page.locator("#b-take")).to_contain_text("Take as", use_inner_text=True)
        page.reload()
        expect(page.locator(".scale .shown")).to_be_visible()
        # a page that the device kept may be older than what was chosen
        page.context.add_cookies([{"name": "weighs", "value": "eye", "url": self.server.base}])
        page.route("**/fish/*", lambda route: self.as_kept(route, "without-scale"))
        page.reload()
        expect(page.locator("#b-take")).to_contain_text("Took", use_inner_text=True)

"""What a page that is loaded again says and offers, and which trip a device works on."""

import re
from dataclasses import replace
from datetime import timedelta

from tests.web.client import WebTest


class ReloadTest(WebTest):
    def test_a_reload_offers_no_older_undo_than_the_last_act(self) -> None:
        trip = self.start_trip()
        first = self.form(f"{trip}/fish", species="cod", length="70").headers["location"]
        self.assertIn("C1 landed", self.said(first))
        self.assertIn("Undo", self.said(first))
        second = self.form(f"{trip}/fish", species="cod", length="71").headers["location"]
        self.assertIn("C2 landed", self.said(second))
        self.assertNotIn("Undo", self.said(first))
        self.clock_on(60)
        self.assertEqual(self.said(first), "")
        self.assertIn("Undo", self.said(second))

    def said(self, path: str) -> str:
        found = re.search(r'<div class="said.*?</div>', self.client.get(path).text, re.DOTALL)
        return found[0] if found else ""

    def clock_on(self, seconds: float) -> None:
        clock = self.ctx.clock
        self.ctx = replace(self.ctx, clock=lambda: clock() + timedelta(seconds=seconds))
        self.app.state.context = self.ctx

    def test_nothing_is_preset_on_the_very_first_landing(self) -> None:
        trip = self.start_trip()
        page = self.client.get(f"{trip}/deck").text
        self.assertEqual(re.findall(r"<input class=\"btn-check\"[^>]* checked", page), [])
        self.form(f"{trip}/fish", species="ling", length="90", bled="on", lies="slurry")
        page = self.client.get(f"{trip}/deck").text
        checked = re.findall(r'<input class="btn-check"[^>]*id="([^"]+)"[^>]* checked', page)
        self.assertEqual(checked, ["s-ling", "st-bled", "li-slurry"])

    def test_what_is_done_to_a_fish_later_is_not_preset_for_the_next(self) -> None:
        trip = self.start_trip()
        fish = self.land(trip, "ling", "90")
        self.form(f"{fish}/states", state="gutted")
        page = self.client.get(f"{trip}/deck").text
        self.assertNotRegex(page, r'id="st-gutted"[^>]* checked')


class CurrentTripTest(WebTest):
    def test_a_bag_of_an_old_trip_does_not_switch_the_app_to_it(self) -> None:
        old = self.start_trip(name="Old Day", on_date="2026-07-01")
        self.weigh(self.land(old), "fillet.A", "0.58")
        self.seal(old)
        bag = re.findall(r'href="(/b/[0-9A-Z]+)"', self.client.get(f"{old}/pack").text)[0]
        new = self.start_trip(name="This Day")
        self.client.get(f"{new}/deck")
        page = self.client.get(bag).text
        self.assertIn("<strong>This Day</strong>", page)
        self.assertIn(f'href="{new}/table"', page)
        self.assertRegex(page, f'href="{old}/deck">Old Day')
        self.assertIn(f"{new}/deck", self.client.get("/").headers["location"])

    def test_a_device_stays_at_the_trip_whose_pages_it_sees(self) -> None:
        old = self.start_trip(name="Old Day", on_date="2026-07-01")
        self.start_trip(name="This Day")
        self.client.get(f"{old}/deck")
        self.assertIn("<strong>Old Day</strong>", self.client.get("/guide").text)
        self.assertIn("<strong>Old Day</strong>", self.client.get("/rules").text)

    def test_a_trip_of_another_file_is_forgotten(self) -> None:
        self.start_trip(name="This Day")
        self.client.cookies.set("trip", "01ARZ3NDEKTSV4RRFFQ69G5FAV")
        self.assertIn("<strong>This Day</strong>", self.client.get("/guide").text)

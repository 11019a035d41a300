"""One accepted entry never shuts a page: slips and extremes, and what a file may already hold."""

import re
import sqlite3

from lepidos.guide.library import load_guide
from tests.web.sweep import SweepTest, lengths_cm

SAMPLE = ("mackerel", "plaice", "greater_weever", "bluefin_tuna", "white_sturgeon", "sardine")


class LandingTest(SweepTest):
    def test_a_length_ten_times_too_short_is_asked_about_and_shuts_nothing(self) -> None:
        trip = self.start_cold_trip()
        answer = self.form(f"{trip}/fish", species="mackerel", length="3.5", bled="on")
        self.assertEqual(answer.status_code, 303)
        shown = self.page(answer.headers["location"])
        self.assertIn("3.5 cm for mackerel? Usually 14 cm to 46 cm. Perhaps 35.0 cm", shown)
        self.assert_all_pages_answer(trip, ["mackerel"])

    def test_a_usual_length_is_not_asked_about(self) -> None:
        trip = self.start_cold_trip()
        for species, length in (("mackerel", "15"), ("mackerel", "50"), ("cod", "70")):
            answer = self.form(f"{trip}/fish", species=species, length=length, bled="on")
            self.assertNotIn("Usually", self.page(answer.headers["location"]))

    def test_every_length_that_is_accepted_leaves_every_page_open(self) -> None:
        trip = self.start_cold_trip()
        landed = 0
        for key in SAMPLE:
            for cm in lengths_cm(load_guide().one(key)):
                landed += bool(self.land_by_api(trip, key, cm))
        self.assertGreater(landed, 5 * len(SAMPLE))
        self.assertGreater(self.assert_all_pages_answer(trip, SAMPLE), 4 * landed)

    def test_weights_at_their_edges_leave_every_page_open(self) -> None:
        trip = self.start_cold_trip()
        cases = ((70.0, 0.9), (70.0, 15.0), (1.0, 0.000005), (187.0, 60.0), (70.0, 5e-324))
        landed = [
            self.land_by_api(trip, "cod", cm, weight_kg=kg, weighed_as=how)
            for cm, kg in cases
            for how in ("whole", "gutted")
        ]
        self.assertGreater(sum(map(bool, landed)), 4)
        self.assertEqual(landed[-2:], ["", ""])
        self.assert_all_pages_answer(trip)

    def test_a_date_out_of_reach_is_refused_at_its_field(self) -> None:
        trip = self.start_cold_trip()
        for text in ("0001-01-01T00:00", "9999-12-31T23:59"):
            for name in ("landed_at", "hooked_at"):
                answer = self.form(f"{trip}/fish", species="cod", length="70", **{name: text})
                self.assertEqual(answer.status_code, 422, text)
                self.assertIn(f'id="problem-{name}"', answer.text)


class PieceTest(SweepTest):
    def test_pieces_of_any_accepted_weight_can_be_packed(self) -> None:
        trip = self.start_cold_trip()
        fish = self.land_by_api(trip, "pollack", 68)
        for slot, weight in (("fillet.A", "0.1 g"), ("fillet.B", "45"), ("belly.A", "0.004")):
            self.weigh(fish, slot, weight)
        big = self.land_by_api(trip, "bluefin_tuna", 300)
        self.weigh(big, "high_loin.A" if "high_loin" in self.page(big) else "fillet.A", "140")
        self.assert_all_pages_answer(trip)
        keys = re.findall(r'href="\?bag=([^"&]+)"', self.page(f"{trip}/pack"))
        self.assertGreater(len(keys), 20)  # the tuna's side alone
        for key in keys[::6]:
            self.assertEqual(self.form(f"{trip}/bags", part=key).status_code, 303)
        self.assert_all_pages_answer(trip)

    def test_a_weight_of_almost_nothing_is_refused(self) -> None:
        trip = self.start_cold_trip()
        fish = self.land_by_api(trip, "pollack", 68)
        for kg in (5e-324, 1e-5):
            answer = self.client.post(
                f"/api/v1{fish}/weighings", json={"piece": "trim", "weight_kg": kg},
                headers={"idempotency-key": self.key()},
            )  # fmt: skip
            self.assertEqual(answer.status_code, 422)

    def test_marks_that_cannot_be_are_said_at_their_field(self) -> None:
        trip = self.start_cold_trip()
        self.weigh(self.land_by_api(trip, "pollack", 68), "fillet.A", "0.58")
        piece = self.piece(trip)
        for name, value in (
            ("serving", "0.001"),
            ("serving", "900"),
            ("each_kg", "1e400"),
            ("length", "99m"),
        ):
            answer = self.form(f"{piece}/marks", **{name: value})
            self.assertEqual(answer.status_code, 422, value)
            self.assertRegex(answer.text, "field-problem|is not a number", value)
            self.assertIn("Its portions", answer.text, value)


class ManyFishTest(SweepTest):
    def test_six_hundred_fish_leave_every_page_open_and_say_what_is_left_out(self) -> None:
        trip = self.start_cold_trip()
        lines = ["species,length_cm", *(f"mackerel,{25 + k % 20}" for k in range(600))]
        answer = self.form(f"{trip}/import", text="\n".join(lines), accept="on")
        self.assertEqual(answer.status_code, 303)
        for name in ("deck", "deck?as=list", "table", "ice", "yieldbook", "plan"):
            answer = self.client.get(f"{trip}/{name}")
            self.assertEqual(answer.status_code, 200, name)
            self.assertIn("100 more fish wait than", answer.text)
        self.assertEqual(self.client.get(f"/api/v1{trip}").json()["gauges"]["fish_left"], 600)
        self.assertEqual(len(self.client.get(f"/api/v1{trip}/order").json()["places"]), 500)


class OldFileTest(SweepTest):
    """What an earlier Lepidos let in is shown as itself, with the reason and its undo."""

    def spoil(self, table: str, change: str, fish: str) -> None:
        with sqlite3.connect(self.folder / "lepidos.sqlite") as file:
            column = "id" if table == "fish" else "fish_id"
            file.execute(f"UPDATE {table} SET {change} WHERE {column} = ?", (fish.split("/")[-1],))
        file.close()
        self.form(
            "/trips", name="Another", harbour="Skarrow Quay", on_date="2026-07-14", kind="boat"
        )

    def test_a_fish_that_cannot_be_calculated_is_set_aside_and_can_be_corrected(self) -> None:
        trip = self.start_cold_trip()
        other = self.land_by_api(trip, "cod", 70)
        spoiled = {
            self.land_by_api(trip, "mackerel", 35): ("fish_now", "length_m = 9.9"),
            self.land_by_api(trip, "mackerel", 36): ("fish_now", "whole_kg = 1e-300"),
            self.land_by_api(trip, "mackerel", 37): ("fish", "species = 'harbour_bass'"),
            self.land_by_api(trip, "mackerel", 38): (
                "fish",
                "landed_at = '0001-01-01T00:00:00.000Z'",
            ),
        }
        for fish, (table, change) in spoiled.items():
            self.spoil(table, change, fish)
        self.assert_all_pages_answer(trip)
        deck = self.page(f"{trip}/deck")
        self.assertEqual(deck.count("is set aside, all else goes on"), 4)
        self.assertIn("the guide does not have it", deck)
        for fish in spoiled:
            self.assertIn("Nothing can be calculated for this fish", self.page(fish))
            refused = self.form(f"{fish}/weighings", slot="fillet.A", weight="0.1")
            self.assertEqual(refused.status_code, 409)
        self.assertNotIn("Nothing can be calculated", self.page(other))

        fish = next(iter(spoiled))
        fixed = self.form(
            f"{fish}/correct", species="mackerel", length="35", length_type="total",
            landed_at="2026-07-14T12:30",
        )  # fmt: skip
        self.assertEqual(fixed.status_code, 303, fixed.text[-500:])
        self.assertNotIn("Nothing can be calculated", self.page(fish))
        undone = self.form("/undo", kind="fish", id=list(spoiled)[1].split("/")[-1])
        self.assertEqual(undone.status_code, 303)
        self.assertEqual(self.page(f"{trip}/deck").count("is set aside, all else goes on"), 2)

    def test_bags_of_a_fish_that_the_guide_lost_stay_in_the_lists(self) -> None:
        trip = self.start_cold_trip()
        fish = self.land_by_api(trip, "cod", 70)
        self.weigh(fish, "fillet.A", "0.58")
        self.form(f"{self.piece(trip)}/bags", index="0")
        with sqlite3.connect(self.folder / "lepidos.sqlite") as file:
            file.execute("UPDATE bag SET species = 'harbour_bass'")
            file.execute("UPDATE fish SET species = 'harbour_bass'")
            file.execute("UPDATE fish_now SET species = 'harbour_bass'")
        file.close()
        self.form(
            "/trips", name="Another", harbour="Skarrow Quay", on_date="2026-07-14", kind="boat"
        )
        self.assert_all_pages_answer(trip)
        self.assertIn("harbour bass", self.page(f"{trip}/freezer"))

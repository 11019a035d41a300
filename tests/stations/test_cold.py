"""The chain of cold at the deck and the table."""

import unittest
from dataclasses import replace
from datetime import timedelta

from lepidos.core.cold.cooling_body import core_after
from lepidos.core.errors import Refused
from lepidos.stations.cold.cold import sentence
from lepidos.stations.deck import card, handling, slab
from lepidos.stations.table import steps
from lepidos.stations.trips import trips
from lepidos.stations.undo import undo
from tests.app import NOON, AppTest


class ColdTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip(sea_c=14.0, air_c=18.0, ice_kg=20.0)

    def on_slab(self) -> slab.Slab:
        return slab.view_slab(self.ctx, self.trip)

    def card(self, fish_id: str) -> card.CardView:
        return card.view_card(self.ctx, fish_id, "metric")

    def one(self) -> slab.SlabFish:
        return self.on_slab().waiting[0]

    def test_a_fish_straight_from_the_sea_has_the_seas_temperature(self) -> None:
        self.land(self.trip)
        cold = self.one().cold
        assert cold is not None
        self.assertEqual((cold.core_c, cold.ice_days), (14.0, 0.0))

    def test_in_ice_it_follows_the_series_for_its_own_size(self) -> None:
        fish = self.land(self.trip, weight_kg=2.91).subject_id
        self.clock.advance(hours=3)
        cold = self.card(fish).cold
        assert cold is not None
        now = self.one().cold
        assert now is not None
        self.assertAlmostEqual(now.core_c, cold.now.core_c, places=6)
        self.assertAlmostEqual(now.ice_days, cold.now.ice_days, delta=0.003 * cold.now.ice_days)
        ice = self.ctx.guide.media["drained_ice"]
        plain = core_after(cold.body, 14.0, 0.0, ice.h, 3 * 3600)
        self.assertAlmostEqual(cold.now.core_c, plain, delta=0.01)
        self.assertTrue(cold.low_c < cold.now.core_c < cold.high_c)
        self.assertEqual(cold.hours[-1], 3.0)
        self.assertIn("straight into ice", sentence(cold))

    def test_a_core_is_shown_a_little_late_and_never_too_cold(self) -> None:
        fish = self.land(self.trip, weight_kg=2.91).subject_id
        card = self.card(fish).cold
        assert card is not None
        self.clock.advance(hours=1)
        seconds, ice = 3600, self.ctx.guide.media["drained_ice"]
        for step in (61, 119, 419, 1009, 1801, 2399, 3581, 7213, 11_987):
            self.clock.advance(seconds=step)
            seconds += step
            cold = self.one().cold
            assert cold is not None
            body = card.body
            now_c = core_after(body, 14.0, 0.0, ice.h, seconds)
            with self.subTest(seconds=seconds):
                self.assertGreaterEqual(cold.core_c, now_c - 1e-6)
                self.assertLess(cold.core_c, now_c + 0.15)

    def test_a_fish_that_was_just_moved_is_looked_at_by_the_minute(self) -> None:
        fish = self.land(self.trip, states=("bled",)).subject_id
        self.clock.advance(hours=8, seconds=20)
        handling.mark_state(self.ctx, self.key(), handling.MarkState(fish, "iced"))
        warm = self.one().cold
        self.clock.advance(minutes=50)
        later = self.one().cold
        self.clock.advance(minutes=1)
        last = self.one().cold
        assert warm is not None
        assert later is not None
        assert last is not None
        self.assertEqual(warm.lies, "iced")
        self.assertLess(later.core_c, warm.core_c - 1.0)
        self.assertLess(last.core_c, later.core_c)

    def test_a_fish_left_in_the_air_warms_and_is_told_to_go_into_ice(self) -> None:
        fish = self.land(self.trip, states=("bled",)).subject_id
        self.clock.advance(hours=4)
        cold = self.card(fish).cold
        assert cold is not None
        self.assertGreater(cold.now.core_c, 14.0)
        self.assertIn("put it in ice", sentence(cold))
        handling.mark_state(self.ctx, self.key(), handling.MarkState(fish, "iced"))
        self.clock.advance(hours=8)
        later = self.card(fish).cold
        assert later is not None
        self.assertLess(later.now.core_c, 6.0)
        self.assertIn("4.0 h before it came into ice", sentence(later))
        self.assertGreater(later.now.ice_days, cold.now.ice_days)

    def test_taking_the_ice_back_takes_the_cold_back(self) -> None:
        fish = self.land(self.trip, states=("bled",)).subject_id
        fact = handling.mark_state(
            self.ctx, self.key(), handling.MarkState(fish, "iced")
        ).subject_id
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("fact", fact))
        self.clock.advance(hours=4)
        cold = self.one().cold
        assert cold is not None
        self.assertIsNone(cold.iced_after_h)

    def test_the_ice_needed_falls_as_the_fish_get_cold(self) -> None:
        self.land(self.trip, weight_kg=2.91)
        first = self.on_slab().ice
        assert first is not None
        self.assertAlmostEqual(first.needed_by_fish, 2.91 * 3.6 * 14 / 334, places=6)
        self.clock.advance(hours=12)
        later = self.on_slab().ice
        assert later is not None
        self.assertLess(later.needed_by_fish, 0.02 * first.needed_by_fish + 1e-3)

    def test_every_kilogram_of_ice_is_accounted_for(self) -> None:
        self.land(self.trip, weight_kg=2.91)
        self.clock.advance(hours=12)
        ice = self.on_slab().ice
        assert ice is not None
        box = 1.5 * 18.0 * 12 * 3600 / 1000 / 334  # the box's own melt: UA · ΔT · t / 334
        self.assertAlmostEqual(ice.melted_by_box, box, places=6)
        self.assertAlmostEqual(ice.left, 20.0 - ice.melted_by_fish - box, places=9)
        self.assertAlmostEqual(
            ice.melted_by_fish + ice.needed_by_fish, 2.91 * 3.6 * 14 / 334, delta=1e-6
        )

    def test_a_fish_that_lies_in_the_air_melts_no_ice(self) -> None:
        self.land(self.trip, weight_kg=2.91, states=())
        self.clock.advance(hours=3)
        ice = self.on_slab().ice
        assert ice is not None
        self.assertEqual(ice.melted_by_fish, 0.0)

    def test_a_quarter_of_an_hour_is_straight_into_ice(self) -> None:
        for minutes, words in ((12, "went straight into ice"), (20, "lay 0.3 h before")):
            fish = self.land(self.trip, weight_kg=2.0, states=()).subject_id
            self.clock.advance(minutes=minutes)
            handling.mark_state(self.ctx, self.key(), handling.MarkState(fish, "iced"))
            self.clock.advance(hours=1)
            cold = self.card(fish).cold
            assert cold is not None
            self.assertIn(words, sentence(cold))
            self.assertRegex(sentence(cold), r"as a section of [1-9]\d?\.\d cm by [1-9]\d?\.\d cm")

    def test_ice_that_was_seen_corrects_the_account_from_then_on(self) -> None:
        self.land(self.trip, weight_kg=2.91)
        self.clock.advance(hours=6)
        note = trips.note_ice(self.ctx, self.key(), trips.NoteIce(self.trip, 9.0))
        ice = self.on_slab().ice
        assert ice is not None
        self.assertEqual((ice.aboard, ice.left), (9.0, 9.0))
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("ice", note.subject_id))
        again = self.on_slab().ice
        assert again is not None
        self.assertEqual(again.aboard, 20.0)

    def test_ice_that_melted_before_it_was_seen_is_not_counted_again(self) -> None:
        self.land(self.trip, weight_kg=2.91)
        self.clock.advance(hours=6)
        before = self.on_slab().ice
        trips.note_ice(self.ctx, self.key(), trips.NoteIce(self.trip, 9.0))
        self.clock.advance(hours=6)
        after = self.on_slab().ice
        assert before is not None
        assert after is not None
        # six hours have cooled it almost through: what is left to melt is little, and only that
        self.assertGreater(before.melted_by_fish, 0.3)
        self.assertLess(after.melted_by_fish, 0.1)
        self.assertAlmostEqual(
            before.melted_by_fish + after.melted_by_fish + after.needed_by_fish,
            2.91 * 3.6 * 14 / 334, delta=0.002,
        )  # fmt: skip
        self.assertAlmostEqual(after.melted_by_box, before.melted_by_box, places=6)

    def test_no_ice_at_all_is_an_account_too(self) -> None:
        trips.note_ice(self.ctx, self.key(), trips.NoteIce(self.trip, 0.0))
        self.land(self.trip)
        self.clock.advance(hours=3)
        ice = self.on_slab().ice
        assert ice is not None
        self.assertEqual(ice.left, 0.0)
        self.assertGreater(ice.unmet_kj, 0)
        for wrong in (-1.0, None, float("nan")):
            with self.assertRaises(Refused) as caught:
                trips.note_ice(self.ctx, self.key(), trips.NoteIce(self.trip, wrong))
            self.assertIn("seen_kg", caught.exception.problems)

    def test_the_run_home_needs_ice_for_the_box(self) -> None:
        order = trips.EditTrip(
            self.trip, 14.0, 18.0, 20.0, box_w_per_k=2.0, home_at=NOON + timedelta(hours=5)
        )
        trips.edit_trip(self.ctx, self.key(), order)
        _, ice = trips.view_ice(self.ctx, self.trip)
        assert ice is not None
        self.assertAlmostEqual(ice.needed_by_box, 2.0 * 18 * 5 * 3600 / 1000 / 334, places=9)
        weeks = timedelta(days=14)
        trips.edit_trip(self.ctx, self.key(), replace(order, home_at=NOON + weeks))
        later = replace(order, home_at=NOON + weeks + timedelta(seconds=1))
        with self.assertRaisesRegex(Refused, "more than two weeks"):
            trips.edit_trip(self.ctx, self.key(), later)
        late = replace(order, box_w_per_k=-1.0, home_at=NOON + timedelta(days=40))
        with self.assertRaises(Refused) as caught:
            trips.edit_trip(self.ctx, self.key(), late)
        self.assertEqual(set(caught.exception.problems), {"box_w_per_k", "home_at"})

    def test_a_probe_pulls_the_curve_and_narrows_its_interval(self) -> None:
        fish = self.land(self.trip, weight_kg=2.91).subject_id
        self.clock.advance(hours=2)
        before = self.card(fish).cold
        assert before is not None
        seen = before.now.core_c + 1.2
        handling.read_core(self.ctx, self.key(), handling.ReadCore(fish, seen))
        after = self.card(fish).cold
        assert after is not None
        self.assertTrue(after.now.probed)
        self.assertTrue(before.now.core_c < after.now.core_c < seen)
        self.assertLess(after.high_c - after.low_c, before.high_c - before.low_c)
        self.assertEqual(self.one().cold, after.now)

    def test_meltwater_slurry_and_out_of_the_ice_are_media_of_their_own(self) -> None:
        cores = {}
        for state in ("iced", "slurry", "brine", "unpacked"):
            fish = self.land(self.trip, weight_kg=2.91, states=("bled", "iced")).subject_id
            if state != "iced":
                handling.mark_state(self.ctx, self.key(), handling.MarkState(fish, state))
            cores[state] = fish
        self.clock.advance(hours=2)
        found = {}
        for state, fish in cores.items():
            cold = self.card(fish).cold
            assert cold is not None
            found[state] = cold.now.core_c
        self.assertLess(found["slurry"], found["iced"])
        self.assertLess(found["brine"], found["slurry"])  # its bath is colder
        self.assertGreater(found["unpacked"], 13.9)

    def test_the_histamine_clock_runs_for_the_fish_that_form_it_only(self) -> None:
        mackerel = self.land(self.trip, "mackerel", 37, states=("bled",)).subject_id
        cod = self.land(self.trip, "cod", 70).subject_id
        self.clock.advance(hours=5)
        found = self.card(mackerel).cold
        assert found is not None
        assert found.histamine is not None
        self.assertAlmostEqual(found.histamine.hours_above, 5.0, delta=0.01)
        other = self.card(cod).cold
        assert other is not None
        self.assertIsNone(other.histamine)

    def test_of_two_alike_the_one_that_has_used_more_of_its_ice_life_comes_first(self) -> None:
        self.land(self.trip)
        warm = self.land(self.trip, states=("bled",)).subject_id
        self.clock.advance(hours=6)
        self.assertEqual(self.one().fish.id, warm)

    def test_without_the_seas_temperature_nothing_is_claimed(self) -> None:
        self.trip = self.start_trip()
        self.land(self.trip)
        self.assertIsNone(self.one().cold)
        self.assertIsNone(self.on_slab().ice)

    def test_finished_fish_have_left_the_ice(self) -> None:
        fish = self.land(self.trip).subject_id
        self.weigh(fish, "gut", 0.3)
        steps.close_fish(self.ctx, self.key(), steps.CloseFish(fish))
        self.assertIsNone(self.card(fish).cold)

    def test_a_clock_that_stepped_back_is_no_negative_time(self) -> None:
        self.land(self.trip, landed_at=NOON + timedelta(minutes=5))
        cold = self.one().cold
        assert cold is not None
        self.assertEqual(cold.core_c, 14.0)

    def test_a_fish_forgotten_for_a_year_is_still_a_page(self) -> None:
        fish = self.land(self.trip).subject_id
        self.clock.advance(days=365)
        cold = self.card(fish).cold
        assert cold is not None
        self.assertAlmostEqual(cold.hours[-1], 14 * 24)

    def test_temperatures_and_ice_that_cannot_be_are_refused_at_their_fields(self) -> None:
        for field, value in (
            ("sea_c", 85.0),
            ("sea_c", float("nan")),
            ("air_c", -80.0),
            ("ice_kg", -1.0),
        ):
            with self.subTest(field=field, value=value), self.assertRaises(Refused) as caught:
                self.start_trip(**{field: value})
            self.assertIn(field, caught.exception.problems)


if __name__ == "__main__":
    unittest.main()

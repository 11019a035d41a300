"""The chain of cold at the deck and the table."""

import unittest
from datetime import timedelta

from lepidos.core.chill import MEDIA, core_temperature
from lepidos.core.errors import Refused
from lepidos.stations import deck, table, takeback
from lepidos.stations.cold import sentence
from tests.house import NOON, HouseTest


class ColdTest(HouseTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip(sea_c=14.0, air_c=18.0, ice_kg=20.0)

    def slab(self) -> deck.Slab:
        return deck.view_slab(self.house, self.trip)

    def one(self) -> deck.SlabFish:
        return self.slab().waiting[0]

    def test_a_fish_straight_from_the_sea_has_the_seas_temperature(self) -> None:
        self.land(self.trip)
        cold = self.one().cold
        assert cold is not None
        self.assertEqual((cold.core_c, cold.ice_days), (14.0, 0.0))

    def test_in_ice_it_follows_the_series_for_its_own_size(self) -> None:
        fish = self.land(self.trip, weight_kg=2.91).subject_id
        self.clock.advance(hours=3)
        cold = table.view_fish(self.house, fish).cold
        assert cold is not None
        now = self.one().cold
        assert now is not None
        self.assertAlmostEqual(now.core_c, cold.core_c, places=6)
        self.assertAlmostEqual(now.ice_days, cold.ice_days, delta=0.003 * cold.ice_days)
        ice = MEDIA["drained_ice"]
        plain = core_temperature(cold.body.shape, cold.body.size_m, 14.0, 0.0, ice.h, 3 * 3600)
        self.assertAlmostEqual(cold.core_c, plain, delta=0.01)
        self.assertTrue(cold.low_c < cold.core_c < cold.high_c)
        self.assertEqual(cold.hours[-1], 3.0)
        self.assertIn("straight into ice", sentence(cold))

    def test_a_fish_left_in_the_air_warms_and_is_told_to_go_into_ice(self) -> None:
        fish = self.land(self.trip, states=("bled",)).subject_id
        self.clock.advance(hours=4)
        cold = table.view_fish(self.house, fish).cold
        assert cold is not None
        self.assertGreater(cold.core_c, 14.0)
        self.assertIn("put it in ice", sentence(cold))
        deck.mark_state(self.house, self.key(), deck.MarkState(fish, "iced"))
        self.clock.advance(hours=8)
        later = table.view_fish(self.house, fish).cold
        assert later is not None
        self.assertLess(later.core_c, 6.0)
        self.assertIn("4.0 h before it came into ice", sentence(later))
        self.assertGreater(later.ice_days, cold.ice_days)

    def test_taking_the_ice_back_takes_the_cold_back(self) -> None:
        fish = self.land(self.trip, states=("bled",)).subject_id
        fact = deck.mark_state(self.house, self.key(), deck.MarkState(fish, "iced")).subject_id
        takeback.take_back(self.house, self.key(), takeback.TakeBack("fact", fact))
        self.clock.advance(hours=4)
        cold = self.one().cold
        assert cold is not None
        self.assertIsNone(cold.iced_after_h)

    def test_the_ice_needed_falls_as_the_fish_get_cold(self) -> None:
        self.land(self.trip, weight_kg=2.91)
        first = self.slab().ice_needed_kg
        assert first is not None
        self.assertAlmostEqual(first, 2.91 * 3.6 * 14 / 334, places=6)
        self.clock.advance(hours=12)
        self.assertLess(self.slab().ice_needed_kg or 0, 0.02 * first + 1e-3)

    def test_the_histamine_clock_runs_for_the_fish_that_form_it_only(self) -> None:
        mackerel = self.land(self.trip, "mackerel", 37, states=("bled",)).subject_id
        cod = self.land(self.trip, "cod", 70).subject_id
        self.clock.advance(hours=5)
        found = table.view_fish(self.house, mackerel).cold
        assert found is not None
        assert found.histamine is not None
        self.assertAlmostEqual(found.histamine.hours_above, 5.0, delta=0.01)
        other = table.view_fish(self.house, cod).cold
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
        self.assertIsNone(self.slab().ice_needed_kg)

    def test_finished_fish_have_left_the_ice(self) -> None:
        fish = self.land(self.trip).subject_id
        self.weigh(fish, "gut", 0.3)
        table.close_fish(self.house, self.key(), table.CloseFish(fish))
        self.assertIsNone(table.view_fish(self.house, fish).cold)

    def test_a_clock_that_stepped_back_is_no_negative_time(self) -> None:
        self.land(self.trip, landed_at=NOON + timedelta(minutes=5))
        cold = self.one().cold
        assert cold is not None
        self.assertEqual(cold.core_c, 14.0)

    def test_a_fish_forgotten_for_a_year_is_still_a_page(self) -> None:
        fish = self.land(self.trip).subject_id
        self.clock.advance(days=365)
        cold = table.view_fish(self.house, fish).cold
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

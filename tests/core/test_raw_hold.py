"""The raw hold against both texts: a table of histories; logs, gaps, and how bags follow the air.

FDA Food Code 3-402.11 (A) and Regulation (EC) 853/2004 as amended by (EU) 1276/2011 (memory).
"""

import math
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from lepidos.core.errors import BadInput, OutOfRange
from lepidos.core.freezer.bag_cold import ColdRecord, Kind
from lepidos.core.freezer.freezing_time import Block, fish_of_water, freezing_hours
from lepidos.core.freezer.raw_hold import Route, StayInPlace, Verdict, best, judge
from lepidos.core.freezer.temperature_log import Readings, by_minute, gaps, merged, readings

H = 60  # minutes
DAY = 24 * H
FDA = (Route("a", -20, 168), Route("b", -35, 15, -35), Route("c", -20, 24, -35))
EU = (Route("a", -20, 24), Route("b", -35, 15))
LEAN = fish_of_water(0.8)
BAG = Kind(0.03, 8.0, LEAN)
SLURRY = Kind(0.02, 120.0, LEAN)


def log(*stretches: tuple[float, float | None], step: int = 5) -> Readings:
    """Readings from (hours, °C) stretches in a row; None: the logger was off."""
    at, air, now = [], [], 0
    for hours, celsius in stretches:
        end = now + round(hours * 3600)
        while now < end:
            if celsius is not None:
                at.append(now)
                air.append(celsius)
            now += step * 60
    return readings(at, air)


def stay(*stretches: tuple[float, float | None], kind: Kind = BAG, start: int = 0) -> StayInPlace:
    record = ColdRecord(by_minute(log(*stretches)), kind)
    return StayInPlace(record, start, record.log.end)


class HistoriesTest(unittest.TestCase):
    """What each text says of a history."""

    def of(self, routes: tuple[Route, ...], *stays: StayInPlace) -> Verdict:
        return best(routes, stays)

    def test_a_year_at_minus_18_never_counts_by_either_text(self) -> None:
        year = stay((365 * 24, -18.0))
        self.assertEqual(self.of(FDA, year).state, "never")
        self.assertEqual(self.of(EU, year).state, "never")

    def test_a_week_at_minus_20_needs_the_core_there_first(self) -> None:
        """The clock starts when the middle is there: a bag that goes in warm takes half a day."""
        hours = freezing_hours(Block(0.03, 3, 3), -22, 5, 8, LEAN, -20) or 0
        found = self.of(FDA, stay((8 * 24 + 24, -22.0)))
        self.assertEqual(found.state, "done")
        since, done = found.since or 0, found.done or 0
        self.assertAlmostEqual(since / H, hours, delta=0.2)
        self.assertGreater(hours, 8)
        self.assertEqual(done - since, 168 * H)
        short = self.of(FDA, stay((168, -22.0)))
        self.assertEqual(short.state, "running")
        self.assertAlmostEqual(short.held / H, 168 - hours, delta=0.2)

    def test_the_eu_asks_for_a_day(self) -> None:
        found = self.of(EU, stay((48, -24.0)))
        self.assertEqual((found.state, found.route.key), ("done", "a"))
        self.assertEqual((found.done or 0) - (found.since or 0), 24 * H)

    def test_one_warm_hour_on_day_six_starts_the_week_anew(self) -> None:
        days = ((5.5 * 24, -23.0), (1, -8.0))
        found = self.of(FDA, stay(*days, (6 * 24, -23.0)))
        self.assertEqual(found.state, "running")
        self.assertEqual([why for _, why in found.stopped], ["warm"])
        self.assertGreater(found.since or 0, (5.5 * 24 + 1) * H)
        again = self.of(FDA, stay(*days, (8 * 24, -23.0)))
        self.assertEqual(again.state, "done")

    def test_a_door_open_for_five_minutes_warms_no_bag_and_stops_nothing(self) -> None:
        found = self.of(FDA, stay((100, -26.0), (5 / 60, -12.0), (100, -26.0)))
        self.assertEqual((found.state, found.stopped), ("done", []))

    def test_a_gap_of_two_hours_starts_it_anew_and_one_missed_reading_does_not(self) -> None:
        gap = self.of(FDA, stay((120, -25.0), (2, None), (100, -25.0)))
        self.assertEqual(gap.state, "running")
        self.assertEqual([why for _, why in gap.stopped], ["gap"])
        missed = self.of(FDA, stay((120, -25.0), (0.5, None), (100, -25.0)))
        self.assertEqual(missed.state, "done")

    def test_a_move_half_way_goes_on_and_a_day_outside_does_not(self) -> None:
        first = ColdRecord(by_minute(log((400, -24.0))), BAG)
        second = ColdRecord(by_minute(log((400, -28.0))), BAG)
        moved = (
            StayInPlace(first, 0, 100 * H),
            StayInPlace(second, 100 * H, 200 * H, follows=True),
        )
        found = self.of(FDA, *moved)
        self.assertEqual((found.state, found.stopped), ("done", []))
        out = (StayInPlace(first, 0, 100 * H), StayInPlace(second, 124 * H, 224 * H))
        again = self.of(FDA, *out)
        self.assertEqual(again.state, "running")
        self.assertEqual([why for _, why in again.stopped], ["taken out"])
        warmer = ColdRecord(by_minute(log((400, -18.5))), BAG)
        half = (StayInPlace(first, 0, 100 * H), StayInPlace(warmer, 100 * H, 300 * H, follows=True))
        self.assertEqual(self.of(FDA, *half).state, "warm")

    def test_the_routes_at_minus_35(self) -> None:
        both = self.of(FDA, stay((40, -37.0), kind=SLURRY))
        self.assertEqual((both.state, both.route.key), ("done", "b"))
        then = self.of(FDA, stay((4, -37.0), (30, -21.0), kind=SLURRY))
        self.assertEqual((then.state, then.route.key), ("done", "c"))
        slow = self.of(FDA, stay((0.2, -37.0), (30, -21.0), kind=SLURRY))
        self.assertEqual((slow.state, slow.route.key), ("running", "a"))
        self.assertEqual(self.of(EU, stay((20, -37.0), kind=SLURRY)).route.key, "b")

    def test_a_fahrenheit_freezer_at_zero_is_not_cold_enough_and_at_minus_six_it_is(self) -> None:
        zero, six = (0 - 32) / 1.8, (-6 - 32) / 1.8
        self.assertEqual(self.of(FDA, stay((400, zero))).state, "never")
        self.assertEqual(self.of(FDA, stay((400, six))).state, "done")

    def test_exactly_minus_20_counts_once_the_bag_is_there(self) -> None:
        cooled = stay((30, -24.0), (24 * 7, -20.0))
        self.assertEqual(self.of(FDA, cooled).state, "done")

    def test_thawed_and_frozen_again_freezes_first(self) -> None:
        found = judge(FDA[0], [stay((60, -24.0), (20, 10.0), (60, -24.0))])
        hours = freezing_hours(Block(0.03, 3, 3), -24, 5, 8, LEAN, -20) or 0
        self.assertGreater((found.since or 0) / H, 80 + hours - 0.5)

    def test_without_a_log_nothing_is_said(self) -> None:
        empty = StayInPlace(ColdRecord(by_minute(readings([], [])), BAG), 0, 1000)
        self.assertEqual(self.of(FDA, empty, StayInPlace(None, 0, 100)).state, "no log")

    def test_what_is_done_stays_done(self) -> None:
        found = self.of(EU, stay((60, -24.0), (5, 2.0)))
        self.assertEqual(found.state, "done")

    @given(
        st.lists(st.floats(-30, 5), min_size=4, max_size=30), st.integers(0, 29), st.floats(0, 20)
    )
    def test_warmer_air_is_never_done_sooner(
        self, hours: list[float], at: int, more: float
    ) -> None:
        warmer = list(hours)
        warmer[at % len(hours)] += more
        first, second = (
            best(EU, [stay(*((6.0, c) for c in air), (60, -24.0))]) for air in (hours, warmer)
        )
        if first.done is not None:
            self.assertGreaterEqual(second.done or math.inf, first.done)
        else:
            self.assertIsNone(second.done)


class FollowsTest(unittest.TestCase):
    def test_the_middle_follows_the_air_as_the_first_term_of_the_series_does(self) -> None:
        """A frozen slab, 4 cm, h 8, k 1.48: Bi 0.108, ζ₁ 0.3225 (Incropera, table 5.1, between)."""
        kind = Kind(0.04, 8.0, LEAN)
        fish = LEAN
        zeta = 0.3225
        alpha = fish.conductivity / (fish.density_frozen * fish.heat_frozen)
        self.assertAlmostEqual(kind.lag_s / (0.02**2 / (alpha * zeta**2)), 1.0, delta=0.03)

    def test_from_still_air_to_plates_it_is_the_series_first_term(self) -> None:
        """ζ tan ζ = Bi, a time constant is half² / (α ζ²) (Incropera, ch. 5)."""
        alpha = LEAN.conductivity / (LEAN.density_frozen * LEAN.heat_frozen)
        for surface, half in ((5.0, 0.01), (30.0, 0.02), (100.0, 0.02), (1000.0, 0.04)):
            biot = surface * half / LEAN.conductivity
            zeta = brentq(lambda z, b=biot: z * math.tan(z) - b, 1e-9, math.pi / 2 - 1e-9)
            kind = Kind(2 * half, surface, LEAN)
            with self.subTest(biot=round(biot, 3)):
                self.assertAlmostEqual(kind.lag_s / (half**2 / (alpha * zeta**2)), 1.0, delta=0.05)

    def test_after_one_time_constant_63_parts_of_100_are_done(self) -> None:
        kind = Kind(0.04, 8.0, LEAN)
        lag_h = kind.lag_s / 3600
        record = ColdRecord(by_minute(log((10, -20.0), (20, -30.0), step=1)), kind)
        at = round((10 + lag_h) * 60)
        self.assertAlmostEqual(record.middle[at], -20 - 10 * (1 - math.exp(-1)), delta=0.1)


class LogTest(unittest.TestCase):
    def test_a_reading_holds_until_the_next_and_far_ones_leave_a_gap(self) -> None:
        found = by_minute(readings([0, 600, 600 + 3 * 3600], [-20, -21, -22]))
        self.assertEqual(found.celsius[9], -20)
        self.assertEqual(found.celsius[10], -21)
        self.assertTrue(math.isnan(found.celsius[11]))
        self.assertEqual(gaps(found), [(11, 190)])
        self.assertEqual(found.celsius[-1], -22)

    def test_the_warmest_reading_of_a_minute_counts(self) -> None:
        self.assertEqual(by_minute(readings([0, 20, 40], [-20, -15, -20])).celsius[0], -15)

    def test_the_later_part_holds_at_the_same_second(self) -> None:
        one = merged([readings([0, 60], [-20, -20]), readings([60, 120], [-10, -11])])
        self.assertEqual(list(one.celsius), [-20, -10, -11])
        self.assertEqual(len(merged([])), 0)

    def test_a_log_without_readings_is_no_minute(self) -> None:
        found = by_minute(readings([], []))
        self.assertEqual((found.first, found.end, gaps(found)), (0, 0, []))

    def test_what_lies_is_refused(self) -> None:
        for at, air, error in (
            ([0, 0], [-20, -20], BadInput),
            ([60, 0], [-20, -20], BadInput),
            ([0], [-20, -20], BadInput),
            ([0, 60], [-20, -127], OutOfRange),
            ([0, 60], [-20, math.nan], OutOfRange),
        ):
            with self.subTest(at=at, air=air), self.assertRaises(error):
                readings(at, air)
        with self.assertRaises(OutOfRange):
            by_minute(readings([0, 11 * 366 * 86_400], [-20, -20]))

    def test_a_year_of_minutes_is_one_grid(self) -> None:
        minutes = 525_600
        air = -20 + np.sin(np.arange(minutes) / 700)
        found = by_minute(readings(np.arange(minutes) * 60, air))
        self.assertEqual(len(found.celsius), minutes)
        self.assertTrue(np.array_equal(found.celsius, air))

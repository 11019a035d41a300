"""Cutters' lines from fish that went through the day: as foreseen, then less and less."""

import math
import unittest
from random import Random
from unittest import mock

from statsmodels.stats.weightstats import CompareMeans, DescrStatsW

from lepidos.core.errors import Refused
from lepidos.core.yields.before_after import gained
from lepidos.stations.schedule import boards
from lepidos.stations.table import steps
from lepidos.stations.undo import undo
from lepidos.stations.yieldbook import drift
from lepidos.stations.yieldbook.drift import Drift
from lepidos.stations.yieldbook.pace_drift import PaceDrift, pace_drift
from tests.app import AppTest


class DriftTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.boards: dict[str, str] = {}
        self.chance = Random(5)

    def finish(self, cutter: str, share: float, sides: str = "AB", round_kg: float = 2.0) -> None:
        """A pollack at a cutter's board, with so much fillet of its round weight a side."""
        if cutter not in self.boards:
            order = boards.AddBoard(self.trip, cutter)
            self.boards[cutter] = boards.add_board(self.ctx, self.key(), order).subject_id
        fish = self.land(self.trip, weight_kg=round_kg).subject_id
        boards.start_fish(self.ctx, self.key(), boards.StartFish(fish, self.boards[cutter]))
        for side in sides:
            kg = round_kg * share * self.chance.gauss(1.0, 0.03)
            self.weigh(fish, f"belly.{side}", 0.06)
            self.weigh(fish, f"fillet.{side}", round(kg - 0.06, 3))
        steps.close_fish(self.ctx, self.key(), steps.CloseFish(fish))
        self.clock.advance(minutes=10)

    def view(self) -> Drift:
        return drift.view_drift(self.ctx)

    def test_nothing_is_said_before_there_are_fish_and_of_too_few(self) -> None:
        self.assertEqual(self.view().cutters, ())
        for _ in range(3):
            self.finish("Ines", 0.22)
        (found,) = self.view().cutters
        self.assertEqual((found.fish, found.since), (3, 0))
        self.assertIn("too few", found.finding)

    def test_a_blade_that_goes_dull_is_seen_and_the_other_cutter_is_not_blamed(self) -> None:
        for n in range(14):
            self.finish("Tobias", 0.22)
            self.finish("Ines", 0.22 if n < 6 else 0.17)
        ines, tobias = self.view().cutters
        self.assertEqual((ines.name, tobias.name, tobias.since), ("Ines", "Tobias", 0))
        self.assertGreater(ines.since, 0)
        self.assertIn("less than foreseen", ines.finding)
        self.assertIn("as foreseen", tobias.finding)
        self.assertTrue(0.7 < ines.lately < 0.95)
        self.assertAlmostEqual(self.view().run_length, 500, delta=2)

    def test_a_fish_with_one_side_weighed_says_nothing(self) -> None:
        self.finish("Ines", 0.22, "A")
        self.assertEqual(self.view().cutters, ())

    def test_what_sharpening_gave_is_told_with_its_interval(self) -> None:
        for _ in range(8):
            self.finish("Ines", 0.18)
        done = drift.sharpen(self.ctx, self.key(), drift.Sharpen("Ines"))
        self.clock.advance(minutes=1)
        for _ in range(5):
            # larger fish: what counts is what each gave of what was foreseen of it
            self.finish("Ines", 0.22, round_kg=2.6)
        (found,) = self.view().cutters
        self.assertEqual((found.sharpened, found.fish_since), ((8,), 5))
        # the forecasts had learned from the dull blade's fish, so less than the whole difference
        self.assertTrue(found.gain.plain and 0.05 < found.gain.value < 0.30, found.gain)
        self.assertEqual((found.gain.before, found.gain.after), (8, 5))
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("sharpening", done.subject_id))
        self.assertIsNone(self.view().cutters[0].gain)

    def test_each_blade_that_was_named_has_a_line_of_its_own(self) -> None:
        for _ in range(8):
            self.finish("Ines", 0.18)
        order = drift.Sharpen("Ines", "the long one")
        drift.sharpen(self.ctx, self.key(), order)
        self.clock.advance(minutes=1)
        for _ in range(9):
            self.finish("Ines", 0.22)
        first, then = sorted(self.view().cutters, key=lambda c: c.name)
        self.assertEqual((first.name, then.name), ("Ines", "Ines, the long one"))
        self.assertEqual((first.fish, then.fish, then.cutter), (8, 9, "Ines"))
        self.assertIsNone(first.gain)
        self.assertTrue(then.gain.plain and then.gain.value > 0.05)

    def test_only_somebody_who_cuts_can_have_sharpened(self) -> None:
        with self.assertRaises(Refused):
            drift.sharpen(self.ctx, self.key(), drift.Sharpen("nobody"))

    def test_cold_hands_and_long_days_are_named(self) -> None:
        self.trip = self.start_trip(air_c=2.0)
        for n in range(26):
            self.finish("Ines", 0.22 - 0.002 * n)
        (found,) = self.view().cutters
        self.assertTrue(found.late and found.cold, found)

    def test_nothing_is_said_of_the_day_where_it_does_not_matter(self) -> None:
        for _ in range(26):
            self.finish("Ines", 0.22)
        (found,) = self.view().cutters
        self.assertFalse(found.late or found.cold)


class PaceTest(unittest.TestCase):
    """Time on the board, from rows as the store has them."""

    def rows(self, slower_from: int, factor: float, seed: int = 4, fish: int = 120):
        rng = Random(seed)
        for n in range(fish):
            kg = rng.uniform(1.0, 4.0)
            seconds = 200 * kg**0.5 * math.exp(rng.gauss(0, 0.2))
            yield (
                "Ines",
                "cod" if n % 2 else "ling",
                kg,
                seconds * (factor if n >= slower_from else 1),
            )

    def drift_of(self, rows) -> PaceDrift | None:
        with mock.patch("lepidos.store.table.sessions.timed", return_value=list(rows)):
            return pace_drift(600).get("Ines")

    def test_a_cutter_who_gets_slower_is_seen(self) -> None:
        self.assertGreater(self.drift_of(self.rows(100, 1.35)).since, 3)

    def test_one_who_does_not_is_seldom_blamed(self) -> None:
        blamed = sum(self.drift_of(self.rows(999, 1.0, seed)).since > 0 for seed in range(60))
        self.assertLessEqual(blamed, 6)

    def test_fifty_fish_are_only_the_beginning(self) -> None:
        self.assertEqual(self.drift_of(self.rows(0, 1.0, fish=50)).points, ())
        self.assertIsNone(self.drift_of([]))


class GainTest(unittest.TestCase):
    def test_it_is_welchs_interval(self) -> None:
        before, after = [0.9, 0.95, 0.92, 0.97], [1.0, 1.03, 0.98, 1.04, 1.01]
        found = gained(before, after, 0.9)
        low, high = CompareMeans(
            DescrStatsW([math.log(v) for v in after]), DescrStatsW([math.log(v) for v in before])
        ).tconfint_diff(0.1, usevar="unequal")
        self.assertAlmostEqual(found.low, math.expm1(low), places=9)
        self.assertAlmostEqual(found.high, math.expm1(high), places=9)

    def test_a_blade_that_gives_two_percent_is_measured_as_often_as_stated(self) -> None:
        rng, inside = Random(8), 0
        for _ in range(600):
            before = [math.exp(rng.gauss(0, 0.04)) for _ in range(12)]
            after = [1.02 * math.exp(rng.gauss(0, 0.04)) for _ in range(12)]
            found = gained(before, after)
            inside += found.low <= 0.02 <= found.high
        self.assertTrue(0.75 <= inside / 600 <= 0.85, inside / 600)

    def test_three_fish_say_nothing(self) -> None:
        self.assertIsNone(gained([1.0] * 3, [1.1] * 9))

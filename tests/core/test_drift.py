"""The moving average of a cutter's residuals: published run lengths, and simulated crews."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from lepidos.core.errors import OutOfRange
from lepidos.core.yields.drift import low_since, moving_average, run_length, standardised


class PublishedTest(unittest.TestCase):
    def test_run_lengths_of_lucas_and_saccucci(self) -> None:
        """Technometrics 32 (1990), table 3: 500 fish while nothing is wrong; at one σ as given (memory)."""
        for weight, limit, shifted in (
            (0.40, 3.054, 14.3), (0.25, 2.998, 11.1), (0.20, 2.962, 10.5), (0.10, 2.814, 10.3), (0.05, 2.615, 11.4),
        ):  # fmt: skip
            with self.subTest(weight=weight):
                self.assertAlmostEqual(run_length(weight, limit), 500, delta=2)
                self.assertAlmostEqual(run_length(weight, limit, 1.0), shifted, delta=0.1)

    def test_a_weight_of_one_is_shewharts_chart(self) -> None:
        """Limits of 3 σ: one in 370.4 (any handbook of quality control)."""
        self.assertAlmostEqual(run_length(1.0, 3.0), 370.4, delta=0.1)


class CrewTest(unittest.TestCase):
    def first_low(self, shift: float, rng: np.random.Generator, most: int = 4000) -> int:
        points = moving_average(list(rng.normal(shift, 1, most)))
        return next((n for n, p in enumerate(points, 1) if p.low), most)

    def test_a_crew_on_which_nothing_is_wrong_is_blamed_as_seldom_as_stated(self) -> None:
        """One side of two: once in about a thousand fish; the limits are tighter for the first few."""
        rng = np.random.default_rng(3)
        mean = np.mean([self.first_low(0.0, rng) for _ in range(300)])
        self.assertTrue(800 < mean < 1100, mean)

    def test_a_steady_loss_is_seen_within_the_stated_number_of_fish(self) -> None:
        rng = np.random.default_rng(4)
        mean = np.mean([self.first_low(-1.0, rng, 400) for _ in range(400)])
        self.assertTrue(6 < mean < 11, mean)


class HoldsTest(unittest.TestCase):
    @given(st.lists(st.floats(-5, 5), min_size=1, max_size=60), st.floats(0, 3))
    def test_worse_fish_never_raise_the_line(self, residuals: list[float], less: float) -> None:
        before = moving_average(residuals)[-1].value
        self.assertLessEqual(moving_average([r - less for r in residuals])[-1].value, before + 1e-9)

    def test_since_when_it_is_low(self) -> None:
        points = moving_average([0.0] * 10 + [-4.0] * 5)
        since = low_since(points)
        self.assertTrue(since is not None and 10 <= since <= 12)
        self.assertIsNone(low_since(points[:8]))
        self.assertIsNone(low_since([]))
        self.assertIsNone(low_since(moving_average([-4.0] * 5 + [4.0] * 10)))

    def test_a_weight_at_the_lower_end_of_its_80_percent_is_1_28_below(self) -> None:
        self.assertAlmostEqual(standardised(0.8, 1.0, 0.8, 1.25), -1.2816, delta=0.001)
        self.assertEqual(standardised(1.0, 1.0, 0.8, 1.25), 0.0)

    def test_what_cannot_be_is_refused(self) -> None:
        for call in (
            lambda: moving_average([0.0], 0.0), lambda: moving_average([0.0], limit=9), lambda: moving_average([99.0]),
            lambda: run_length(2.0), lambda: run_length(shift=9), lambda: standardised(1, 1, 1, 1), lambda: standardised(0, 1, 0.5, 2),
        ):  # fmt: skip
            with self.subTest(call=call), self.assertRaises(OutOfRange):
                call()

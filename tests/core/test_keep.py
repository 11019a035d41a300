"""How many fish to keep: against drawn trips."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from lepidos.core.errors import OutOfRange
from lepidos.core.estimate import Z_80, Estimate
from lepidos.core.yields.keep import SHARED, fish_needed


def fillet(kg: float, spread: float) -> Estimate:
    return Estimate(kg, kg - Z_80 * spread, kg + Z_80 * spread, 0.8, "kg", "", "")


class KeepTest(unittest.TestCase):
    def test_they_are_enough_80_of_100_times_and_one_fewer_is_not(self) -> None:
        rng = np.random.default_rng(1)
        for need, kg, spread in ((2.0, 0.5, 0.1), (6.0, 0.4, 0.12), (0.9, 1.0, 0.2)):
            with self.subTest(need=need):
                fish = fish_needed(need, fillet(kg, spread))
                assert fish
                shared = rng.normal(0, spread * SHARED**0.5, (40_000, 1))
                own = rng.normal(0, spread * (1 - SHARED) ** 0.5, (40_000, fish))
                each = kg + shared + own
                self.assertGreaterEqual(np.mean(each.sum(axis=1) >= need), 0.795)
                if fish > 1:
                    self.assertLess(np.mean(each[:, 1:].sum(axis=1) >= need), 0.805)

    def test_one_large_fish_may_be_enough(self) -> None:
        self.assertEqual(fish_needed(0.3, fillet(0.5, 0.05)), 1)
        self.assertEqual(fish_needed(0.5, fillet(0.5, 0.0)), 1)

    @given(st.floats(0.1, 20), st.floats(0.2, 2), st.floats(0, 0.3), st.floats(1, 2))
    def test_more_to_eat_or_smaller_fish_never_need_fewer(
        self, need: float, kg: float, part: float, more: float
    ) -> None:
        usual = fish_needed(need, fillet(kg, kg * part))
        self.assertGreaterEqual(
            fish_needed(need * more, fillet(kg, kg * part)) or 501, usual or 501
        )
        self.assertLessEqual(
            fish_needed(need, fillet(kg * more, kg * more * part)) or 501, usual or 501
        )

    def test_fish_of_which_nothing_is_known_are_never_enough(self) -> None:
        self.assertIsNone(fish_needed(5, fillet(0.1, 1.0)))
        with self.assertRaises(OutOfRange):
            fish_needed(-1, fillet(0.5, 0.1))

"""Palms and fists: an interval as wide as the hand is honest, narrowed by what is known besides."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from lepidos.core.errors import OutOfRange
from lepidos.core.estimate import Estimate
from lepidos.core.fish.anatomy import MUSCLE_DENSITY
from lepidos.core.yields.hand_measures import both, judged_by_hand
from lepidos.guide.hand_measures import hand_measures

grams = st.floats(0.02, 5.0)
factors = st.floats(1.05, 2.5)


def about(kg: float, factor: float) -> Estimate:
    return Estimate(kg, kg / factor, kg * factor, 0.8, "kg", "f", "s")


class HandMeasuresTest(unittest.TestCase):
    def test_measures_are_what_their_sizes_weigh(self) -> None:
        # a fist of 300 ml; a layer of 15 mm that covers four fifths of a pan of 28 cm, which is 620 cm²
        known = hand_measures()
        self.assertAlmostEqual(known["fist"].kg, 0.3e-3 * MUSCLE_DENSITY, places=3)
        self.assertAlmostEqual(known["pan"].kg, 0.062 * 0.015 * 0.8 * MUSCLE_DENSITY, places=3)
        self.assertTrue(0.1 <= known["palm"].kg <= 0.13)
        self.assertTrue(0.18 <= known["hand"].kg <= 0.25)

    def test_half_a_hand_is_half_as_much_and_as_doubtful(self) -> None:
        palm = hand_measures()["palm"]
        half = judged_by_hand(0.5, palm)
        self.assertAlmostEqual(half.value, palm.kg / 2)
        self.assertAlmostEqual(half.high / half.low, palm.factor**2)
        for times in (0, -1, 31, float("nan")):
            with self.assertRaises(OutOfRange):
                judged_by_hand(times, palm)

    @given(grams, factors, grams, factors)
    def test_two_opinions_lie_between_and_are_narrower_than_either(
        self, kg: float, factor: float, seen_kg: float, seen_factor: float
    ) -> None:
        one, two = about(kg, factor), about(seen_kg, seen_factor)
        found = both(one, two)
        self.assertTrue(min(kg, seen_kg) * 0.999 <= found.value <= max(kg, seen_kg) * 1.001)
        narrower = min(one.high / one.low, two.high / two.low)
        self.assertLess(found.high / found.low, narrower)
        self.assertAlmostEqual(both(two, one).value, found.value)

    def test_opinions_as_sure_meet_in_the_middle_by_root_two_narrower(self) -> None:
        # equal variances: the mean of the logarithms, and a spread of 1 ÷ √2
        found = both(about(0.1, 1.4), about(0.4, 1.4))
        self.assertAlmostEqual(found.value, 0.2)
        self.assertAlmostEqual(found.high / found.value, 1.4 ** (0.5**0.5))

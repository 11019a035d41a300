"""Many fish alike: lengths between the ends, shares of a weight together, weights without the head."""

import math
import unittest
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from lepidos.core.catch.alike import lengths_alike, shares_of_weight
from lepidos.core.catch.length_weight import (
    length_from_weight,
    weight_from_length,
)
from lepidos.core.catch.round_weight import round_from_headed, round_from_share
from lepidos.core.errors import OutOfRange
from lepidos.guide.library import load_guide

GUIDE = load_guide()
KINDS = st.sampled_from(sorted(GUIDE.species))


class AlikeTest(unittest.TestCase):
    @given(st.integers(2, 60), st.floats(0.1, 0.5), st.floats(1.0, 1.5))
    def test_lengths_rise_in_even_steps_from_end_to_end(
        self, count: int, shortest: float, times: float
    ) -> None:
        found = lengths_alike(count, shortest, shortest * times)
        self.assertEqual(len(found), count)
        self.assertAlmostEqual(found[0], shortest, places=5)
        self.assertAlmostEqual(found[-1], shortest * times, places=5)
        steps = [b - a for a, b in pairwise(found)]
        self.assertLess(max(steps) - min(steps), 3e-6)

    def test_what_no_dozen_can_be_is_refused(self) -> None:
        for count, shortest, longest in ((1, 0.3, None), (61, 0.3, None), (12, 0.3, 0.2)):
            with self.assertRaises(OutOfRange):
                lengths_alike(count, shortest, longest)

    @given(KINDS, st.integers(2, 30), st.floats(0.5, 2.0))
    def test_shares_add_up_and_go_as_lengths_foretell(
        self, key: str, count: int, fat: float
    ) -> None:
        one = GUIDE.one(key)
        middle = (one.length_weight.smallest_cm + one.length_weight.largest_cm) / 200
        lengths = lengths_alike(count, 0.8 * middle, middle)
        usual = [weight_from_length(m, one.length_type, one).value for m in lengths]
        shares = shares_of_weight(fat * sum(usual), lengths, one.length_type, one)
        self.assertAlmostEqual(math.fsum(shares), fat * math.fsum(usual), places=6)
        for share, foretold in zip(shares, usual, strict=True):
            self.assertAlmostEqual(share / foretold, fat, places=6)

    def test_one_of_several_is_as_uncertain_as_fish_of_a_length_differ(self) -> None:
        mackerel = GUIDE.one("mackerel")
        found = round_from_share(0.3, mackerel, 0.9)
        self.assertAlmostEqual(
            math.log(found.high / found.value), 1.645 * mackerel.length_weight.sd_log, places=3
        )
        self.assertAlmostEqual(found.low * found.high, found.value**2, places=9)


class WithoutHeadTest(unittest.TestCase):
    def test_a_cod_without_head_and_gut_is_two_thirds_of_what_it_was(self) -> None:
        cod = GUIDE.one("cod")
        found = round_from_headed(2.0, cod)
        self.assertAlmostEqual(found.value, 2.0 / (1 - 0.21 - 0.14), places=9)
        # the factor of landings (1.70, memory), where the collar goes off with the head, is inside
        self.assertTrue(found.low < 2.0 * 1.70 < found.high, found)

    @given(KINDS)
    def test_it_weighed_more_whole_whatever_the_kind(self, key: str) -> None:
        found = round_from_headed(1.0, GUIDE.one(key), 0.99)
        self.assertTrue(1.0 <= found.low < found.value < found.high, found)

    @given(KINDS, st.floats(0.05, 1.0))
    def test_the_length_of_a_weight_weighs_that(self, key: str, part: float) -> None:
        one = GUIDE.one(key)
        kg = part * weight_from_length(one.longest_cm / 100, one.length_type, one).value
        length_m = length_from_weight(kg, one.length_type, one)
        again = weight_from_length(length_m, one.length_type, one).value
        self.assertAlmostEqual(again / kg, 1.0, places=3)

    def test_no_mackerel_weighs_forty_kilograms(self) -> None:
        with self.assertRaises(OutOfRange):
            length_from_weight(40.0, "total", GUIDE.one("mackerel"))

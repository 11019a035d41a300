"""Mass balance as a law, and expectations as probabilities."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.cutting.model import FishToCut, Slot
from lepidos.core.cutting.plan import plan_cut
from lepidos.core.errors import OutOfRange
from lepidos.core.fish.species import Fraction
from lepidos.core.yields.balance import (
    BalancePart,
    balance,
    expected_fillet,
    expected_fraction,
    expected_slots,
    fillet_yield,
)
from lepidos.guide.library import load_guide

GUIDE = load_guide()
parts = st.lists(
    st.builds(
        BalancePart,
        st.sampled_from(
            [Slot("fillet", "A"), Slot("fillet", "B"), Slot("gut", ""), Slot("frame", "")]
        ),
        st.floats(0.001, 5),
    ),
    max_size=20,
)


class BalanceTest(unittest.TestCase):
    @given(st.floats(0.05, 60), parts)
    def test_parts_and_rest_are_the_fish(self, round_kg: float, weighed: list[BalancePart]) -> None:
        found = balance(round_kg, weighed)
        self.assertAlmostEqual(found.weighed_kg + found.rest_kg, round_kg, delta=1e-9)
        self.assertAlmostEqual(sum(p.kg for p in found.parts), found.weighed_kg, delta=1e-9)

    @given(st.floats(0.05, 60), parts, st.randoms())
    def test_the_order_of_weighing_does_not_matter(
        self, kg: float, weighed: list[BalancePart], rng
    ) -> None:
        shuffled = list(weighed)
        rng.shuffle(shuffled)
        self.assertEqual(balance(kg, weighed).weighed_kg, balance(kg, shuffled).weighed_kg)

    @given(st.floats(0.05, 60), parts)
    def test_taking_a_part_back_restores_the_rest(
        self, kg: float, weighed: list[BalancePart]
    ) -> None:
        if not weighed:
            return
        before, after = balance(kg, weighed[:-1]), balance(kg, weighed)
        self.assertAlmostEqual(before.rest_kg - after.rest_kg, weighed[-1].kg, delta=1e-9)

    def test_an_estimated_fish_carries_its_interval_into_the_rest(self) -> None:
        found = balance(2.9, [BalancePart(Slot("gut", ""), 0.4)], (2.4, 3.5))
        self.assertFalse(found.round_measured)
        self.assertAlmostEqual(found.rest_low_kg, 2.0)
        self.assertAlmostEqual(found.rest_high_kg, 3.1)

    def test_over_only_when_no_possible_fish_held_it(self) -> None:
        heavy = [BalancePart(Slot("fillet", "A"), 3.0)]
        self.assertTrue(balance(2.9, heavy).over)
        self.assertFalse(balance(2.9, heavy, (2.4, 3.5)).over)
        self.assertAlmostEqual(balance(2.9, heavy).rest_share, -0.1 / 2.9)

    def test_refuses_what_has_no_mass(self) -> None:
        for bad in (0, -1, math.nan, math.inf):
            with self.subTest(bad=bad), self.assertRaises(OutOfRange):
                balance(bad, [])
        with self.assertRaises(OutOfRange):
            balance(2, [BalancePart(Slot("gut", ""), -0.1)])


class YieldTest(unittest.TestCase):
    def test_names_numerator_and_denominator(self) -> None:
        weighed = balance(
            2.0, [BalancePart(Slot("fillet", "A"), 0.45), BalancePart(Slot("gut", ""), 0.3)]
        )
        figure = fillet_yield(weighed, "on", GUIDE.pieces, GUIDE.methods)
        assert figure is not None
        self.assertAlmostEqual(figure.fraction, 0.225)
        self.assertEqual(figure.numerator, "fillets, skin on")
        self.assertEqual(figure.denominator, "round weight (measured)")

    def test_collars_and_cheeks_are_not_fillet_but_bellies_are(self) -> None:
        some = [BalancePart(Slot(p, "A"), 0.1) for p in ("belly", "collar", "cheek")]
        figure = fillet_yield(balance(1.0, some), "off", GUIDE.pieces, GUIDE.methods)
        assert figure is not None
        self.assertAlmostEqual(figure.fraction, 0.1)
        self.assertEqual(figure.numerator, "fillets, skinless")

    def test_an_estimated_round_weight_is_named_as_such(self) -> None:
        weighed = balance(2.0, [BalancePart(Slot("fillet", "A"), 0.4)], (1.7, 2.4))
        figure = fillet_yield(weighed, "on", GUIDE.pieces, GUIDE.methods)
        assert figure is not None
        self.assertFalse(figure.measured)
        self.assertIn("estimated", figure.denominator)

    def test_nothing_weighed_has_no_yield(self) -> None:
        self.assertIsNone(fillet_yield(balance(2.0, []), "on", GUIDE.pieces, GUIDE.methods))


class ExpectationTest(unittest.TestCase):
    @given(st.floats(0.01, 0.95), st.floats(0.001, 0.2), st.floats(0.5, 0.99))
    def test_no_interval_leaves_nought_to_one(self, mean: float, sd: float, level: float) -> None:
        _, low, high = expected_fraction(Fraction(mean=mean, sd=sd), level)
        self.assertTrue(0 <= low <= mean <= high <= 1)

    def test_a_narrow_spread_agrees_with_the_plain_normal_interval(self) -> None:
        # the logit interval tends to the normal one as the spread shrinks
        _, low, high = expected_fraction(Fraction(mean=0.44, sd=0.005), 0.8)
        z = stats.norm.ppf(0.9)
        self.assertAlmostEqual(low, 0.44 - z * 0.005, delta=1e-4)
        self.assertAlmostEqual(high, 0.44 + z * 0.005, delta=1e-4)

    def test_an_estimated_fish_is_expected_with_a_wider_interval(self) -> None:
        pollack = GUIDE.one("pollack")
        estimate = weight_from_length(0.68, "total", pollack)
        known = expected_fillet(estimate.value, pollack, "on")
        guessed = expected_fillet(estimate, pollack, "on")
        self.assertAlmostEqual(known.value, guessed.value)
        self.assertLess(guessed.low, known.low)
        self.assertGreater(guessed.high, known.high)

    def test_pieces_of_every_species_add_up_to_less_than_the_fish(self) -> None:
        for key, species in GUIDE.species.items():
            for kg, cm in ((0.5, 35), (2.0, 48), (5.0, 60)):
                for skin in ("on", "off"):
                    with self.subTest(species=key, kg=kg, skin=skin):
                        plan = GUIDE.plan_of(species)
                        cut = plan_cut(
                            FishToCut(kg, cm / 100, skin),
                            species,
                            plan,
                            GUIDE.pieces,
                            GUIDE.methods,
                        )
                        found = expected_slots(kg, species, plan, cut, GUIDE.pieces)
                        total = sum(e.value for e in found.values())
                        self.assertTrue(0.75 * kg < total <= kg, total / kg)

    def test_fillet_slots_add_up_to_the_fillet_expected(self) -> None:
        for key, kg, cm in (("pollack", 2.9, 68), ("plaice", 0.9, 43), ("turbot", 3, 55)):
            species = GUIDE.one(key)
            plan = GUIDE.plan_of(species)
            cut = plan_cut(FishToCut(kg, cm / 100), species, plan, GUIDE.pieces, GUIDE.methods)
            found = expected_slots(kg, species, plan, cut, GUIDE.pieces)
            fillets = sum(
                e.value
                for slot, e in found.items()
                if GUIDE.pieces[slot.split(".")[0]].counts_as == "fillet"
            )
            with self.subTest(species=key):
                self.assertAlmostEqual(fillets, expected_fillet(kg, species, "on").value, places=9)

"""Portion marks against independent numeric integration."""

import math
import unittest
from functools import lru_cache

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad

from lepidos.core.errors import OutOfRange
from lepidos.core.fish.anatomy import FilletProfile, fillet_profile
from lepidos.core.pack.portions import equal_portions, into_bags, mass_before, simple_profile
from lepidos.guide.library import load_guide

GUIDE = load_guide()
BLOCK = FilletProfile((0.0, 1.0), (1.0, 1.0), (1.0, 1.0))
WEDGE = FilletProfile((0.0, 1.0), (1.0, 1.0), (1.0, 0.0))
profiles = st.lists(st.tuples(st.floats(0.05, 1), st.floats(0.05, 1)), min_size=2, max_size=9).map(
    lambda rows: FilletProfile(
        tuple(float(x) for x in np.linspace(0, 1, len(rows))),
        tuple(w for w, _ in rows),
        tuple(t for _, t in rows),
    )
)


def share_by_quad(profile: FilletProfile, start: float, end: float) -> float:
    """Mass share between two places by scipy's adaptive quadrature, knots given as breaks."""

    return _between(profile, start, end) / _between(profile, 0, 1)


@lru_cache(maxsize=512)
def _between(profile: FilletProfile, a: float, b: float) -> float:
    def section(x: float) -> float:
        width = np.interp(x, profile.x, profile.width)
        return float(width * np.interp(x, profile.x, profile.thickness))

    points = [x for x in profile.x if a < x < b]
    return quad(section, a, b, points=points or None, limit=200)[0]


class IntegrationTest(unittest.TestCase):
    @settings(max_examples=60)
    @given(profiles, st.floats(0.01, 0.99))
    def test_mass_before_a_place_agrees_with_quadrature(
        self, profile: FilletProfile, x: float
    ) -> None:
        self.assertAlmostEqual(mass_before(profile, x), share_by_quad(profile, 0, x), places=7)

    def test_exact_on_a_wedge(self) -> None:
        # thickness 1 − x: the share before x is 2x − x²
        for x in (0.1, 0.5, 0.9):
            self.assertAlmostEqual(mass_before(WEDGE, x), 2 * x - x * x, places=12)

    def test_nothing_before_the_head_end_and_all_before_the_tail(self) -> None:
        self.assertEqual(mass_before(BLOCK, 0.0), 0.0)
        self.assertAlmostEqual(mass_before(BLOCK, 1.0), 1.0)


class MarksTest(unittest.TestCase):
    def test_a_block_is_cut_evenly(self) -> None:
        plan = equal_portions(BLOCK, 0.8, 0.4, 0.2)
        self.assertEqual([round(m, 9) for m in plan.marks_m], [0.1, 0.2, 0.3])

    def test_a_wedge_is_cut_where_calculus_says(self) -> None:
        # halves of 2x − x²: x = 1 − √½
        plan = equal_portions(WEDGE, 0.4, 0.4, 0.2, tail_apart=False)
        self.assertAlmostEqual(plan.marks_m[0], 0.4 * (1 - math.sqrt(0.5)), places=9)

    @settings(max_examples=60, deadline=None)
    @given(profiles, st.floats(0.1, 3), st.floats(0.1, 1.2), st.floats(0.08, 0.6), st.booleans())
    def test_thick_portions_are_equal_and_all_add_up(
        self, profile: FilletProfile, kg: float, length: float, serving: float, apart: bool
    ) -> None:
        plan = equal_portions(profile, kg, length, serving, apart)
        self.assertAlmostEqual(math.fsum(p.kg for p in plan.portions), kg, places=9)
        self.assertEqual(plan.portions[0].from_m, 0.0)
        self.assertAlmostEqual(plan.portions[-1].to_m, length)
        for group in (False, True):
            sizes = [p.kg for p in plan.portions if p.tail == group]
            if sizes:
                self.assertAlmostEqual(min(sizes), max(sizes), places=9)
        for before, after in zip(plan.portions, plan.portions[1:], strict=False):
            self.assertEqual(before.to_m, after.from_m)
            self.assertLess(before.from_m, before.to_m)

    def test_marks_of_every_guide_fillet_agree_with_quadrature(self) -> None:
        for key, species in GUIDE.species.items():
            plan = GUIDE.plan_of(species)
            for zone in plan.zones:
                if not GUIDE.pieces[zone.piece].tail_apart:
                    continue
                profile = fillet_profile(GUIDE.bodies[key], plan, zone.key)
                cut = equal_portions(profile, 0.9, 0.45, 0.2)
                for portion in cut.portions:
                    with self.subTest(species=key, zone=zone.key, portion=portion.index):
                        share = share_by_quad(profile, portion.from_m / 0.45, portion.to_m / 0.45)
                        self.assertAlmostEqual(share * 0.9, portion.kg, places=6)

    def test_tail_is_apart_and_thinner(self) -> None:
        plan = equal_portions(simple_profile(), 0.876, 0.46, 0.23)
        self.assertTrue(plan.portions[-1].tail)
        self.assertFalse(plan.portions[0].tail)
        self.assertLess(plan.thinnest_m, 0.55 * plan.thickest_m)

    def test_thickness_holds_the_fillets_mass(self) -> None:
        # a block of 0.4 m whose width equals its thickness: kg = ρ · L · u²
        plan = equal_portions(BLOCK, 1.060 * 0.4, 0.4, 0.2)
        self.assertAlmostEqual(plan.thickest_m, math.sqrt(0.001), places=9)

    def test_a_small_fillet_is_one_portion(self) -> None:
        plan = equal_portions(simple_profile(), 0.12, 0.2, 0.2)
        self.assertEqual(len(plan.portions), 1)
        self.assertEqual(plan.marks_m, ())
        self.assertEqual((plan.portions[0].low_kg, plan.portions[0].high_kg), (0.12, 0.12))

    def test_refuses_what_cannot_be(self) -> None:
        for bad in (
            (0.0, 0.4, 0.2),
            (math.nan, 0.4, 0.2),
            (0.8, -0.4, 0.2),
            (0.8, 0.4, 0.0),
            (90.0, 2.0, 0.02),
        ):
            with self.subTest(bad=bad), self.assertRaises(OutOfRange):
                equal_portions(BLOCK, *bad)


class BagsTest(unittest.TestCase):
    def test_thick_and_tail_never_share_a_bag(self) -> None:
        plan = equal_portions(simple_profile(), 1.2, 0.5, 0.2)
        for per_bag in range(1, 6):
            bags = into_bags(plan.portions, per_bag)
            self.assertEqual([p for b in bags for p in b.portions], list(plan.portions))
            for bag in bags:
                self.assertEqual(len({p.tail for p in bag.portions}), 1)
                self.assertLessEqual(len(bag.portions), per_bag)
                self.assertEqual(bag.tail, bag.portions[0].tail)

    def test_refuses_an_empty_bag(self) -> None:
        with self.assertRaises(OutOfRange):
            into_bags((), 0)

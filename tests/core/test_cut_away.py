"""What a spot cut out weighs, against solids that can be calculated by hand, and what it changes."""

import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from lepidos.core.errors import OutOfRange
from lepidos.core.estimate import Estimate
from lepidos.core.fish.anatomy import MUSCLE_DENSITY, zone_at
from lepidos.core.yields.cut_away import spot_kg, without
from lepidos.guide.library import load_guide

GUIDE = load_guide()
COD = GUIDE.one("cod")
BODY, PLAN = GUIDE.body_of(COD), GUIDE.plan_of(COD)
SHOULDER = BODY.point(1.3, 0.35)  # behind the head, above the backbone: thick meat


class SpotTest(unittest.TestCase):
    def test_a_small_spot_in_thick_meat_is_a_plug_as_deep_as_wide(self) -> None:
        plug = math.pi * 0.005**2 * 0.01 * MUSCLE_DENSITY  # 1 cm across and deep: 0.83 g
        self.assertAlmostEqual(spot_kg(BODY, PLAN, SHOULDER, 0.01, 0.8), plug, delta=plug * 0.001)

    def test_a_spot_over_all_the_fish_is_all_the_meat_of_a_side(self) -> None:
        length = 0.2  # half a metre of spot covers it, and no meat of it is so thick
        side = BODY.volume() * length**3 / 2 * PLAN.meat_per_half_width * MUSCLE_DENSITY
        found = spot_kg(BODY, PLAN, (0.5, 0.0), 0.5, length)
        self.assertAlmostEqual(found, side, delta=side * 0.02)

    def test_a_spot_off_the_fish_is_nothing(self) -> None:
        self.assertEqual(spot_kg(BODY, PLAN, (0.5, 0.9), 0.03, 0.8), 0)
        self.assertEqual(spot_kg(BODY, PLAN, (1.2, 0.0), 0.03, 0.8), 0)

    @settings(deadline=None, max_examples=80)
    @given(st.floats(0.1, 0.9), st.floats(-0.1, 0.1), st.floats(0.004, 0.2), st.floats(0.2, 1.8))
    def test_a_wider_spot_is_heavier_and_never_more_than_its_plug(self, x, y, across, length):
        found = spot_kg(BODY, PLAN, (x, y), across, length)
        # 41 points across: at the fish's edge the sum is good to a few parts in a hundred
        wider = spot_kg(BODY, PLAN, (x, y), across * 1.5, length)
        self.assertLessEqual(found, wider * 1.05 + 1e-6)
        self.assertLessEqual(found, math.pi / 4 * across**3 * MUSCLE_DENSITY * 1.001)

    def test_what_cannot_be_is_refused(self) -> None:
        for across, length in ((0.001, 0.8), (0.6, 0.8), (0.02, 0.0), (float("nan"), 0.8)):
            with self.subTest(across=across, length=length), self.assertRaises(OutOfRange):
                spot_kg(BODY, PLAN, SHOULDER, across, length)


class ZoneTest(unittest.TestCase):
    KEYS = ("fillet", "belly", "collar", "cheek")

    def keys(self) -> list[str]:
        return [z.key for z in PLAN.zones if z.piece in self.KEYS]

    def test_the_zone_under_the_finger(self) -> None:
        for zone in PLAN.zones:
            if zone.piece not in self.KEYS:
                continue
            at = BODY.point(*zone.caption)
            self.assertEqual(PLAN.zone(zone_at(BODY, PLAN, self.keys(), at)).piece, zone.piece)

    def test_the_nearest_zone_when_the_finger_is_beside_all(self) -> None:
        self.assertEqual(PLAN.zone(zone_at(BODY, PLAN, self.keys(), (1.0, 0.0))).piece, "fillet")
        self.assertIn(
            PLAN.zone(zone_at(BODY, PLAN, self.keys(), (0.0, -0.3))).piece, {"cheek", "collar"}
        )
        self.assertEqual(zone_at(BODY, PLAN, [], (0.5, 0.0)), "")


class WithoutTest(unittest.TestCase):
    USUAL = Estimate(0.5, 0.4, 0.6, 0.8, "kg", "f", "s")

    def test_nothing_cut_out_changes_nothing(self) -> None:
        self.assertIs(without(self.USUAL, 0.0), self.USUAL)

    def test_more_than_there_is_leaves_a_little(self) -> None:
        left = without(self.USUAL, 9.0)
        self.assertAlmostEqual(left.value, 0.025)
        self.assertLess(0, left.low)
        self.assertLess(left.low, left.high)

    def test_it_says_so(self) -> None:
        self.assertIn("40 g cut out", without(self.USUAL, 0.04).formula)

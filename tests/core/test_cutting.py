"""The planner: the same fish gets the same plan, and each condition does what it says."""

import math
import unittest

from lepidos.core.cutting import FishToCut, Slot, next_slot, plan_cut, present_step
from lepidos.core.errors import OutOfRange
from lepidos.guide.library import load_guide

GUIDE = load_guide()


def plan(key: str, kg: float, cm: float, **more: object):
    species = GUIDE.one(key)
    fish = FishToCut(kg, cm / 100, **more)
    return plan_cut(fish, species, GUIDE.plan_of(species), GUIDE.pieces, GUIDE.schools)


class PlanTest(unittest.TestCase):
    def test_same_inputs_same_plan(self) -> None:
        self.assertEqual(plan("cod", 4, 75), plan("cod", 4, 75))

    def test_a_weevers_spines_come_off_before_anything_else(self) -> None:
        steps = plan("greater_weever", 0.2, 30).steps
        self.assertEqual([s.key for s in steps[:2]], ["spines", "gill_spine"])
        self.assertEqual({s.caution for s in steps[:2]}, {"venom"})

    def test_every_plan_carries_a_caution_for_the_knife_and_ends_with_the_rest(self) -> None:
        for key in GUIDE.species:
            with self.subTest(species=key):
                steps = plan(key, 1.0, 45).steps
                self.assertIn("knife", [s.caution for s in steps])
                self.assertIn("rules", [s.caution for s in steps])
                self.assertEqual(steps[-1].caution, "waste")
                self.assertTrue(all(s.why and s.tool for s in steps))

    def test_what_has_been_done_is_not_planned_again(self) -> None:
        raw = [s.key for s in plan("cod", 4, 75).steps]
        done = plan("cod", 4, 75, facts=frozenset({"bled", "gutted"}))
        self.assertIn("bleed", raw)
        self.assertIn("gut_out", raw)
        self.assertNotIn("bleed", [s.key for s in done.steps])
        self.assertNotIn("gut", [s.piece for s in done.slots])

    def test_flatfish_give_four_fillets_below_50_cm_and_whole_sides_above(self) -> None:
        small = [s.key for s in plan("plaice", 0.9, 43).slots]
        large = [s.key for s in plan("turbot", 3.0, 55).slots]
        for side in "AB":
            self.assertIn(f"back_fillet.{side}", small)
            self.assertIn(f"belly_fillet.{side}", small)
            self.assertIn(f"fillet.{side}", large)
            self.assertIn(f"cheek.{side}", large)
        self.assertNotIn("fillet.A", small)
        self.assertNotIn("back_fillet.A", large)

    def test_the_centre_cut_of_a_flatfish_follows_the_arched_spine(self) -> None:
        cut = next(c for c in GUIDE.plans["flat"].cuts if c.key == "centre")
        self.assertGreater(cut.path[0][1], cut.path[-1][1] + 0.15)

    def test_bellies_collars_and_cheeks_are_offered_from_their_sizes_on(self) -> None:
        self.assertNotIn("belly.A", [s.key for s in plan("pollack", 1.4, 52).slots])
        middle = [s.key for s in plan("pollack", 2.0, 60).slots]
        self.assertIn("belly.A", middle)
        self.assertIn("collar.B", middle)
        self.assertNotIn("cheek.A", middle)
        self.assertIn("cheek.A", [s.key for s in plan("cod", 4.0, 75).slots])

    def test_small_fish_keep_their_belly_on_the_fillets_zone(self) -> None:
        self.assertEqual(plan("pollack", 1.0, 48).zone_of("fillet"), "whole_side")
        self.assertEqual(plan("pollack", 2.0, 60).zone_of("fillet"), "fillet")

    def test_skin_off_adds_the_skinning_step_and_weighs_the_skin(self) -> None:
        self.assertNotIn("skin_off", [s.key for s in plan("cod", 4, 75).steps])
        off = plan("cod", 4, 75, skin="off")
        self.assertIn("skin_off", [s.key for s in off.steps])
        self.assertIn(Slot("skin", ""), off.slots)

    def test_pin_bones_are_cut_out_of_small_fish_and_pulled_from_large(self) -> None:
        self.assertIn("pin_bones", [s.key for s in plan("cod", 3.9, 73).steps])
        self.assertIn("pin_bones_pulled", [s.key for s in plan("cod", 4.0, 74).steps])

    def test_a_small_oily_fish_is_asked_about_whole_and_kept_cold(self) -> None:
        keys = [s.key for s in plan("mackerel", 0.3, 32).steps]
        self.assertIn("cold", keys)
        self.assertIn("whole", keys)
        self.assertNotIn("whole", [s.key for s in plan("mackerel", 0.5, 38).steps])

    def test_refuses_a_size_that_cannot_be(self) -> None:
        for kg, cm in ((0, 40), (math.nan, 40), (1, 0), (2000, 100)):
            with self.subTest(kg=kg, cm=cm), self.assertRaises(OutOfRange):
                plan("cod", kg, cm)


class ProgressTest(unittest.TestCase):
    def setUp(self) -> None:
        self.plan = plan("pollack", 2.9, 68, facts=frozenset({"bled"}))

    def test_next_slot_is_the_first_without_a_weight(self) -> None:
        self.assertEqual(next_slot(self.plan, set()), Slot("gut", ""))
        self.assertEqual(next_slot(self.plan, {"gut"}), Slot("belly", "A"))
        self.assertIsNone(next_slot(self.plan, {s.key for s in self.plan.slots}))

    def test_ticking_moves_on_and_weighing_finishes_what_came_before(self) -> None:
        first = self.plan.steps[0]
        self.assertEqual(present_step(self.plan, set(), set()), first)
        self.assertEqual(present_step(self.plan, {first.key}, set()), self.plan.steps[1])
        after_bellies = present_step(self.plan, set(), {"gut", "belly.A", "belly.B"})
        assert after_bellies is not None
        self.assertEqual(after_bellies.key, "pin_bones")

    def test_a_half_weighed_step_stays_the_present_one(self) -> None:
        step = present_step(self.plan, set(), {"gut", "belly.A"})
        assert step is not None
        self.assertEqual(step.key, "belly_off")

    def test_nothing_is_left_when_all_is_weighed(self) -> None:
        self.assertIsNone(present_step(self.plan, set(), {s.key for s in self.plan.slots}))

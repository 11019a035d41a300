"""The planner: the same fish gets the same plan, and each condition does what it says."""

import math
import unittest

from lepidos.core.cutting.model import FishToCut, Slot
from lepidos.core.cutting.plan import plan_cut
from lepidos.core.cutting.progress import Progress, progress
from lepidos.core.errors import OutOfRange
from lepidos.guide.library import load_guide

GUIDE = load_guide()


def plan(key: str, kg: float, cm: float, **more: object):
    species = GUIDE.one(key)
    fish = FishToCut(kg, cm / 100, **more)
    return plan_cut(fish, species, GUIDE.plan_of(species), GUIDE.pieces, GUIDE.methods)


class PlanTest(unittest.TestCase):
    def test_same_inputs_same_plan(self) -> None:
        self.assertEqual(plan("cod", 4, 75), plan("cod", 4, 75))

    def test_a_weevers_spines_come_off_before_anything_else(self) -> None:
        steps = plan("greater_weever", 0.2, 30).steps
        self.assertEqual([s.key for s in steps[:2]], ["spines_venom", "gill_spine"])
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
        for kg, cm in ((0, 40), (math.nan, 40), (1, 0), (60_000, 100), (1, 2100)):
            with self.subTest(kg=kg, cm=cm), self.assertRaises(OutOfRange):
                plan("cod", kg, cm)


class ProgressTest(unittest.TestCase):
    def setUp(self) -> None:
        self.plan = plan("pollack", 2.9, 68, facts=frozenset({"bled"}))

    def after(self, *done: Slot | str) -> Progress:
        return progress(self.plan, done, GUIDE.pieces)

    def weighed(self, *keys: str) -> list[Slot]:
        return [Slot(key.partition(".")[0], key.partition(".")[2]) for key in keys]

    def key_after(self, *done: Slot | str) -> str:
        present = self.after(*done).present
        return present.key if present else ""

    def next_after(self, *keys: str) -> str:
        following = self.after(*self.weighed(*keys)).next
        return following.key if following else ""

    def test_what_comes_next_follows_the_plan(self) -> None:
        self.assertEqual(self.next_after(), "gut")
        self.assertEqual(self.next_after("gut"), "belly.A")
        self.assertEqual(self.next_after(*(s.key for s in self.plan.slots)), "")

    def test_gut_that_was_passed_over_is_let_go_and_meat_is_come_back_to(self) -> None:
        self.assertEqual(self.next_after("belly.A"), "belly.B")
        self.assertEqual(self.next_after("fillet.A"), "belly.A")
        self.assertEqual(self.next_after("fillet.A", "belly.A", "belly.B"), "fillet.B")
        self.assertEqual(self.next_after("collar.A"), "belly.A")

    def test_a_belly_out_of_turn_does_not_make_the_work_jump(self) -> None:
        # the step with a belly in it stays the present one until both are weighed
        self.assertEqual(self.key_after(*self.weighed("gut", "belly.B")), "weigh_bellies")
        self.assertEqual(self.next_after("gut", "belly.B"), "belly.A")
        self.assertEqual(self.next_after("gut", "frame"), "belly.A")

    def test_ticking_moves_on_and_weighing_finishes_what_came_before(self) -> None:
        first = self.plan.steps[0]
        self.assertEqual(self.key_after(), first.key)
        self.assertEqual(self.key_after(first.key), self.plan.steps[1].key)
        self.assertEqual(self.key_after(*self.weighed("gut", "belly.A", "belly.B")), "weigh_sides")
        self.assertEqual(self.key_after(*self.weighed("gut", "belly.A")), "weigh_bellies")

    def test_a_step_ticked_without_its_weight_is_done(self) -> None:
        found = self.after("gut_out")
        assert found.next is not None
        self.assertEqual(found.next.key, "belly.A")

    def test_every_step_is_done_once_and_one_is_now(self) -> None:
        for n in range(len(self.plan.slots) + 1):
            found = self.after(*self.plan.slots[:n])
            self.assertLessEqual(found.states.count("now"), 1)
            self.assertEqual(found.present is None, "now" not in found.states)

    def test_nothing_is_left_to_weigh_when_all_is(self) -> None:
        self.assertIsNone(self.after(*self.plan.slots).next)

    def test_nothing_is_offered_for_the_scale_while_a_venomous_spine_stands(self) -> None:
        self.plan = plan("greater_weever", 0.3, 34)
        shears = [s.key for s in self.plan.steps if s.disarms]
        self.assertEqual(shears, ["spines_venom", "gill_spine"])
        first = self.after()
        self.assertEqual((first.present and first.present.key, first.next), ("spines_venom", None))
        # a piece weighed out of turn takes neither step off the list
        out_of_turn = self.after(*self.weighed("fillet.A"))
        self.assertEqual(out_of_turn.present and out_of_turn.present.key, "spines_venom")
        states = dict(zip((s.key for s in self.plan.steps), out_of_turn.states, strict=True))
        self.assertEqual((states["spines_venom"], states["gill_spine"]), ("now", "later"))
        self.assertEqual(self.key_after("spines_venom"), "gill_spine")
        disarmed = self.after(*shears)
        self.assertEqual(disarmed.next and disarmed.next.key, "gut")

"""Wishes: whose word counts, what a size class is, a piece with a purpose of its own."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.catch.size_class import size_of
from lepidos.core.cutting.model import FishToCut
from lepidos.core.cutting.plan import plan_cut
from lepidos.core.cutting.stand_ins import step_tool
from lepidos.core.cutting.wishes import Wish, chosen, fitting
from lepidos.core.errors import BadInput
from lepidos.core.yields.balance import expected_slots
from lepidos.guide.library import load_guide

GUIDE = load_guide()
WORDS = st.sampled_from(["", "freezer", "raw", "smoke"])
SKINS = st.sampled_from(["", "on", "off"])
WAYS = st.dictionaries(st.sampled_from(["head", "ribs"]), st.sampled_from(["on", "off", "over"]))
WISHES = st.builds(Wish, WORDS, SKINS, WAYS)


class ChosenTest(unittest.TestCase):
    def test_the_narrower_word_goes_before_the_wider_field_by_field(self) -> None:
        crew = Wish("freezer", "off", {"head": "off", "ribs": "over"}, keeps=("head",))
        party = Wish("raw", "", {"ribs": "through"}, keeps=("collar",))
        found = chosen([("crew", crew), ("Marsh", party)])
        self.assertEqual((found.purpose, found.skin), ("raw", "off"))
        self.assertEqual(found.methods, {"head": "off", "ribs": "through"})
        self.assertEqual(found.keeps, ("head", "collar"))
        self.assertEqual(
            found.said_by,
            {
                "purpose": "Marsh",
                "skin": "crew",
                "head": "crew",
                "ribs": "Marsh",
                "collar": "Marsh",
            },
        )

    @given(st.lists(WISHES, max_size=5))
    def test_the_last_who_speaks_of_a_thing_is_heard(self, wishes: list[Wish]) -> None:
        found = chosen([(str(n), wish) for n, wish in enumerate(wishes)])
        spoken = [w.purpose for w in wishes if w.purpose]
        self.assertEqual(found.purpose, spoken[-1] if spoken else "")
        for key in ("head", "ribs"):
            said = [w.methods[key] for w in wishes if key in w.methods]
            self.assertEqual(found.methods.get(key), said[-1] if said else None)

    def test_no_piece_of_an_eel_is_for_raw(self) -> None:
        asked = Wish(pieces={"fillet.A": "raw", "fillet.B": "oven"})
        self.assertEqual(fitting(asked, GUIDE.methods, ("never_raw",)).pieces, {"fillet.A": "fry"})

    def test_what_the_guide_has_no_longer_is_left_out(self) -> None:
        old = Wish("mummify", "on", {"head": "sideways", "ribs": "over"}, pieces={"gut": "raw2"})
        self.assertEqual(
            fitting(old, GUIDE.methods, ()), Wish("", "on", {"ribs": "over"}, pieces={})
        )


class SizeTest(unittest.TestCase):
    def test_classes_stand_around_a_fish_of_half_the_longest_length(self) -> None:
        one = GUIDE.one("pollack")
        middle = weight_from_length(one.longest_cm / 200, "total", one).value
        for part, size in (
            (0.1, "small"),
            (0.24, "small"),
            (0.26, "usual"),
            (1.9, "usual"),
            (2.1, "large"),
        ):
            self.assertEqual(size_of(middle * part, one), size)


class OnePieceTest(unittest.TestCase):
    def cut(self, skin: str = "on", **pieces: str):
        one = GUIDE.one("pollack")
        fish = FishToCut(
            2.9, 0.68, skin, pieces={k.replace("_", "."): v for k, v in pieces.items()}
        )
        return one, plan_cut(fish, one, GUIDE.plan_of(one), GUIDE.pieces, GUIDE.methods)

    def test_one_side_for_raw_is_skinned_and_weighs_less(self) -> None:
        one, plain = self.cut()
        _, mixed = self.cut(fillet_B="raw")
        self.assertNotIn("skin_off", [s.key for s in plain.steps])
        (skinning,) = [s for s in mixed.steps if s.key == "skin_off"]
        self.assertTrue(skinning.title.endswith(": of fillet B only"), skinning.title)
        self.assertEqual((mixed.skin_of("fillet.A"), mixed.skin_of("fillet.B")), ("on", "off"))
        expected = expected_slots(2.9, one, GUIDE.plan_of(one), mixed, GUIDE.pieces)
        before = expected_slots(2.9, one, GUIDE.plan_of(one), plain, GUIDE.pieces)
        self.assertEqual(expected["fillet.A"].value, before["fillet.A"].value)
        self.assertLess(expected["fillet.B"].value, before["fillet.B"].value)

    def test_one_side_to_grill_keeps_its_skin_on_a_skinned_fish(self) -> None:
        _, mixed = self.cut("off", fillet_A="grill")
        (skinning,) = [s for s in mixed.steps if s.key == "skin_off"]
        self.assertTrue(skinning.title.endswith(": not of fillet A"), skinning.title)

    def test_a_piece_that_the_plan_does_not_give_changes_nothing(self) -> None:
        self.assertEqual(self.cut(high_loin_A="raw")[1].steps, self.cut()[1].steps)

    def test_an_unknown_purpose_of_a_piece_is_refused(self) -> None:
        with self.assertRaisesRegex(BadInput, "is not a purpose"):
            self.cut(fillet_A="mummify")


TOOL_SETS = st.sets(st.sampled_from(sorted(GUIDE.tools)), min_size=1)
NAMED = sorted({step.tool for plan in GUIDE.plans.values() for step in plan.steps})


class StandInTest(unittest.TestCase):
    @given(st.sampled_from(NAMED), TOOL_SETS)
    def test_every_tool_of_every_step_is_to_hand_or_its_lack_is_told(
        self, named: str, to_hand: set[str]
    ) -> None:
        found = step_tool(named, GUIDE.tools, to_hand)
        parts = found.tool.replace(", ", " and ").split(" and ")
        self.assertEqual(len(parts), len(set(parts)), found.tool)
        names = {tool.name: key for key, tool in GUIDE.tools.items()}
        for part in parts:
            if part in names and names[part] not in to_hand:
                self.assertIn(f"no {part} to hand", found.note)

    def test_one_tool_stands_in_for_two_once_and_a_long_name_is_not_its_end(self) -> None:
        self.assertEqual(step_tool("shears and pliers", GUIDE.tools, {"pliers"}).tool, "pliers")
        long = step_tool("long flexible knife", GUIDE.tools, {"fillet_knife"})
        self.assertEqual(
            (long.tool, long.note), ("fillet knife", "instead of the long flexible knife")
        )
        glove = step_tool("shears and thick gloves", GUIDE.tools, {"shears", "cloth"})
        self.assertEqual(glove.tool, "shears and cloth")

    def test_what_is_not_to_hand_is_replaced_or_done_without(self) -> None:
        self.assertEqual(step_tool("fillet knife", GUIDE.tools, ()).note, "")
        other = step_tool("fillet knife", GUIDE.tools, {"stiff_knife"})
        self.assertEqual((other.tool, other.note), ("stiff knife", "instead of the fillet knife"))
        self.assertIn("borrow one", step_tool("fillet knife", GUIDE.tools, {"spoon"}).note)

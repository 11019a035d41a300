"""Whole plans, written out under `docs/plans`: their meaning is held, not their wording."""

import itertools
import json
import re
import unittest
from pathlib import Path

from lepidos.guide.library import load_guide
from lepidos.stations.guide.planner import AskPlan, plan_fish
from scripts.plans import CHOSEN, meaning, name_of, page

GUIDE = load_guide()
PAGES = Path(__file__).parents[2] / "docs" / "plans"
GOLDEN = json.loads((Path(__file__).parent / "plans.json").read_text("utf-8"))


class GoldenTest(unittest.TestCase):
    def test_order_pieces_and_cautions_are_as_they_were_read(self) -> None:
        self.assertGreaterEqual(len(CHOSEN), 30)
        self.assertEqual({GUIDE.one(row[0]).body_plan for row in CHOSEN}, set(GUIDE.plans))
        self.assertLessEqual({"raw", "pan", "oven", "smoke", "grill"}, {row[2] for row in CHOSEN})
        for row in CHOSEN:
            with self.subTest(plan=name_of(row)):
                self.assertEqual(meaning(GUIDE, row), GOLDEN[name_of(row)])

    def test_the_pages_are_what_the_guide_says(self) -> None:
        for row in CHOSEN:
            with self.subTest(plan=name_of(row)):
                text = (PAGES / f"{name_of(row)}.md").read_text("utf-8")
                self.assertEqual(text, page(GUIDE, row), "run scripts/plans.py")

    def test_a_large_fishs_head_is_not_pulled_off_by_hand(self) -> None:
        for name, plan in GOLDEN.items():
            if name.startswith(("bluefin-tuna", "cod-110")):
                self.assertNotIn("gut_with_head", plan["steps"])
        self.assertIn("gut_with_head", GOLDEN["mackerel-36-raw-bled-skin-off"]["steps"])

    def test_a_fish_without_its_head_has_none_to_weigh_or_speak_of(self) -> None:
        parts = re.compile(r"\b(head|heads|cheeks?|throat|gills?|jaw|skull)\b", re.I)
        # the head's end of the fish is there without the head
        known_words = ("towards the head;", "from the head end", "in someone's throat")
        for one in GUIDE.species.values():
            for purpose, share in itertools.product(GUIDE.methods.purposes, (0.15, 0.5, 0.95)):
                ask = AskPlan(
                    one.key, one.longest_cm / 100 * share, purpose=purpose, state="headed"
                )
                planned = plan_fish(GUIDE, ask)
                with self.subTest(fish=one.key, purpose=purpose, share=share):
                    self.assertFalse({"head", "cheek"} & {s.piece for s in planned.cut.slots})
                    self.assertNotIn("head", planned.expected)
                    said = {key for keys in planned.cautions.values() for key in keys}
                    self.assertFalse(
                        {"bites", "bites_beak", "liver", "liver_never", "carp_gall"} & said
                    )
                    for step in planned.cut.steps:
                        words = " ".join((step.title, step.why, step.feel, step.wrong, step.rescue))
                        for known in known_words:
                            words = words.replace(known, "")
                        self.assertNotRegex(words, parts, step.key)

    def test_a_loin_a_third_or_their_belly_is_weighed_when_nothing_more_comes_off_it(self) -> None:
        takers = {
            "bloodline", "skin_off", "skin_deep", "skin_off_big", "tail_edge", "membrane", "worms", "loins_off",
            "pin_bones", "pin_bones_pulled", "ribs_out", "belly_off", "rinse", "dry",
        }  # fmt: skip
        last_cuts = {"steaks", "medallions"}  # they take nothing: only what was weighed is cut
        seen = set()
        for one in GUIDE.species.values():
            if one.body_plan not in {"jack", "log", "giant"}:
                continue
            for purpose, share, skin in itertools.product(
                GUIDE.methods.purposes, (0.15, 0.5, 0.95), ("on", "off")
            ):
                ask = AskPlan(one.key, one.longest_cm / 100 * share, purpose=purpose, skin=skin)
                cut = plan_fish(GUIDE, ask).cut
                at = {step.key: number for number, step in enumerate(cut.steps)}
                for step in cut.steps:
                    if {
                        "high_loin",
                        "low_loin",
                        "rib_end",
                        "middle_piece",
                        "tail_piece",
                        "belly",
                    } & set(step.gives):
                        seen.add((one.body_plan, step.key))
                        later = {key for key in takers if at.get(key, -1) > at[step.key]}
                        self.assertEqual(later, set(), (one.key, purpose, step.key))
                        earlier = {key for key in last_cuts if at.get(key, 99) < at[step.key]}
                        self.assertEqual(earlier, set(), (one.key, purpose, step.key))
        self.assertEqual(len(seen), 6)

    def test_a_gutted_fish_is_not_bled(self) -> None:
        gutted = [plan for name, plan in GOLDEN.items() if "-gutted-" in name]
        self.assertTrue(gutted)
        for plan in gutted:
            self.assertNotIn("bleed", plan["steps"])


if __name__ == "__main__":
    unittest.main()

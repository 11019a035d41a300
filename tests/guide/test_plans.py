"""Whole plans, written out under `docs/plans`: their meaning is held, not their wording."""

import json
import unittest
from pathlib import Path

from lepidos.guide.library import load_guide
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

    def test_a_gutted_fish_is_not_bled(self) -> None:
        gutted = [plan for name, plan in GOLDEN.items() if "-gutted-" in name]
        self.assertTrue(gutted)
        for plan in gutted:
            self.assertNotIn("bleed", plan["steps"])


if __name__ == "__main__":
    unittest.main()

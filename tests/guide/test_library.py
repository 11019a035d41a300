"""The guide's data: complete, sourced, and refused when it is not."""

import shutil
import tempfile
import unittest
from pathlib import Path

from lepidos.core.errors import Unknown
from lepidos.guide.library import FOLDER, load_guide

GUIDE = load_guide()


class LookUpTest(unittest.TestCase):
    def test_this_slices_fish_are_all_there(self) -> None:
        self.assertLessEqual(
            {"pollack", "cod", "ling", "mackerel", "black_sea_bream", "plaice", "turbot",
             "greater_weever", "european_perch"},
            set(GUIDE.species),
        )  # fmt: skip
        self.assertLessEqual({"round", "small_bony", "flat", "spiny"}, set(GUIDE.plans))

    def test_finds_by_any_name_in_any_case(self) -> None:
        for name in ("Lythe", "pollachius  pollachius", "POLLACK", "pollack"):
            self.assertEqual(GUIDE.find(name).key, "pollack")
        self.assertEqual(GUIDE.find("european_perch").key, "european_perch")

    def test_a_fish_is_found_by_its_own_names_whatever_others_are_called(self) -> None:
        for one in GUIDE.species.values():
            for name in (one.key, one.name, one.plural, one.scientific):
                with self.subTest(name=name):
                    self.assertEqual(GUIDE.find(name).key, one.key)

    def test_a_name_that_two_fish_bear_is_given_back_with_both(self) -> None:
        with self.assertRaises(Unknown) as caught:
            GUIDE.find("fluke")
        self.assertEqual(
            set(caught.exception.suggestions), {"European flounder", "summer flounder"}
        )

    def test_a_miss_never_becomes_the_nearest(self) -> None:
        with self.assertRaises(Unknown) as caught:
            GUIDE.find("mackrel")
        self.assertEqual(caught.exception.suggestions[0], "mackerel")
        with self.assertRaises(Unknown):
            GUIDE.one("mackrel")
        with self.assertRaisesRegex(Unknown, "did you mean fillet"):
            GUIDE.piece("filet")


class DataTest(unittest.TestCase):
    def test_every_venomous_fish_carries_the_caution(self) -> None:
        for species in GUIDE.species.values():
            if "venomous_spines" in species.traits:
                self.assertTrue(
                    any(GUIDE.cautions[c].stands_for == "venom" for c in species.cautions),
                    species.key,
                )

    def test_every_fish_that_is_eaten_carries_the_raw_caution(self) -> None:
        for species in GUIDE.species.values():
            self.assertIn("raw", species.cautions)

    def test_every_caution_says_who_decides(self) -> None:
        for key, caution in GUIDE.cautions.items():
            with self.subTest(caution=key):
                self.assertTrue(caution.text.endswith(".") and caution.decides.endswith("."))

    def test_nothing_is_ever_called_safe_or_legal(self) -> None:
        for path in FOLDER.rglob("*.toml"):
            with self.subTest(file=path.name):
                text = path.read_text("utf-8").lower()
                self.assertNotRegex(text, r"\bsafe\b|\blegal\b")

    def test_perch_values_are_data_and_memory_is_called_memory(self) -> None:
        self.assertEqual(GUIDE.sources["perch-1917"].kind, "data")
        self.assertEqual(GUIDE.one("european_perch").length_weight.source, "perch-1917")
        for source in GUIDE.sources.values():
            if "(memory)" in source.title:
                self.assertEqual(source.kind, "memory")


class RefusalTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "guide"
        shutil.copytree(FOLDER, self.folder)

    def change(self, name: str, old: str, new: str) -> None:
        path = self.folder / name
        text = path.read_text("utf-8")
        self.assertIn(old, text)
        path.write_text(text.replace(old, new, 1), "utf-8")

    def test_each_flaw_is_named_with_its_file(self) -> None:
        flaws = [
            ("species/cod.toml", 'source = "memory"', 'source = "hearsay"', "hearsay"),
            ("species/cod.toml", 'body_plan = "round"', 'body_plan = "cube"', "cube"),
            ("species/cod.toml", 'code = "C"', 'code = "P"', "give one of them another"),
            ("species/cod.toml", "mean = 0.43", "mean = 0.83", "add up to"),
            ("species/cod.toml", "b = 3.08", "b = 4.2", "write a number from 2 to 3.6"),
            (
                "species/cod.toml",
                'cautions = ["raw", "liver"]',
                'cautions = ["rwa"]',
                "unknown cautions",
            ),
            ("bodyplans/flat.toml", 'cut = "centre"', 'cut = "center"', "no cut “center”"),
            ("bodyplans/flat.toml", 'caution = "knife"', 'caution = "blade"', "no caution"),
            ("bodyplans/flat.toml", 'gives = ["gut"]', 'gives = ["guts"]', "unknown pieces"),
            ("species/cod.toml", "longest_cm", "longest_inch", "longest_inch"),
            ("sources.toml", "[memory]", "[memory", "sources.toml"),
            (
                "species/cod.toml",
                'waters = ["',
                'waters = ["dead_sea", "',
                "waters has .'dead_sea'.: write one of",
            ),
            ("waters.toml", 'often = ["mackerel"', 'often = ["walleye"', "not met there"),
        ]
        for name, old, new, message in flaws:
            with self.subTest(flaw=new):
                self.change(name, old, new)
                load_guide.cache_clear()
                with self.assertRaisesRegex(ValueError, message):
                    load_guide(self.folder)
                self.change(name, new, old)
        load_guide.cache_clear()

    def test_a_change_in_one_file_changes_drawing_plan_and_expectation(self) -> None:
        self.change(
            "bodyplans/flat.toml",
            "path = [[1.1, 0.25], [1.5, 0.21]",
            "path = [[1.1, 0.4], [1.5, 0.3]",
        )
        self.change("species/plaice.toml", "mean = 0.44", "mean = 0.40")
        changed = load_guide(self.folder)
        cut = next(c for c in changed.plans["flat"].cuts if c.key == "centre")
        self.assertEqual(cut.path[0], (1.1, 0.4))
        self.assertEqual(changed.one("plaice").yields.fillet_skin_on.mean, 0.40)

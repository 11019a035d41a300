"""A flaw in a file of the guide is told with its file, its field and what to write there instead."""

import shutil
import tempfile
import tomllib
import unittest
from pathlib import Path

import jsonschema
from typer.testing import CliRunner

from lepidos.cli.guide import guide
from lepidos.guide.file_schemas import file_schemas
from lepidos.guide.label_words import label_languages
from lepidos.guide.library import FOLDER, load_guide
from lepidos.guide.problems import GuideProblem

PLACES = {
    "species": "species",
    "bodyplan": "bodyplans",
    "lookalike": "lookalikes",
    "label": "labels",
}


class FolderTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "guide"
        shutil.copytree(FOLDER, self.folder)
        self.addCleanup(load_guide.cache_clear)

    def change(self, name: str, old: str, new: str) -> None:
        path = self.folder / name
        text = path.read_text("utf-8")
        self.assertIn(old, text)
        path.write_text(text.replace(old, new, 1), "utf-8")
        load_guide.cache_clear()
        label_languages.cache_clear()


class WordsTest(FolderTest):
    def test_each_says_file_field_and_what_to_write(self) -> None:
        flaws = (
            ("species/cod.toml", "b = 3.08\n", "",
             "cod.toml: length_weight.b is missing: write b = …, a number from 2 to 3.6"),
            ("species/cod.toml", "b = 3.08", 'b = "three"',
             "cod.toml: length_weight.b is 'three': write a number from 2 to 3.6"),
            ("species/cod.toml", "b = 3.08", "b = 4.2",
             "cod.toml: length_weight.b is 4.2: write a number from 2 to 3.6"),
            ("species/cod.toml", "longest_cm", "longest_inch",
             "cod.toml: there is no field longest_inch: write longest_cm"),
            ("species/cod.toml", 'length_type = "total"', 'length_type = "overall"',
             "cod.toml: length_type is 'overall': write one of \"total\", \"fork\""),
            ("species/cod.toml", "gut = { mean = 0.14, sd = 0.035 }", "gut = { mean = 0.14 }",
             "cod.toml: yields.gut.sd is missing"),
            ("species/cod.toml", "traits = []", 'traits = "none"',
             "cod.toml: traits is 'none': write a list in [ ]"),
            ("species/cod.toml", "mean = 0.43", "mean = 0.83",
             "cod.toml: yields: the parts add up to 1.35 of the fish"),
            ("species/cod.toml", 'code = "C"', 'code = "P"',
             "pollack.toml: its code P is that of cod.toml: give one of them another"),
            ("bodyplans/flat.toml", 'gives = ["gut"]', 'gvies = ["gut"]',
             "there is no field steps[5].gvies: write gives"),
            ("pieces.toml", 'name = "fillet"', 'nmae = "fillet"',
             "pieces.toml, [fillet]: there is no field nmae: write name"),
            ("cautions.toml", "grave = 12", 'grave = "twelve"', "is 'twelve': write a whole number"),
            ("findings.toml", "[[kinds]]", "[[kinds]]\nodd = 3",
             "there is no field kinds[1].odd: take it out, or write one of key, name,"),
        )  # fmt: skip
        for name, old, new, words in flaws:
            with self.subTest(flaw=new or old):
                whole = (self.folder / name).read_text("utf-8")
                self.change(name, old, new)
                with self.assertRaises(ValueError) as told:
                    load_guide(self.folder)
                self.assertIn(words, str(told.exception))
                self.assertNotIn("pydantic", str(told.exception))
                (self.folder / name).write_text(whole, "utf-8")

    def test_all_flaws_of_a_file_are_told_at_once(self) -> None:
        self.change("species/cod.toml", "longest_cm", "longest_inch")
        with self.assertRaises(GuideProblem) as told:
            load_guide(self.folder)
        self.assertEqual(told.exception.where, "cod.toml")
        self.assertEqual(len(told.exception.said), 2)

    def test_a_language_that_lacks_a_word_says_which(self) -> None:
        self.change("labels/de.toml", 'fillet = "Filet"\n', "")
        self.change("labels/de.toml", "[pieces]\n", '[pieces]\nfilet = "Filet"\n')
        self.addCleanup(label_languages.cache_clear)
        with self.assertRaises(GuideProblem) as told:
            label_languages(self.folder)
        self.assertEqual(
            told.exception.said,
            ('[pieces] lacks a word: write fillet = "…"', "[pieces] has filet, which the guide does not: take it out"),
        )  # fmt: skip

    def test_what_to_do_when_stung_stands_once_and_is_said_with_every_venom(self) -> None:
        found = load_guide()
        venomous = [one for key, one in found.cautions.items() if key.startswith("venom")]
        self.assertEqual(len(venomous), 7)
        for one in venomous:
            self.assertRegex(
                one.text, r"If stung: .* for 30 to 90 minutes; .* trouble breathing, \w"
            )
            self.assertNotRegex(one.text, r"[{}]|\.\.")
        times = sum(
            path.read_text("utf-8").count("as hot as can be borne")
            for path in FOLDER.rglob("*.toml")
        )
        self.assertEqual(times, 2)  # the sentence, and the first step of the aid itself


class OneFileTest(FolderTest):
    def test_a_fish_is_one_file_and_holds_at_once(self) -> None:
        text = (self.folder / "species/cod.toml").read_text("utf-8")
        for old, new in (
            ('name = "cod"', 'name = "harbour cod"'), ('plural = "cod"', 'plural = "harbour cod"'),
            ('code = "C"', 'code = "QX"'), ("mean = 0.43", "mean = 0.41"),
        ):  # fmt: skip
            self.assertIn(old, text)
            text = text.replace(old, new, 1)
        (self.folder / "species/harbour_cod.toml").write_text(text, "utf-8")
        code, said = self.run_guide("check", "harbour_cod", "--folder", str(self.folder))
        self.assertEqual(code, 0, said)
        found = load_guide(self.folder)
        self.assertIn("harbour_cod", found.waters["north_east_atlantic"].species)
        self.assertEqual(found.one("harbour_cod").counted, load_guide().one("cod").counted)

    def run_guide(self, *words: str) -> tuple[int, str]:
        done = CliRunner().invoke(guide, list(words))
        return done.exit_code, done.output


class SchemaTest(unittest.TestCase):
    def test_every_file_of_ours_fits_its_schema_and_a_misspelt_field_does_not(self) -> None:
        for kind, schema in file_schemas().items():
            check = jsonschema.Draft202012Validator(schema)
            check.check_schema(schema)
            place = PLACES.get(kind)
            paths = sorted((FOLDER / place).glob("*.toml")) if place else [FOLDER / f"{kind}.toml"]
            self.assertTrue(paths, kind)
            for path in paths:
                with self.subTest(path.name):
                    raw = tomllib.loads(path.read_text("utf-8"))
                    self.assertEqual([e.message for e in check.iter_errors(raw)][:2], [])
            self.assertTrue(list(check.iter_errors(raw | {"misspelt": 1})), kind)


class CommandTest(FolderTest):
    def run_guide(self, *words: str) -> tuple[int, str]:
        done = CliRunner().invoke(guide, list(words))
        return done.exit_code, done.output

    def test_check_draws_and_plans_a_fish(self) -> None:
        code, said = self.run_guide("check", "cod", "--folder", str(self.folder))
        self.assertEqual(code, 0, said)
        self.assertIn("1 fish hold", said)

    def test_check_tells_what_does_not_hold_and_fails(self) -> None:
        self.change("species/cod.toml", "b = 3.08\n", "")
        code, said = self.run_guide("check", "cod", "--folder", str(self.folder))
        self.assertEqual(code, 1)
        self.assertIn("cod.toml: length_weight.b is missing", said)

    def test_schemas_are_written_for_an_editor(self) -> None:
        code, said = self.run_guide("schema", str(self.folder / "schemas"))
        self.assertEqual(code, 0, said)
        self.assertEqual(
            len(list((self.folder / "schemas").glob("*.schema.json"))), len(file_schemas())
        )

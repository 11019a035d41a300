"""The data file: migrations forward, backups, and what the models say against what SQL made."""

import sqlite3
import unittest
from datetime import UTC, datetime, timedelta, timezone
from pathlib import Path
from random import Random
from tempfile import TemporaryDirectory

from lepidos.store.base.ids import IdMaker, clock_is_behind
from lepidos.store.deck import fish_now, fishes
from lepidos.store.file import migrate
from lepidos.store.file.database import Store
from lepidos.store.file.file_problems import ForeignFile
from lepidos.store.pack import bags
from lepidos.store.schema import TABLES
from lepidos.store.schema.base import Instant
from lepidos.store.table import sessions
from lepidos.store.trips import trips
from tests.app import NOON, AppTest


class FolderTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "data" / "lepidos.sqlite"
        self.path.parent.mkdir()


class MigrationTest(FolderTest):
    def older_file(self) -> None:
        """A file as the first schema made it, with a trip, a fish and a weighing in it."""
        old = sqlite3.connect(self.path)
        migrate.up(old, to=1)
        old.executescript(
            """
            INSERT INTO trip VALUES ('T1', 'Marram Lass', 'boat', 'Skarrow Quay', '2026-07-14', 'UTC', '2026-07-14T06:00:00.000Z');
            INSERT INTO fish VALUES ('F1', 'T1', 'P1', 'pollack', NULL, NULL, 'on', '2026-07-14T07:00:00.000Z');
            INSERT INTO measurement VALUES ('M1', 'F1', 'length', 0.68, 'total', 'typed', '2026-07-14T07:00:00.000Z');
            INSERT INTO weighing VALUES ('W1', 'F1', 'fillet', 'A', 0.58, 'scale', '2026-07-14T09:00:00.000Z');
            INSERT INTO fish_now VALUES ('F1', 'T1', 'pollack', 'table', '', 0.68, 'total', NULL, NULL, 0.58, 0.58);
            """
        )
        self.assertEqual(old.execute("PRAGMA user_version").fetchone()[0], 1)
        old.close()

    def test_an_older_file_comes_forward_with_all_that_was_in_it(self) -> None:
        self.older_file()
        store = Store.open(self.path)
        self.addCleanup(store.close)
        self.assertEqual(store.schema_version(), migrate.steps()[-1][0])
        with store.reading():
            self.assertEqual(trips.get("T1").harbour, "Skarrow Quay")
            (pair,) = fishes.of_trip("T1")
            self.assertEqual(pair[0].code, "P1")
            self.assertEqual([w.kg for w in fishes.weighings_of("F1")], [0.58])
            self.assertEqual(bags.count(), 0)

    def test_facts_whose_names_held_their_kind_come_forward(self) -> None:
        old = sqlite3.connect(self.path)
        migrate.up(old, to=7)
        old.executescript(
            """
            INSERT INTO trip (id, name, kind, harbour, on_date, timezone, started_at) VALUES ('T1', 'Marram Lass', 'boat', 'Skarrow Quay', '2026-07-14', 'UTC', '2026-07-14T06:00:00.000Z');
            INSERT INTO board (id, trip_id, name, opens_at) VALUES ('B1', 'T1', 'Ines', '2026-07-14T08:00:00.000Z');
            INSERT INTO fish (id, trip_id, code, species, skin, landed_at) VALUES ('F1', 'T1', 'P1', 'pollack', 'on', '2026-07-14T07:00:00.000Z');
            INSERT INTO measurement VALUES ('M1', 'F1', 'length', 0.68, 'total', 'typed', '2026-07-14T07:00:00.000Z');
            INSERT INTO fish_now VALUES ('F1', 'T1', 'pollack', 'table', 'bled closed gutted kept.weighing.A paused step.gut_out step.wash table.B1', 0.68, 'total', NULL, NULL, 0, 0);
            """
        )
        names = ("bled", "table.B1", "step.gut_out", "gutted", "paused", "resumed",
                 "kept.weighing.A", "step.wash", "iced", "closed")  # fmt: skip
        for n, name in enumerate(names):
            at = f"2026-07-14T09:{n:02d}:00.000Z"
            old.execute("INSERT INTO fact VALUES (?, 'F1', ?, ?)", (f"A{n}", name, at))
        old.execute("INSERT INTO undo VALUES ('U1', 'fact', 'A8', '2026-07-14T09:30:00.000Z')")
        old.commit()
        old.close()
        store = Store.open(self.path)
        self.addCleanup(store.close)
        with store.reading():
            found = [(f.kind, f.name) for f in fishes.facts_of("F1")]
            now = fishes.now("F1")
            self.assertEqual(sessions.boards_of(["F1"]), {"F1": "B1"})
        self.assertEqual(
            found,
            [("state", "bled"), ("board", "B1"), ("step", "gut_out"), ("state", "gutted"),
             ("work", "paused"), ("work", "resumed"), ("answer", "weighing.A"), ("step", "wash"),
             ("work", "closed")],
        )  # fmt: skip
        self.assertEqual((now.facts, now.steps), ("bled gutted", "gut_out wash"))
        with store.writing():
            self.assertEqual(fish_now.refresh("F1", lambda piece: False).stage, "done")

    def test_a_swordfish_that_was_landed_by_the_fork_keeps_its_meaning(self) -> None:
        old = sqlite3.connect(self.path)
        migrate.up(old, to=19)
        old.executescript(
            """
            INSERT INTO trip (id, name, kind, harbour, on_date, timezone, started_at) VALUES ('T1', 'Marram Lass', 'boat', 'Skarrow Quay', '2026-07-14', 'UTC', '2026-07-14T06:00:00.000Z');
            INSERT INTO fish (id, trip_id, code, species, skin, landed_at) VALUES ('F1', 'T1', 'SW1', 'swordfish', 'on', '2026-07-14T07:00:00.000Z'), ('F2', 'T1', 'M1', 'mackerel', 'on', '2026-07-14T07:00:00.000Z');
            """
        )
        row = "INSERT INTO measurement VALUES (?, ?, 'length', ?, 'fork', 'typed', '2026-07-14T07:00:00.000Z')"
        old.executemany(row, [("M1", "F1", 1.9), ("M2", "F2", 0.36)])
        old.commit()
        old.close()
        store = Store.open(self.path)
        self.addCleanup(store.close)
        with store.writing():
            kinds = [fish_now.refresh(f, lambda piece: False).length_type for f in ("F1", "F2")]
        self.assertEqual(kinds, ["lower_jaw_fork", "fork"])

    def test_loins_and_thirds_weighed_before_they_were_trimmed_are_marked(self) -> None:
        old = sqlite3.connect(self.path)
        migrate.up(old, to=21)
        old.executescript(
            """
            INSERT INTO trip (id, name, kind, harbour, on_date, timezone, started_at) VALUES ('T1', 'Marram Lass', 'boat', 'Skarrow Quay', '2026-07-14', 'UTC', '2026-07-14T06:00:00.000Z');
            INSERT INTO fish (id, trip_id, code, species, skin, landed_at)
              SELECT 'F' || value, 'T1', 'Y' || value, 'yellowtail', 'off', '2026-07-14T07:00:00.000Z' FROM json_each('[1,2,3]');
            """
        )
        row = "INSERT INTO weighing (id, fish_id, piece, side, kg, method, at) VALUES (?, ?, ?, 'A', 1.0, 'typed', '2026-07-14T08:00:00.000Z')"
        old.executemany(row, [
            ("W1", "F1", "high_loin"), ("W2", "F1", "belly"), ("W3", "F1", "trim"),
            ("W4", "F2", "fillet"), ("W5", "F2", "belly"), ("W6", "F3", "low_loin"),
        ])  # fmt: skip
        old.execute("INSERT INTO undo VALUES ('U1', 'weighing', 'W6', '2026-07-14T09:00:00.000Z')")
        old.executemany(
            "INSERT INTO measurement VALUES ('M' || ?, 'F' || ?, 'length', 0.9, 'total', 'typed', '2026-07-14T07:00:00.000Z')",
            [(n, n) for n in (1, 2, 3)],
        )
        old.commit()
        old.close()
        store = Store.open(self.path)
        self.addCleanup(store.close)
        with store.reading():
            weighed = {w.id: w.rough for f in ("F1", "F2") for w in fishes.weighings_of(f)}
        self.assertEqual(weighed, {"W1": True, "W2": True, "W3": False, "W4": False, "W5": False})
        with store.writing():
            derived = [fish_now.refresh(f, lambda piece: True).doubt for f in ("F1", "F2", "F3")]
        self.assertEqual(derived, ["rough", "", ""])

    def test_a_small_bag_of_before_is_a_part_of_a_serving_and_others_keep_theirs(self) -> None:
        old = sqlite3.connect(self.path)
        migrate.up(old, to=22)
        old.execute(
            "INSERT INTO trip (id, name, kind, harbour, on_date, timezone, started_at) VALUES ('T1', 'Marram Lass', 'boat', 'Skarrow Quay', '2026-07-14', 'UTC', '2026-07-14T06:00:00.000Z')"
        )
        old.executemany(
            "INSERT INTO bag (id, code, trip_id, species, piece, tail, skin, servings, kg, measured, caught_on, packed_on, best_by, sealed_at)"
            " VALUES (?, ?, 'T1', 'cod', 'collar', 0, 'on', ?, ?, 1, '2026-07-14', '2026-07-14', '2026-10-14', '2026-07-14T12:00:00.000Z')",
            [("G1", "AAAAAA", 1, 0.038), ("G2", "BBBBBB", 1, 0.16), ("G3", "CCCCCC", 4, 0.1)],
        )
        old.commit()
        old.close()
        store = Store.open(self.path)
        self.addCleanup(store.close)
        with store.reading():
            found = [bags.get(key).servings for key in ("G1", "G2", "G3")]
        self.assertEqual(found, [0.2, 1.0, 4.0])

    def test_opening_twice_migrates_once(self) -> None:
        Store.open(self.path).close()
        Store.open(self.path).close()
        names = (
            sqlite3.connect(self.path).execute("SELECT name FROM migration ORDER BY 1").fetchall()
        )
        self.assertEqual([n for (n,) in names], [p.stem for _, p in migrate.steps()])

    def test_a_newer_file_is_left_alone(self) -> None:
        Store.open(self.path).close()
        with sqlite3.connect(self.path) as newer:
            newer.execute("PRAGMA user_version = 99")
        with self.assertRaisesRegex(migrate.NewerFile, "schema 99"):
            Store.open(self.path)

    def test_a_step_that_fails_leaves_the_file_as_it_was(self) -> None:
        old = sqlite3.connect(self.path)
        migrate.up(old, to=1)
        old.execute("CREATE TABLE bag (other TEXT)")
        with self.assertRaises(sqlite3.OperationalError):
            migrate.up(old)
        self.assertEqual(old.execute("PRAGMA user_version").fetchone()[0], 1)
        tables = {r[0] for r in old.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        self.assertNotIn("portion", tables)
        old.close()

    def test_a_file_that_is_no_database_is_told_so(self) -> None:
        self.path.write_bytes(b"a shopping list, certainly not a database" * 40)
        with self.assertRaisesRegex(ForeignFile, "not a data file"):
            Store.open(self.path)

    def test_models_have_exactly_the_columns_that_sql_made(self) -> None:
        store = Store.open(self.path)
        self.addCleanup(store.close)
        plain = sqlite3.connect(self.path)
        for model in TABLES:
            with self.subTest(table=model._meta.table_name):
                made = {r[1] for r in plain.execute(f"PRAGMA table_info({model._meta.table_name})")}
                self.assertEqual({f.column_name for f in model._meta.sorted_fields}, made)
        plain.close()

    def test_commits_are_synced_in_full_and_foreign_keys_hold(self) -> None:
        store = Store.open(self.path)
        self.addCleanup(store.close)
        with store.reading():
            for pragma, value in (("synchronous", 2), ("foreign_keys", 1), ("journal_mode", "wal")):
                found = store._database.execute_sql(f"PRAGMA {pragma}").fetchone()[0]
                self.assertEqual(found, value)


class BackupTest(AppTest):
    def test_a_backup_is_whole_and_opens_on_its_own(self) -> None:
        trip = self.start_trip()
        self.land(trip)
        target = self.folder / "backup" / "copy.sqlite"
        self.ctx.store.backup(target)
        self.land(trip)
        self.ctx.store.close()
        copy = Store.open(target)
        self.addCleanup(copy.close)
        self.assertEqual(copy.check(), "ok")
        with copy.reading():
            self.assertEqual(fishes.count(), 1)

    def test_a_backup_never_overwrites(self) -> None:
        target = self.folder / "there.txt"
        target.write_text("mine")
        with self.assertRaises(FileExistsError):
            self.ctx.store.backup(target)
        self.assertEqual(target.read_text(), "mine")


class IdTest(unittest.TestCase):
    def test_keys_rise_within_a_millisecond_and_when_the_clock_steps_back(self) -> None:
        ids = IdMaker(Random(1))
        made = [ids.new(NOON) for _ in range(500)]
        made += [ids.new(NOON - timedelta(hours=1)) for _ in range(500)]
        self.assertEqual(made, sorted(set(made)))
        self.assertTrue(all(len(key) == 26 for key in made))

    def test_the_same_seed_makes_the_same_keys(self) -> None:
        self.assertEqual(IdMaker(Random(3)).new(NOON), IdMaker(Random(3)).new(NOON))

    def test_a_key_that_somebody_wrote_by_hand_stops_nothing(self) -> None:
        for key in ("Z-by-hand", "1", "fish 7"):
            self.assertEqual(IdMaker(Random(3), key).new(NOON), IdMaker(Random(3)).new(NOON))
            self.assertEqual(clock_is_behind(key, NOON), "")


class InstantTest(unittest.TestCase):
    def test_is_kept_in_utc_whatever_zone_it_came_in(self) -> None:
        field = Instant()
        summer = timezone(timedelta(hours=1))
        stored = field.db_value(datetime(2026, 7, 14, 13, 10, 5, 250_000, tzinfo=summer))
        self.assertEqual(stored, "2026-07-14T12:10:05.250Z")
        self.assertEqual(
            field.python_value(stored), datetime(2026, 7, 14, 12, 10, 5, 250_000, tzinfo=UTC)
        )

    def test_refuses_a_time_without_a_zone(self) -> None:
        with self.assertRaisesRegex(ValueError, "without a zone"):
            Instant().db_value(datetime(2026, 7, 14))

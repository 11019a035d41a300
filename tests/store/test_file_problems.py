"""What lies where the data file should be: told before anything is written, and left as it was."""

import os
import sqlite3
import tempfile
import unittest
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

from lepidos.store import data_file, migrate
from lepidos.store.database import Store
from lepidos.store.file_problems import (
    DamagedFile,
    EmptyFile,
    FileProblem,
    ForeignFile,
    FullDisk,
    GoneFile,
    LockedFile,
    MissingFile,
    NewerFile,
    NoFile,
    ReadOnlyFile,
    StaleLog,
    told_by,
)
from tests.app import AppTest

LOCKED_AT_MOST_S = 2.0


class FileTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "log"
        self.path = self.folder / "lepidos.sqlite"

    def made(self) -> bytes:
        Store.open(self.path).close()
        return self.path.read_bytes()

    def refused(self, kind: type[FileProblem], words: str, make: bool = True) -> FileProblem:
        """Opening is refused with these words, and what was there is as it was."""
        before = {p.name: p.read_bytes() for p in self.folder.glob("lepidos*") if p.is_file()}
        with self.assertRaisesRegex(kind, words) as caught:
            Store.open(self.path, make)
        after = {p.name: p.read_bytes() for p in self.folder.glob("lepidos*") if p.is_file()}
        self.assertEqual(after, before)
        return caught.exception


class StartTest(FileTest):
    def test_a_new_file_is_private_and_ours(self) -> None:
        head = self.made()
        self.assertEqual(head[68:72], b"Lpds")
        self.assertEqual(self.path.stat().st_mode & 0o777, 0o600)
        self.assertEqual(self.folder.stat().st_mode & 0o777, 0o700)
        self.assertEqual(sorted(p.name for p in self.folder.iterdir()),
                         ["about-this-folder.txt", "lepidos.sqlite"])  # fmt: skip

    def test_a_file_half_made_is_no_file(self) -> None:
        self.folder.mkdir()
        self.path.with_name("lepidos.sqlite.new").write_bytes(b"SQLite for")
        self.assertEqual(self.made()[:6], b"SQLite")

    def test_a_file_that_is_gone_is_not_made_anew(self) -> None:
        self.made()
        self.path.unlink()
        self.refused(MissingFile, "is gone.*no new one was made")
        (self.folder / data_file.ABOUT).unlink()
        with self.assertRaises(NoFile):
            Store.open(self.path, make=False)  # nothing says that there was one, nor makes one
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_a_copy_or_a_log_of_changes_says_that_there_was_a_file(self) -> None:
        self.folder.mkdir()
        beside = self.path.with_name("lepidos.sqlite-wal")
        beside.write_bytes(b"changes")
        self.refused(MissingFile, "is gone")
        beside.unlink()
        (self.folder / "backups").mkdir()
        copy = self.folder / "backups" / "20260714T121000Z-daily.sqlite"
        copy.write_bytes(b"a copy")
        self.assertIn(str(copy), self.refused(MissingFile, "lepidos restore").do)

    def test_each_thing_that_is_no_data_file_has_its_own_sentence(self) -> None:
        whole = self.made()

        def foreign() -> None:
            with closing(sqlite3.connect(self.path)) as file:
                file.execute("CREATE TABLE recipe (name TEXT)")

        def numbered() -> None:
            foreign()
            with closing(sqlite3.connect(self.path)) as file:
                file.execute("PRAGMA application_id = 252006674")

        def newer() -> None:
            self.path.write_bytes(whole)
            with closing(sqlite3.connect(self.path)) as file:
                file.execute("PRAGMA user_version = 99")

        def page(number: int) -> Callable[[], None]:
            size = int.from_bytes(whole[16:18], "big")
            at = size * number
            return lambda: self.write(whole[:at] + b"\xa5" * size + whole[at + size :])

        cases: list[tuple[Callable[[], object], type[FileProblem], str]] = [
            (lambda: self.write(b""), EmptyFile, "0 bytes"),
            (
                lambda: self.write(b"a shopping list" * 99),
                ForeignFile,
                "not a data file of Lepidos",
            ),
            (foreign, ForeignFile, "another program made it"),
            (numbered, ForeignFile, "another program made it"),
            (newer, NewerFile, f"schema 99.*up to schema {migrate.steps()[-1][0]}"),
            (lambda: self.write(whole[:5000]), DamagedFile, "is damaged"),
            (page(1), DamagedFile, "is damaged"),
        ]
        for make, kind, words in cases:
            with self.subTest(words=words):
                self.path.unlink(missing_ok=True)
                make()
                if kind is DamagedFile:
                    # the first pages may open: what a start asks besides is the whole check
                    self.damaged()
                else:
                    self.refused(kind, words)

    def write(self, data: bytes) -> None:
        self.path.write_bytes(data)

    def damaged(self) -> None:
        try:
            store = Store.open(self.path)
        except DamagedFile:
            return
        try:
            self.assertNotEqual(store.check(), "ok")
        except DamagedFile:
            pass
        finally:
            store.close()

    def test_an_older_file_has_no_number_of_ours_yet_and_opens_with_a_copy_beside(self) -> None:
        self.folder.mkdir()
        with closing(sqlite3.connect(self.path)) as old:
            migrate.up(old, to=5)
        Store.open(self.path).close()
        self.assertEqual(self.path.read_bytes()[68:72], b"Lpds")
        (copy,) = (self.folder / "backups").glob("*-migration.sqlite")
        with closing(sqlite3.connect(copy)) as file:
            self.assertEqual(file.execute("PRAGMA user_version").fetchone()[0], 5)

    def test_a_lock_of_another_program_is_told_within_two_seconds(self) -> None:
        self.made()
        with closing(sqlite3.connect(self.path, isolation_level=None)) as other:
            other.execute("BEGIN EXCLUSIVE")
            with self.assertRaisesRegex(LockedFile, "Something else is writing"):
                Store.open(self.path)

    @unittest.skipIf(os.name != "posix", "permissions are POSIX's")
    def test_a_folder_that_cannot_be_written_is_called_so(self) -> None:
        self.made()
        child = os.fork()
        if child == 0:  # as nobody: root may write everywhere
            code = 9
            try:
                if os.getuid() == 0:
                    os.chown(self.folder, 65534, 65534)
                    os.chown(self.path, 65534, 65534)
                    self.folder.parent.chmod(0o755)
                    os.setuid(65534)
                self.path.chmod(0o400)
                self.folder.chmod(0o500)
                Store.open(self.path)
            except ReadOnlyFile:
                code = 0
            except BaseException as error:
                print(repr(error))
            finally:
                os._exit(code)
        self.assertEqual(os.waitpid(child, 0)[1], 0)
        self.folder.chmod(0o700)

    def test_a_copy_laid_in_the_place_of_a_file_that_was_killed_is_noticed(self) -> None:
        store = Store.open(self.path)
        store.mark()
        copy = self.folder / "copy.sqlite"
        store.backup(copy)
        anchor = store._anchor
        assert anchor
        anchor.execute(
            "INSERT INTO sharpening VALUES ('S1', 'Ines', '', '2026-07-14T09:00:00.000Z')"
        )
        anchor.commit()
        # as a kill leaves it: the log of changes is there, with what was answered
        log = self.path.with_name("lepidos.sqlite-wal").read_bytes()
        old = self.path.read_bytes()
        store.close()
        self.path.with_name("lepidos.sqlite-wal").write_bytes(log)
        self.path.write_bytes(copy.read_bytes())
        self.refused(StaleLog, "was exchanged")
        self.path.write_bytes(old)
        again = Store.open(self.path)
        self.addCleanup(again.close)
        with again.reading():
            found = again._database.execute_sql("SELECT COUNT(*) FROM sharpening").fetchone()
        self.assertEqual(found, (1,))


class RunningTest(AppTest):
    def test_a_file_that_is_moved_or_exchanged_takes_nothing_more(self) -> None:
        trip = self.start_trip()
        path = self.ctx.store.path
        away = path.with_name("away.sqlite")
        path.rename(away)
        with self.assertRaisesRegex(GoneFile, "moved, deleted or exchanged"):
            self.land(trip)
        path.write_bytes(away.read_bytes())
        with self.assertRaises(GoneFile):
            self.land(trip)
        path.unlink()
        away.rename(path)
        self.assertEqual(self.land(trip).subject_kind, "fish")

    def test_a_full_disk_is_called_so_and_leaves_nothing_half_saved(self) -> None:
        trip = self.start_trip()
        with self.ctx.store.reading():
            pages = self.ctx.store._database.execute_sql("PRAGMA page_count").fetchone()[0]
            self.ctx.store._database.execute_sql(f"PRAGMA max_page_count = {pages}")
        done, problem = 0, ""
        for _ in range(400):  # until the pages that are there are used up
            try:
                self.land(trip)
                done += 1
            except FullDisk as error:
                problem = str(error)
                break
        self.assertIn("The disk is full", problem)
        with self.ctx.store.reading():
            execute = self.ctx.store._database.execute_sql
            counted = [
                execute(f"SELECT COUNT(*) FROM {table}").fetchone()[0]
                for table in ("fish", "fish_now")
            ]
            execute("PRAGMA max_page_count = 1000000")
        self.assertEqual(counted, [done, done])
        self.land(trip)

    def test_a_writer_that_waits_is_told_and_readers_go_on(self) -> None:
        trip = self.start_trip()
        with closing(sqlite3.connect(self.ctx.store.path, isolation_level=None)) as other:
            other.execute("BEGIN IMMEDIATE")
            with self.assertRaisesRegex(LockedFile, "Nothing of this was saved"):
                self.land(trip)
            with self.ctx.store.reading():
                pass
        self.land(trip)


class NamesTest(unittest.TestCase):
    def test_an_error_that_is_not_the_files_stays_ours(self) -> None:
        with closing(sqlite3.connect(":memory:")) as file:
            try:
                file.execute("SELECT nothing")
            except sqlite3.Error as error:
                self.assertIsNone(told_by(Path("x"), error))

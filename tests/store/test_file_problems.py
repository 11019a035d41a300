"""What lies where the data file should be: told before anything is written, and left as it was."""

import os
import sqlite3
import tempfile
import threading
import time
import unittest
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from pathlib import Path
from unittest.mock import patch

from lepidos.store.file import data_file, migrate
from lepidos.store.file.database import BUSY_SECONDS, Store
from lepidos.store.file.file_problems import (
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
    StrayLog,
    told_by,
)
from tests.app import AppTest

LOCKED_AT_MAX_S = 2.0


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
        after.pop("lepidos.sqlite-shm", None)  # SQLite's own, made again whenever it is missing
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

    def test_a_mark_that_a_power_cut_left_empty_or_torn_is_no_reason_not_to_start(self) -> None:
        store = Store.open(self.path)
        store.mark()
        beside = self.path.with_name("lepidos.sqlite-mark")
        whole = beside.read_bytes()
        log = self.with_an_entry(store)
        for torn in (b"", whole[:7], b"\0" * len(whole), b"\xff\xfe", None):
            with self.subTest(mark=torn):
                self.path.with_name("lepidos.sqlite-wal").write_bytes(log)
                beside.unlink(missing_ok=True)
                if torn is not None:
                    beside.write_bytes(torn)
                again = Store.open(self.path)
                again.mark()
                self.assertEqual(self.sharpenings(again), 1)
                again.close()
                self.assertRegex(beside.read_text(), "^[0-9a-f]{16}$")

    def with_an_entry(self, store: Store) -> bytes:
        """The log of a store that was killed after an entry, which is in neither file then."""
        anchor = store._anchor
        assert anchor
        anchor.execute(
            "INSERT INTO sharpening VALUES ('S1', 'Ines', '', '2026-07-14T09:00:00.000Z')"
        )
        anchor.commit()
        log, old = self.path.with_name("lepidos.sqlite-wal").read_bytes(), self.path.read_bytes()
        store.close()
        self.path.write_bytes(old)
        return log

    def sharpenings(self, store: Store) -> int:
        with store.reading():
            return int(store._database.execute_sql("SELECT COUNT(*) FROM sharpening").fetchone()[0])

    def test_a_log_that_would_spoil_a_sound_file_is_not_opened_with_it(self) -> None:
        store = Store.open(self.path)
        log = self.with_an_entry(store)
        with closing(sqlite3.connect(self.path)) as other:  # the same pages are other tables here
            other.execute("DROP TABLE sharpening")
            other.execute("PRAGMA journal_mode = DELETE")
            other.execute("VACUUM")
        self.path.with_name("lepidos.sqlite-wal").write_bytes(log)
        problem = self.refused(StrayLog, "do not fit together")
        self.assertRegex(problem.do, "^Copy the folder .* first")
        self.path.with_name("lepidos.sqlite-wal").unlink()
        Store.open(self.path).close()


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

    def test_a_copy_laid_over_the_file_takes_nothing_more(self) -> None:
        trip = self.start_trip()
        self.ctx.store.mark()
        path, copy = self.ctx.store.path, self.folder / "copy.sqlite"
        self.ctx.store.backup(copy)
        alone = path.read_bytes()  # as somebody copies it without its log
        self.land(trip)
        self.fold()
        now = path.read_bytes()
        laid: dict[str, bytes] = {
            "a copy": copy.read_bytes(),
            "an earlier moment of the same start": alone,
            "nothing": b"",
            "something else": b"a shopping list" * 9999,
            "half of it": now[: len(now) // 2],
        }
        for what, data in laid.items():
            with self.subTest(what=what):
                path.write_bytes(data)  # the number of the file on the disk stays
                for _ in range(3):
                    with self.assertRaisesRegex(GoneFile, "Nothing more is saved"):
                        self.land(trip)
                with self.assertRaises(GoneFile), self.ctx.store.reading():
                    self.fail("a file that is another one is read")
                path.write_bytes(now)
                self.assertEqual(self.land(trip).subject_kind, "fish")
                self.fold()
                now = path.read_bytes()

    def fold(self) -> None:
        """The log is folded into the file by a write that finds it long."""
        with patch("lepidos.store.file.database.FOLD_PAGES", 1), self.ctx.store.writing():
            pass
        self.assertEqual(self.ctx.store._file.frames(), 0)

    def test_a_log_that_is_exchanged_takes_nothing_more(self) -> None:
        trip = self.start_trip()
        self.ctx.store.mark()
        self.land(trip)
        log = self.ctx.store.path.with_name("lepidos.sqlite-wal")
        now = log.read_bytes()
        laid = {"nothing": b"", "another log": now[:16] + b"other salts"[:8] + now[24:]}
        for what, data in laid.items():
            with self.subTest(what=what):
                log.write_bytes(data)
                with self.assertRaises(GoneFile):
                    self.land(trip)
                log.write_bytes(now)
                self.land(trip)
                now = log.read_bytes()
        away = log.with_name("away")
        log.rename(away)
        with self.assertRaises(GoneFile):
            self.land(trip)
        away.rename(log)
        self.land(trip)

    def test_folding_the_log_amid_readers_and_copies_is_no_exchange(self) -> None:
        trip = self.start_trip()
        store = self.ctx.store
        store.mark()
        began = store._file.next_mark()
        ended, wrong = threading.Event(), []

        def read() -> None:
            try:
                while not ended.is_set():
                    with store.reading():
                        time.sleep(0.001)
                    store.backup(self.folder / f"copy-{time.monotonic_ns()}.sqlite")
            except BaseException as error:
                wrong.append(error)

        readers = [threading.Thread(target=read) for _ in range(2)]
        for reader in readers:
            reader.start()
        with patch("lepidos.store.file.database.FOLD_PAGES", 20):
            for _ in range(60):
                self.land(trip)
        ended.set()
        for reader in readers:
            reader.join()
        self.assertEqual(wrong, [])
        now = store._file.next_mark()
        assert began
        assert now
        self.assertGreater(now.folds - began.folds, 10)
        with closing(sqlite3.connect(store.path)) as other:  # another program folds it
            other.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        self.land(trip)

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

    def test_of_many_writers_one_waits_for_a_lock_and_the_others_are_told_at_once(self) -> None:
        trip = self.start_trip()
        store, took = self.ctx.store, []

        def write() -> None:
            began = time.monotonic()
            with self.assertRaises(LockedFile), store.writing():
                self.fail("the lock is another's")
            took.append(time.monotonic() - began)

        with closing(sqlite3.connect(store.path, isolation_level=None)) as other:
            other.execute("BEGIN IMMEDIATE")
            with ThreadPoolExecutor(3) as three:  # as many as the app works on at once
                for _ in range(45):
                    three.submit(write)
        self.assertEqual(len(took), 45)
        self.assertLessEqual(sum(t > 0.9 * BUSY_SECONDS for t in took), 3)
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

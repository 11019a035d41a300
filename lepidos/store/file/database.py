"""One SQLite file: opening it, bringing it up to date, and transactions on it."""

import secrets
import sqlite3
from collections.abc import Iterator
from contextlib import ExitStack, closing, contextmanager, suppress
from datetime import UTC, datetime
from pathlib import Path

from peewee import PeeweeException
from playhouse.pool import PooledSqliteDatabase

from lepidos.store.file import backups, data_file, durable, file_mark, migrate
from lepidos.store.file.file_problems import DamagedFile, LockedFile, told_by
from lepidos.store.file.open_file import OpenFile
from lepidos.store.file.snapshot import snapshot
from lepidos.store.file.turns import Stuck, Turns
from lepidos.store.schema import TABLES
from lepidos.store.schema.base import Row

BUSY_SECONDS = 1.8  # whoever waits to write is told within two seconds that it cannot be
STUCK_SECONDS = 0.3  # a lock held for longer is not our own copy's or another command's (practice)
FOLD_PAGES = 1000  # in the log of changes before it is folded into the file: SQLite's own default
# synchronous = FULL: a commit that was answered is on the disk, also when the power goes.
PRAGMAS = {
    "journal_mode": "wal",
    "foreign_keys": 1,
    "synchronous": 2,
    "cache_size": -16_000,
    "busy_timeout": round(BUSY_SECONDS * 1000),
    "wal_autocheckpoint": 0,  # the log is folded by `Store.writing`, which knows when
}


class Store:
    """The open data file. One at a time in a process, since peewee's models are bound to it."""

    def __init__(self, path: Path) -> None:
        self.path = path
        # connections are kept: opening one and telling it its pragmas costs as much as a query
        self._database = PooledSqliteDatabase(
            str(path), pragmas=PRAGMAS, max_connections=None, check_same_thread=False,
        )  # fmt: skip
        self._anchor: sqlite3.Connection | None = None
        self._file = OpenFile(path)
        self._turns = Turns(BUSY_SECONDS, STUCK_SECONDS)

    @classmethod
    def open(cls, path: Path, make: bool = True) -> "Store":
        """Open the file at `path` and migrate it forward; `make` one where there never was any.

        Raises FileProblem: what is wrong with the file; it is left as it was.
        """
        data_file.look(path, make)
        data_file.describe(path)
        store = cls(path)
        try:
            # Held open for as long as the app runs: when the last connection closes, SQLite
            # folds the write-ahead log back, which would cost every request a full sync.
            store._anchor = sqlite3.connect(path, check_same_thread=False, timeout=BUSY_SECONDS)
            store._anchor.execute("PRAGMA journal_mode = WAL")
            store._anchor.execute("PRAGMA synchronous = FULL")
            store._anchor.execute("PRAGMA wal_autocheckpoint = 0")
            store._anchor.execute("BEGIN IMMEDIATE")  # a file that cannot be written is told now
            store._anchor.execute("ROLLBACK")
            _copy_before_migration(store._anchor, path)
            migrate.up(store._anchor)
            store._file.opened()
        except sqlite3.Error as error:
            store.close()
            raise told_by(path, error) or DamagedFile(path, str(error)) from error
        except BaseException:
            store.close()
            raise
        store._database.bind(TABLES, bind_refs=False, bind_backrefs=False)
        return store

    def close(self) -> None:
        """Fold the log back and let go of the file."""
        self._database.close_all()
        if self._anchor is not None:
            self._anchor.close()
            self._anchor = None
        self._file.close()

    @contextmanager
    def reading(self) -> Iterator[None]:
        """One consistent view of the file, on this thread; the same question is asked once."""
        self._file.check()
        with self._told(), self._database.connection_context(), self._database.atomic(), snapshot():
            yield

    @contextmanager
    def writing(self) -> Iterator[None]:
        """One transaction that holds the write lock from its start; all of it or nothing.

        Opened IMMEDIATE, since two that read first and write later would deadlock.
        Raises: LockedFile when others have written for `BUSY_SECONDS` without an end; another
        FileProblem when the file cannot be written.
        """
        try:
            with self._turns.mine():
                self._file.check()
                with self._told(), ExitStack() as stack:
                    stack.enter_context(self._database.connection_context())
                    with self._turns.asking():
                        stack.enter_context(self._database.atomic("IMMEDIATE"))
                    self._file.check_log()
                    fold = self._mark_before_fold()
                    yield
                self._file.check()  # what was written to a file that was exchanged is not answered
                if fold and self._anchor:
                    with suppress(sqlite3.Error):  # it is written; the next write folds
                        self._file.fold(self._anchor)
        except Stuck as error:
            raise LockedFile(self.path) from error

    def _mark_before_fold(self) -> bool:
        """Whether the log is to be folded after this transaction; the file is marked for it."""
        if self._file.frames() < FOLD_PAGES:
            return False
        if mark := self._file.next_mark():
            self._database.execute_sql("UPDATE file_mark SET mark = ?", (str(mark),))
        return True

    @contextmanager
    def _told(self) -> Iterator[None]:
        """An error of SQLite as what it says of the file."""
        try:
            yield
        except (PeeweeException, sqlite3.Error) as error:
            if problem := told_by(self.path, error):
                raise problem from error
            raise

    def mark(self) -> None:
        """Mark the file as written by this start, so that an exchanged file is noticed.

        Raises FileProblem when there is no room for a mark; the file can be used without one.
        """
        if self._anchor is None:
            return
        try:
            if mark := file_mark.renew(self._anchor, self.path):
                self._file.marked(mark, file_mark.FilePlace.of(self._anchor))
        except (sqlite3.Error, OSError) as error:
            raise told_by(self.path, error) or error from error

    def schema_version(self) -> int:
        """The number of the last migration the file has."""
        with self.reading():
            return int(self._database.execute_sql("PRAGMA user_version").fetchone()[0])

    def newest_id(self) -> str:
        """The newest key of any row, "" in an empty file."""
        with self.reading():
            keys = [
                self._database.execute_sql(f"SELECT max(id) FROM {table}").fetchone()[0]  # noqa: S608
                for table in (m._meta.table_name for m in TABLES if issubclass(m, Row))
            ]
        return max((str(key) for key in keys if key), default="")

    def last_entry(self) -> str:
        """What was done last, see `last_entry` of this module."""
        if self._anchor is None:
            return ""
        return last_entry(self._anchor)

    def check(self) -> str:
        """SQLite's quick check; "ok" when the file is sound."""
        with self.reading():
            return str(self._database.execute_sql("PRAGMA quick_check(1)").fetchone()[0])

    def backup(self, target: Path) -> None:
        """A consistent copy of the file as it is now, while others go on writing.

        It is read back and checked before it has its name.
        Raises: FileExistsError: a backup never overwrites; FileProblem: of the file, or of the
        place of the copy.
        """
        self._file.check()
        copy_file(self.path, target)


def _copy_before_migration(file: sqlite3.Connection, path: Path) -> None:
    version = int(file.execute("PRAGMA user_version").fetchone()[0])
    if 0 < version < migrate.steps()[-1][0]:
        name = backups.name_of(datetime.now(UTC), "migration")
        if not (target := path.parent / data_file.BACKUPS / name).exists():
            copy_file(path, target)


def copy_file(path: Path, target: Path) -> None:
    """As `Store.backup`, of a file that need not be open."""
    if target.exists():
        raise FileExistsError(f"{target} is there already; a backup never overwrites")
    durable.make_folder(target.parent)
    partial = target.with_name(target.name + ".part")
    durable.make_private(partial)
    try:
        with closing(sqlite3.connect(path, timeout=BUSY_SECONDS)) as source:
            _copy(source, path, partial)
        durable.move(partial, target)
    finally:
        partial.unlink(missing_ok=True)


def last_entry(file: sqlite3.Connection) -> str:
    """What was done last, by its number and key; every write has an entry."""
    if not file.execute("SELECT 1 FROM sqlite_master WHERE name = 'entry'").fetchone():
        return ""
    found = file.execute("SELECT rowid, key FROM entry ORDER BY rowid DESC LIMIT 1").fetchone()
    return f"{found[0]}:{found[1]}" if found else ""


def has_all(path: Path, last: str) -> bool:
    """Whether a copy was made after what was done last, see `last_entry`."""
    try:
        return file_mark.alone(path).endswith(f" {last}")
    except sqlite3.Error:
        return False


def _copy(source: sqlite3.Connection, path: Path, partial: Path) -> None:
    try:
        with closing(sqlite3.connect(partial)) as copy:
            source.backup(copy)
            copy.execute("PRAGMA journal_mode = DELETE")
            with copy:
                # laid in the file's place, it is not taken for the file that was there
                file_mark.put(copy, f"copy {secrets.token_hex(8)} {last_entry(copy)}")
            found = copy.execute("PRAGMA integrity_check").fetchone()[0]
    except sqlite3.Error as error:
        source.rollback()
        # SQLite says of either file that it is damaged; the copy is new, the source is not
        about = path if getattr(error, "sqlite_errorname", "") == "SQLITE_CORRUPT" else partial
        raise told_by(about, error) or DamagedFile(path, str(error)) from error
    if found != "ok":
        raise DamagedFile(path, found)

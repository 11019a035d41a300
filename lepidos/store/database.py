"""One SQLite file: opening it, bringing it up to date, and transactions on it."""

import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from peewee import OperationalError
from playhouse.pool import PooledSqliteDatabase

from lepidos.core.errors import LepidosError
from lepidos.store import migrate
from lepidos.store.snapshot import snapshot
from lepidos.store.tables import TABLES
from lepidos.store.tables.base import Row

# synchronous = FULL: a commit that was answered is on the disk, also when the power goes.
PRAGMAS = {
    "journal_mode": "wal",
    "foreign_keys": 1,
    "synchronous": 2,
    "cache_size": -16_000,
}
BUSY_SECONDS = 10


class Store:
    """The open data file. One at a time in a process, since peewee's models are bound to it."""

    def __init__(self, path: Path) -> None:
        self.path = path
        # connections are kept: opening one and telling it its pragmas costs as much as a query
        self._database = PooledSqliteDatabase(
            str(path), pragmas=PRAGMAS, timeout=BUSY_SECONDS, max_connections=None,
            check_same_thread=False,
        )  # fmt: skip
        self._anchor: sqlite3.Connection | None = None
        # writers of this process wait in line: SQLite's own waiting looks again ever more seldom
        self._turn = threading.RLock()

    @classmethod
    def open(cls, path: Path) -> "Store":
        """Open or create the file at `path` and migrate it forward.

        Raises: migrate.NewerFile when a later Lepidos wrote it; DamagedFile when it is no
        data file or SQLite finds it damaged.
        """
        path.parent.mkdir(parents=True, exist_ok=True)
        store = cls(path)
        try:
            # Held open for as long as the app runs: when the last connection closes, SQLite
            # folds the write-ahead log back, which would cost every request a full sync.
            store._anchor = sqlite3.connect(path, check_same_thread=False, timeout=BUSY_SECONDS)
            store._anchor.execute("PRAGMA journal_mode = WAL")
            store._anchor.execute("PRAGMA synchronous = FULL")
            migrate.up(store._anchor)
        except sqlite3.DatabaseError as error:
            store.close()
            raise DamagedFile(path, str(error)) from error
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

    @contextmanager
    def reading(self) -> Iterator[None]:
        """One consistent view of the file, on this thread; the same question is asked once."""
        with self._database.connection_context(), self._database.atomic(), snapshot():
            yield

    @contextmanager
    def writing(self) -> Iterator[None]:
        """One transaction that holds the write lock from its start; all of it or nothing.

        Opened IMMEDIATE, since two that read first and write later would deadlock.
        Raises: OperationalError when others have written for `BUSY_SECONDS` without an end.
        """
        if not self._turn.acquire(timeout=BUSY_SECONDS):
            raise OperationalError("database is locked")
        try:
            with self._database.connection_context(), self._database.atomic("IMMEDIATE"):
                yield
        finally:
            self._turn.release()

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

    def check(self) -> str:
        """SQLite's quick check; "ok" when the file is sound."""
        with self.reading():
            return str(self._database.execute_sql("PRAGMA quick_check(1)").fetchone()[0])

    def backup(self, target: Path) -> None:
        """A consistent copy of the file as it is now, while others go on writing.

        Raises: FileExistsError: a backup never overwrites.
        """
        if target.exists():
            raise FileExistsError(f"{target} is there already; a backup never overwrites")
        target.parent.mkdir(parents=True, exist_ok=True)
        partial = target.with_name(target.name + ".part")
        partial.unlink(missing_ok=True)
        source = sqlite3.connect(self.path, timeout=BUSY_SECONDS)
        copy = sqlite3.connect(partial)
        try:
            source.backup(copy)
            copy.execute("PRAGMA journal_mode = DELETE")
            found = copy.execute("PRAGMA integrity_check").fetchone()[0]
        finally:
            copy.close()
            source.close()
        if found != "ok":
            partial.unlink()
            raise DamagedFile(self.path, found)
        partial.rename(target)


class DamagedFile(LepidosError):
    """The data file cannot be read."""

    def __init__(self, path: Path, why: str) -> None:
        self.path, self.why = path, why
        super().__init__(f"{path} is not a data file that Lepidos can read: {why}")

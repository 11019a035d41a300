"""The mark of a start: in the data file itself, and in a small file beside it.

A copy that was laid in the file's place has another mark, and then the log of changes beside it
(`-wal`) is not its own. In the file a number follows the mark, which rises each time before the log
is folded into it: a copy of an earlier moment of the same start has a smaller one.
"""

import re
import secrets
import sqlite3
from contextlib import closing, suppress
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import quote

from lepidos.store.file import durable
from lepidos.store.file.file_problems import StaleLog, StrayLog

_RUN = re.compile(r"([0-9a-f]{16})(?: (\d+))?")


@dataclass(frozen=True, order=True)
class FileMark:
    """A start's own mark, and how often the log was folded since."""

    run: str
    folds: int

    @classmethod
    def read(cls, text: str) -> "FileMark | None":
        """A mark as it is written; None of a copy's, and of what is no mark.

        >>> FileMark.read("00ff00ff00ff00ff 7").folds
        7
        """
        found = _RUN.fullmatch(text.strip())
        return cls(found[1], int(found[2] or 0)) if found else None

    def __str__(self) -> str:
        return f"{self.run} {self.folds}"


@dataclass(frozen=True)
class FilePlace:
    """Where the mark stands in a data file: the first byte of its page, and the page's length."""

    at: int
    length: int

    @classmethod
    def of(cls, file: sqlite3.Connection) -> "FilePlace":
        """In an open file. Raises TypeError in one that has no room for a mark."""
        (length,) = file.execute("PRAGMA page_size").fetchone()
        query = "SELECT rootpage FROM sqlite_master WHERE name = 'file_mark'"
        (page,) = file.execute(query).fetchone()
        return cls((page - 1) * length, length)


def on_page(page: bytes) -> FileMark | None:
    """The mark on its page, whatever the rest of the file is like: a log is folded page by page.

    SQLite, "Database File Format", 1.6: a leaf of a table begins with 13, its first cell's place
    stands at byte 8.
    """
    if page[:1] != b"\x0d":
        return None
    cell = page[int.from_bytes(page[8:10], "big") :][:64]
    found = re.search(rb"[0-9a-f]{16} \d+", cell)
    return FileMark.read(found[0].decode()) if found else None


def beside(path: Path) -> Path:
    """The small file beside a data file."""
    return path.with_name(f"{path.name}-mark")


def in_file(file: sqlite3.Connection) -> str:
    """The mark in an open file; "" in one that has none yet."""
    if not file.execute("SELECT 1 FROM sqlite_master WHERE name = 'file_mark'").fetchone():
        return ""
    found = file.execute("SELECT mark FROM file_mark").fetchone()
    return str(found[0]) if found else ""


def put(file: sqlite3.Connection, text: str) -> None:
    """Write a mark into a file that has room for one, in a transaction of the caller's."""
    if file.execute("SELECT 1 FROM sqlite_master WHERE name = 'file_mark'").fetchone():
        file.execute("DELETE FROM file_mark")
        file.execute("INSERT INTO file_mark VALUES (?)", (text,))


def alone(path: Path) -> str:
    """The mark of a file as if there were no log beside it. Raises sqlite3.Error."""
    address = f"file:{quote(str(path.absolute()))}?immutable=1"
    with closing(sqlite3.connect(address, uri=True)) as file:
        return in_file(file)


def renew(file: sqlite3.Connection, path: Path) -> FileMark | None:
    """Mark a file as written by a new start; None when others keep its log from being folded.

    There is a mark beside a file only while the file alone has the same one. Raises OSError and
    sqlite3.Error, a full disk among them; then there is none beside it.
    """
    durable.remove(beside(path))
    fresh = FileMark(secrets.token_hex(8), 0)
    with file:
        put(file, str(fresh))
    busy, pages, folded = file.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()
    if busy or pages != folded:
        return None
    durable.write(beside(path), fresh.run.encode())
    return fresh


def check_log(path: Path) -> None:
    """Raise when the log beside a file is of another file, and opening both would spoil them.

    Raises:
        StaleLog: the file has another mark than the one beside it.
        StrayLog: there is no mark to go by, and the file is sound only without the log.
    """
    log = path.with_name(f"{path.name}-wal")
    if not log.exists() or log.stat().st_size == 0:
        return
    noted = _noted(path)
    try:
        found = FileMark.read(alone(path))
    except sqlite3.Error:
        return  # a log that was being folded back when the power went may leave it so
    if noted and found and noted.run == found.run:
        return
    if noted:
        raise StaleLog(path)
    if _unsound(path, "mode=ro") and not _unsound(path, "immutable=1"):
        raise StrayLog(path)


def _noted(path: Path) -> FileMark | None:
    """What stands beside a file. An empty or a torn mark says nothing."""
    with suppress(OSError, UnicodeDecodeError):
        return FileMark.read(beside(path).read_text("ascii"))
    return None


def _unsound(path: Path, how: str) -> bool:
    """Whether SQLite finds fault with a file, read with its log or (immutable) without it.

    Opened for reading only: nothing is folded when it is closed.
    """
    try:
        address = f"file:{quote(str(path.absolute()))}?{how}"
        with closing(sqlite3.connect(address, uri=True)) as file:
            return bool(file.execute("PRAGMA integrity_check(1)").fetchone()[0] != "ok")
    except sqlite3.Error:
        return True

"""Whether the data file that is open is still the one at its path, and its log still its own.

A copy laid over it (`cp copy lepidos.sqlite`) keeps the file's number on the disk, and SQLite goes
on writing as if nothing had happened: what is entered then is answered, and gone at the next start.
"""

import os
import sqlite3
import sys
import threading
from contextlib import suppress
from pathlib import Path
from typing import NamedTuple

from lepidos.store.file import file_mark
from lepidos.store.file.file_mark import FileMark, FilePlace
from lepidos.store.file.file_problems import GoneFile

# SQLite, "WAL-mode File Format": the index of the log says how many frames it has, under which
# salts, and how many of them were folded into the file
_INDEX_BYTES, _FRAMES, _SALTS, _FOLDED = 100, slice(16, 20), slice(32, 40), slice(96, 100)
_LOG_BYTES, _LOG_SALTS = 32, slice(16, 24)


class _Stat(NamedTuple):
    disk: int
    number: int
    size: int
    written_ns: int


class OpenFile:
    """The data file at `path`, looked at before each read and write of it."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._seen = _Stat(0, 0, 0, 0)
        self._mark: FileMark | None = None
        self._place = FilePlace(0, 0)
        self._itself = self._log = self._index = -1
        self._lock = threading.Lock()

    def opened(self) -> None:
        """SQLite has opened the file and its log. Ours stay open until `close`."""
        self._seen = _stat(self._path)
        # closed before SQLite has let go of them, its locks would go with ours (POSIX)
        self._itself = os.open(self._path, os.O_RDONLY)
        self._log = os.open(self._beside("-wal"), os.O_RDONLY)
        self._index = os.open(self._beside("-shm"), os.O_RDONLY)

    def marked(self, mark: FileMark, place: FilePlace) -> None:
        """From here on the file has this mark, and only SQLite writes to it."""
        self._mark, self._place, self._seen = mark, place, _stat(self._path)

    def close(self) -> None:
        """After SQLite has closed the file."""
        for handle in (self._itself, self._log, self._index):
            if handle >= 0:
                os.close(handle)
        self._itself = self._log = self._index = -1

    def check(self) -> None:
        """Raise GoneFile when something else is at the path. A few microseconds."""
        if (now := _stat(self._path)) != self._seen:
            self._look(now)

    def check_log(self) -> None:
        """Raise GoneFile when the log was exchanged; inside a transaction that writes."""
        with suppress(OSError):
            there, ours = os.stat(self._beside("-wal")), os.fstat(self._log)
            if (there.st_dev, there.st_ino) == (ours.st_dev, ours.st_ino) and self._salts_fit():
                return
        raise GoneFile(self._path)

    def frames(self) -> int:
        """Pages in the log that are not folded into the file yet."""
        index = os.pread(self._index, _INDEX_BYTES, 0)
        frames, folded = (int.from_bytes(index[at], sys.byteorder) for at in (_FRAMES, _FOLDED))
        return max(0, frames - folded)

    def next_mark(self) -> FileMark | None:
        """What to write into the file before its log is folded; None in one without a mark."""
        return FileMark(self._mark.run, self._mark.folds + 1) if self._mark else None

    def fold(self, file: sqlite3.Connection) -> None:
        """Fold the log into the file, as far as nobody reads it, and see how the file is then."""
        with self._lock:
            file.execute("PRAGMA wal_checkpoint(PASSIVE)").fetchone()
            self._accept()

    def _look(self, now: _Stat) -> None:
        # while the log is folded the file changes under whoever reads it
        with self._lock:
            if now[:2] != self._seen[:2]:
                raise GoneFile(self._path)
            self._accept()

    def _accept(self) -> None:
        seen = _stat(self._path)
        if self._mark is None:
            self._seen = seen
            return
        page = os.pread(self._itself, self._place.length, self._place.at)
        found = file_mark.on_page(page)
        if found is None or found.run != self._mark.run or found < self._mark:
            raise GoneFile(self._path)
        self._mark, self._seen = found, seen

    def _salts_fit(self) -> bool:
        index = os.pread(self._index, _INDEX_BYTES, 0)
        if index[_FRAMES] == bytes(4):
            return True  # the next write begins the log
        return index[_SALTS] == os.pread(self._log, _LOG_BYTES, 0)[_LOG_SALTS]

    def _beside(self, tail: str) -> Path:
        return self._path.with_name(f"{self._path.name}{tail}")


def _stat(path: Path) -> _Stat:
    try:
        found = path.stat()
    except OSError as error:
        raise GoneFile(path) from error
    return _Stat(found.st_dev, found.st_ino, found.st_size, found.st_mtime_ns)

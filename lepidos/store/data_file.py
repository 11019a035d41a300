"""What lies where the data file should be: looked at before anything is written or created."""

import os
import secrets
import sqlite3
from contextlib import closing
from pathlib import Path
from urllib.parse import quote

from lepidos.store import migrate
from lepidos.store.file_problems import (
    DamagedFile,
    EmptyFile,
    ForeignFile,
    MissingFile,
    NoFile,
    StaleLog,
    UnreadableFile,
    told_by,
)

APPLICATION_ID = 0x4C706473  # "Lpds", as migration 0017 writes it
BACKUPS = "backups"
ABOUT = "about-this-folder.txt"
_HEADER = b"SQLite format 3\0"
_ABOUT_TEXT = """Lepidos keeps its log in this folder.

lepidos.sqlite       the log itself; lepidos.sqlite-wal and -shm belong to it while the app runs
lepidos.sqlite-mark  which start of the app wrote it last
backups              copies that Lepidos makes by itself; `lepidos restore FILE` goes back to one
set-aside            what a restore found in the place of the file
logs                 readings of freezers' loggers, if any

As long as this text is here and lepidos.sqlite is not, Lepidos says that the file is gone.
"""


def look(path: Path, make: bool) -> None:
    """Make sure that a data file of ours is at `path`; `make` one where there never was any.

    Raises FileProblem: what is there instead, and nothing was changed.
    """
    try:
        there = path.exists()
        if not there and _had_one(path):
            raise MissingFile(path, newest_backup(path))
        if not there and not make:
            raise NoFile(path)
        if there:
            _look_inside(path)
        else:
            _create(path)
    except PermissionError as error:
        raise UnreadableFile(path, error.strerror or str(error)) from error
    except (FileExistsError, NotADirectoryError) as error:
        raise UnreadableFile(path, f"{error.filename} is not a folder") from error


def newest_backup(path: Path) -> Path | None:
    """The newest copy beside a data file."""
    found = sorted((path.parent / BACKUPS).glob("*.sqlite"), key=lambda p: p.stat().st_mtime)
    return found[-1] if found else None


def _had_one(path: Path) -> bool:
    beside = (path.parent / ABOUT, path.with_name(f"{path.name}-wal"))
    return any(p.exists() for p in beside) or newest_backup(path) is not None


def _create(path: Path) -> None:
    """Make it under another name first: a file that is there under its own name is whole."""
    make_folder(path.parent)
    new = path.with_name(f"{path.name}.new")
    make_private(new)
    try:
        with closing(sqlite3.connect(new)) as file:
            file.execute("PRAGMA journal_mode = OFF")
            file.execute("PRAGMA synchronous = OFF")
            migrate.up(file)
        sync(new)
        describe(path)
        new.rename(path)
    except sqlite3.Error as error:
        raise told_by(path, error) or error from error
    finally:
        new.unlink(missing_ok=True)


def make_folder(folder: Path) -> None:
    """Make a folder that only this user may look into, unless there is one."""
    if not folder.exists():
        folder.mkdir(parents=True, mode=0o700)  # names of guests are nobody else's business


def make_private(path: Path) -> None:
    """An empty file that only this user may read, in the place of any other."""
    path.unlink(missing_ok=True)
    os.close(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600))


def describe(path: Path) -> None:
    """Leave word in the folder of what is what, also for us: here was a data file."""
    about = path.parent / ABOUT
    if not about.exists():
        about.write_text(_ABOUT_TEXT, "utf-8")


def sync(path: Path) -> None:
    """Wait until a file that was closed is on the disk."""
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _look_inside(path: Path) -> None:
    if not path.is_file():
        raise ForeignFile(path, "it is not a file")
    if path.stat().st_size == 0:
        raise EmptyFile(path)
    with path.open("rb") as raw:
        head = raw.read(100)
    if not head.startswith(_HEADER):
        raise ForeignFile(path, "it is no SQLite file, or its beginning is damaged")
    if int.from_bytes(head[68:72], "big") not in (0, APPLICATION_ID):
        raise ForeignFile(path, "another program made it")
    _check_log(path)
    try:
        with closing(sqlite3.connect(path, timeout=2)) as file:
            mine = file.execute("PRAGMA application_id").fetchone()[0] == APPLICATION_ID
            names = {row[0] for row in file.execute("SELECT name FROM sqlite_master")}
            newer = file.execute("PRAGMA user_version").fetchone()[0]
    except sqlite3.Error as error:
        raise told_by(path, error) or DamagedFile(path, str(error)) from error
    # files of before migration 0017 have no number of ours yet
    if not mine and not {"trip", "migration"} <= names:
        raise ForeignFile(path, "another program made it")
    migrate.check_known(path, int(newer))


# The mark of a start stands in the file itself and in a small file beside it. A copy that was laid
# in the file's place has another mark, and then the log of changes beside it is not its own.


def mark_beside(path: Path) -> Path:
    """The small file."""
    return path.with_name(f"{path.name}-mark")


def _check_log(path: Path) -> None:
    log, beside = path.with_name(f"{path.name}-wal"), mark_beside(path)
    if not log.exists() or log.stat().st_size == 0 or not beside.exists():
        return
    try:
        # immutable: the file alone, as if there were no log
        address = f"file:{quote(str(path.absolute()))}?immutable=1"
        with closing(sqlite3.connect(address, uri=True)) as alone:
            found = alone.execute("SELECT mark FROM file_mark").fetchone()
    except sqlite3.Error:
        return  # a log that was being folded back when the power went may leave it so
    if found is not None and found[0] != beside.read_text("utf-8").strip():
        raise StaleLog(path)


def mark(file: sqlite3.Connection, path: Path) -> None:
    """Mark the file as written by a new start. Without room for the mark there is none."""
    beside = mark_beside(path)
    beside.unlink(missing_ok=True)
    fresh = secrets.token_hex(8)
    with file:
        set_mark(file, fresh)
    busy, pages, folded = file.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()
    if not busy and pages == folded:
        whole = beside.with_name(f"{beside.name}.new")
        whole.write_text(fresh, "utf-8")
        whole.rename(beside)


def set_mark(file: sqlite3.Connection, text: str) -> None:
    """Write a mark into a file that has room for one."""
    if file.execute("SELECT 1 FROM sqlite_master WHERE name = 'file_mark'").fetchone():
        file.execute("DELETE FROM file_mark")
        file.execute("INSERT INTO file_mark VALUES (?)", (text,))

"""What lies where the data file should be: looked at before anything is written or created."""

import sqlite3
from contextlib import closing, suppress
from pathlib import Path
from urllib.parse import quote

from lepidos.store.file import durable, file_mark, migrate
from lepidos.store.file.file_problems import (
    DamagedFile,
    EmptyFile,
    ForeignFile,
    MissingFile,
    NoFile,
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
    except OSError as error:
        raise told_by(path, error) or error from error


def newest_backup(path: Path) -> Path | None:
    """The newest copy beside a data file."""
    found = sorted((path.parent / BACKUPS).glob("*.sqlite"), key=lambda p: p.stat().st_mtime)
    return found[-1] if found else None


def _had_one(path: Path) -> bool:
    beside = (path.parent / ABOUT, path.with_name(f"{path.name}-wal"))
    return any(p.exists() for p in beside) or newest_backup(path) is not None


def _create(path: Path) -> None:
    """Make it under another name first: a file that is there under its own name is whole."""
    durable.make_folder(path.parent)
    new = path.with_name(f"{path.name}.new")
    durable.make_private(new)
    try:
        with closing(sqlite3.connect(new)) as file:
            file.execute("PRAGMA journal_mode = OFF")
            file.execute("PRAGMA synchronous = OFF")
            migrate.up(file)
        durable.move(new, path)
        describe(path)  # after it: a folder that says there was a file, and has none, stops a start
    except sqlite3.Error as error:
        raise told_by(path, error) or error from error
    finally:
        new.unlink(missing_ok=True)


def describe(path: Path) -> None:
    """Leave word in the folder of what is what, also for us: here was a data file."""
    about, text = path.parent / ABOUT, _ABOUT_TEXT.encode()
    with suppress(OSError):  # no room for it, say: the log itself matters more
        if not about.exists() or about.read_bytes() != text:
            durable.write(about, text)


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
    file_mark.check_log(path)
    try:
        # only for reading: who opens a damaged file loses the log beside it when it is closed
        log = path.with_name(f"{path.name}-wal")
        how = "ro" if log.exists() and log.stat().st_size else "rw"
        address = f"file:{quote(str(path.absolute()))}?mode={how}"
        with closing(sqlite3.connect(address, uri=True, timeout=2)) as file:
            mine = file.execute("PRAGMA application_id").fetchone()[0] == APPLICATION_ID
            names = {row[0] for row in file.execute("SELECT name FROM sqlite_master")}
            newer = file.execute("PRAGMA user_version").fetchone()[0]
    except sqlite3.Error as error:
        raise told_by(path, error) or DamagedFile(path, str(error)) from error
    # files of before migration 0017 have no number of ours yet
    if not mine and not {"trip", "migration"} <= names:
        raise ForeignFile(path, "another program made it")
    migrate.check_known(path, int(newer))

"""Going back to a copy: what was there is set aside whole, and nothing is lost half-way.

The app must not run meanwhile, see `running`.
"""

import shutil
import sqlite3
from contextlib import closing
from datetime import datetime
from pathlib import Path

from lepidos.core.errors import Refused
from lepidos.store import backups, data_file, migrate
from lepidos.store.database import copy_file
from lepidos.store.file_problems import DamagedFile, FileProblem, NoFile, told_by

SET_ASIDE = "set-aside"
_BELONG = ("", "-wal", "-shm", "-mark")  # what lies beside a data file and is nothing without it


def restore(path: Path, source: Path, now: datetime) -> Path | None:
    """Put a copy of the file `source` in the place of the data file `path`.

    Returns the folder where the file that was there is now, with all that belonged to it; None when
    there was none. A sound one is also kept as a copy. `source` is left as it is.
    Raises: NoFile, another FileProblem of `source`, Refused when it is the data file itself; then
    nothing was changed. Stopped half-way, the same command again finishes it.
    """
    if not source.exists():
        raise NoFile(source)
    if path.exists() and source.samefile(path):
        raise Refused({"": f"{source} is the data file itself"})
    data_file.make_folder(path.parent)
    fresh = path.with_name(f"{path.name}.restored")
    try:
        _bring(source, fresh)
        _keep_copy(path, now)
        aside = _set_aside(path, now)
        fresh.rename(path)
        data_file.describe(path)
        return aside
    finally:
        for tail in _BELONG:
            fresh.with_name(f"{fresh.name}{tail}").unlink(missing_ok=True)


def _bring(source: Path, fresh: Path) -> None:
    """A checked copy beside the data file, brought forward to today's schema."""
    for tail in _BELONG[:2]:
        if (part := source.with_name(f"{source.name}{tail}")).exists():
            data_file.make_private(beside := fresh.with_name(f"{fresh.name}{tail}"))
            shutil.copyfile(part, beside)
    try:
        data_file.look(fresh, make=False)
        with closing(sqlite3.connect(fresh)) as file:
            found = file.execute("PRAGMA integrity_check").fetchone()[0]
            if found != "ok":
                raise DamagedFile(source, str(found))
            file.execute("PRAGMA journal_mode = DELETE")
            migrate.up(file)
    except sqlite3.Error as error:
        raise told_by(source, error) or DamagedFile(source, str(error)) from error
    except FileProblem as problem:
        problem.what = problem.what.replace(str(fresh), str(source))
        raise
    data_file.sync(fresh)


def _keep_copy(path: Path, now: datetime) -> None:
    target = path.parent / data_file.BACKUPS / backups.name_of(now, "restore")
    if not path.exists() or target.exists():
        return
    try:
        copy_file(path, target)
    except FileProblem:
        return  # it may be what the restore is for; it is set aside as it is


def _set_aside(path: Path, now: datetime) -> Path | None:
    parts = [path.with_name(f"{path.name}{tail}") for tail in _BELONG]
    if not any(part.exists() for part in parts):
        return None
    folder = path.parent / SET_ASIDE / f"{now:%Y%m%dT%H%M%S}"
    while folder.exists():
        folder = folder.with_name(f"{folder.name}x")
    folder.mkdir(parents=True, mode=0o700)
    # the file goes first: without its log of changes it would open, and lack what was done last
    for part in parts:
        if part.exists():
            part.rename(folder / part.name)
    return folder

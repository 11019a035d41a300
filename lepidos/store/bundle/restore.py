"""Going back to a copy: what was there is set aside whole, and nothing is lost half-way.

The app must not run meanwhile, see `running`. A sound file stays under its name until the copy
takes it: whenever the power goes, the app starts on one or the other.
"""

import itertools
import os
import shutil
import sqlite3
from collections.abc import Callable
from contextlib import closing, suppress
from datetime import datetime
from pathlib import Path

from lepidos.core.errors import BadInput, Refused
from lepidos.store.bundle import strange
from lepidos.store.file import backups, data_file, durable, migrate
from lepidos.store.file.database import copy_file
from lepidos.store.file.file_problems import DamagedFile, FileProblem, NoFile, StrangeFile, told_by

SET_ASIDE = "set-aside"
Check = Callable[[sqlite3.Connection], None]
_BELONG = ("", "-wal", "-shm", "-mark")  # what lies beside a data file and is nothing without it


def restore(path: Path, source: Path, now: datetime, check: Check | None = None) -> Path | None:
    """Put a copy of the file `source` in the place of the data file `path`.

    `check`: given for a file of which nobody knows who wrote it. It raises BadInput for what no
    form of the app would have made, and rights and settings then stay those of the file at `path`.
    Returns the folder where the file that was there is now, with all that belonged to it; None when
    there was none. A sound one is also kept as a copy. `source` is left as it is.
    Raises: NoFile, another FileProblem of `source`, Refused when it is the data file itself; then
    nothing was changed. StrangeFile: what a check found.
    Stopped half-way, the same command again finishes it.
    """
    if not source.exists():
        raise NoFile(source)
    if path.exists() and source.samefile(path):
        raise Refused({"": f"{source} is the data file itself"})
    durable.make_folder(path.parent)
    fresh = path.with_name(f"{path.name}.restored")
    try:
        _bring(source, fresh, check, path)
        # one that is not is set aside as it is: it may be what the restore is for
        if whole := _is_whole(path):
            _keep_copy(path, now)
        aside = _set_aside(path, now, whole)
        durable.move(fresh, path)
        data_file.describe(path)
        return aside
    finally:
        for tail in _BELONG:
            fresh.with_name(f"{fresh.name}{tail}").unlink(missing_ok=True)


def _bring(source: Path, fresh: Path, check: Check | None, present: Path) -> None:
    """A checked copy beside the data file, brought forward to today's schema."""
    for tail in _BELONG[:2]:
        if (part := source.with_name(f"{source.name}{tail}")).exists():
            durable.make_private(beside := fresh.with_name(f"{fresh.name}{tail}"))
            shutil.copyfile(part, beside)
    try:
        data_file.look(fresh, make=False)
        with closing(sqlite3.connect(fresh)) as file:
            if check:
                strange.check_schema(file)
            found = file.execute("PRAGMA integrity_check").fetchone()[0]
            if found != "ok":
                raise DamagedFile(source, str(found))
            file.execute("PRAGMA journal_mode = DELETE")
            migrate.up(file)
            if check:
                strange.keep_own(file, present)
                strange.check_rows(file)
                check(file)
    except BadInput as error:
        raise StrangeFile(source, str(error)) from error
    except sqlite3.Error as error:
        raise told_by(source, error) or DamagedFile(source, str(error)) from error
    except FileProblem as problem:
        problem.what = problem.what.replace(str(fresh), str(source))
        raise


def is_own_copy(path: Path, source: Path) -> bool:
    """Whether a file is a copy that this data folder made by itself, or set aside."""
    folder, whole = path.resolve().parent, source.resolve()
    return whole.parent == folder / data_file.BACKUPS or folder / SET_ASIDE in whole.parents


def _keep_copy(path: Path, now: datetime) -> None:
    target = path.parent / data_file.BACKUPS / backups.name_of(now, "restore")
    if not target.exists():
        with suppress(FileProblem):  # it is sound, as far as a start looks; it is set aside, too
            copy_file(path, target)


def _set_aside(path: Path, now: datetime, whole: bool) -> Path | None:
    parts = [path.with_name(f"{path.name}{tail}") for tail in _BELONG]
    if not any(part.exists() for part in parts):
        return None
    first = folder = path.parent / SET_ASIDE / f"{now:%Y%m%dT%H%M%S}"
    for another in itertools.count(2):
        if not folder.exists():
            break
        folder = first.with_name(f"{first.name}-{another}")
    durable.make_folder(folder)
    # One that cannot stay goes first: without its log it would open, and lack what was done last.
    stays = whole and _link(path, folder / path.name)
    for part in parts[1:] if stays else parts:
        if part.exists():
            part.rename(folder / part.name)
            durable.sync(path.parent)
    durable.sync(folder)
    return folder


def _is_whole(path: Path) -> bool:
    """Whether a file is sound and needs no log beside it, since that was folded in."""
    try:
        data_file.look(path, make=False)
        with closing(sqlite3.connect(path)) as file:
            if file.execute("PRAGMA integrity_check(1)").fetchone()[0] != "ok":
                return False
    except (FileProblem, OSError, sqlite3.Error):
        return False
    log = path.with_name(f"{path.name}-wal")
    return not log.exists() or log.stat().st_size == 0


def _link(path: Path, other: Path) -> bool:
    """Give a file a second name; False where the disk has no such thing, a stick's for example."""
    try:
        os.link(path, other)
    except OSError:
        return False
    return True

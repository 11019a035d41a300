"""What can be wrong with the data file. Each says what it is, what that means, and what to do."""

import errno
import re
import shutil
from pathlib import Path

from lepidos.core.errors import LepidosError

INDEX_BYTES = 32_768  # SQLite, "WAL-mode File Format": the index grows by so much
RESTORE = "To go back to a copy, stop the app and run: lepidos restore FILE"


class FileProblem(LepidosError):
    """Something is wrong with the file at `path`. `what`, `means` and `do` are a sentence each."""

    def __init__(self, path: Path, what: str, means: str, do: str) -> None:
        self.path, self.what, self.means, self.do = path, what, means, do
        super().__init__(what, means, do)

    def __str__(self) -> str:
        return f"{self.what} {self.means} {self.do}"


class MissingFile(FileProblem):
    """There was a data file here once, or its folder holds copies of one."""

    def __init__(self, path: Path, newest: Path | None = None) -> None:
        named = RESTORE.replace("FILE", str(newest)) if newest else RESTORE
        super().__init__(
            path,
            f"The data file {path} is gone.",
            "Its folder says that there was one, so no new one was made.",
            f"Put it back where it was. {named}",
        )


class NoFile(FileProblem):
    """A command that reads was pointed at a folder that never held a data file."""

    def __init__(self, path: Path) -> None:
        super().__init__(
            path,
            f"There is no data file {path.name} in {path.parent}.",
            "Nothing was made there.",
            "Name the right folder with --data-dir; `lepidos settings` says which is used.",
        )


class EmptyFile(FileProblem):
    """A file of no bytes."""

    def __init__(self, path: Path) -> None:
        super().__init__(
            path,
            f"The data file {path} is empty: 0 bytes.",
            "Lepidos never leaves it so; something else emptied it, and it was left as it is.",
            RESTORE,
        )


class ForeignFile(FileProblem):
    """No SQLite file, or one of another program."""

    def __init__(self, path: Path, why: str) -> None:
        super().__init__(
            path,
            f"{path} is not a data file of Lepidos: {why}.",
            "Nothing was written to it.",
            f"Move it elsewhere, or name another folder with --data-dir. {RESTORE}",
        )


class DamagedFile(FileProblem):
    """SQLite finds the file damaged."""

    def __init__(self, path: Path, why: str) -> None:
        super().__init__(
            path,
            f"The data file {path} is damaged: {' '.join(why.split())[:200]}.",
            "Keep it: much of it can often still be read.",
            RESTORE,
        )


class StrangeFile(FileProblem):
    """A file to restore that holds data Lepidos never writes."""

    def __init__(self, path: Path, why: str) -> None:
        said = re.sub(r"data/(\w+)\.csv", r"table \1", why)
        super().__init__(
            path,
            f"{path} holds what Lepidos does not write: {said}.",
            "It may have been changed by somebody else. Nothing here was changed.",
            "Go back to a copy in the folder backups, or, where you know that nobody had this file "
            "in hand, add --as-it-is.",
        )


class NewerFile(FileProblem):
    """The file was written by a later Lepidos than this one."""

    def __init__(self, path: Path, found: int, known: int) -> None:
        super().__init__(
            path,
            f"A newer Lepidos wrote {path}: schema {found}.",
            f"This one knows up to schema {known} and left it as it is.",
            "Start the newer Lepidos.",
        )


class StaleLog(FileProblem):
    """The file was exchanged, and the log of changes beside it belongs to the old one."""

    def __init__(self, path: Path) -> None:
        super().__init__(
            path,
            f"{path.name} was exchanged, and {path.name}-wal beside it belongs to the old one.",
            "Opened together they would damage each other, so neither was opened.",
            f"Put the old {path.name} back beside its -wal, or name the file you want: {RESTORE} "
            "What is here now is set aside, not deleted.",
        )


class StrayLog(FileProblem):
    """Nothing says whose the log of changes beside the file is, and with it the file is damaged."""

    def __init__(self, path: Path) -> None:
        super().__init__(
            path,
            f"{path.name} and {path.name}-wal beside it do not fit together.",
            f"{path.name} alone is sound. What is in -wal would spoil it, so neither was opened.",
            f"Copy the folder {path.parent} first. Then put back the {path.name} that -wal belongs "
            "to, or move -wal away and start: the last entries are then missing.",
        )


class ReadOnlyFile(FileProblem):
    """Nothing can be written where the file is."""

    def __init__(self, path: Path) -> None:
        super().__init__(
            path,
            f"Lepidos may not write to {path}.",
            "The file, its folder or the disk is read-only for this user.",
            "Let this user write there, or name another folder with --data-dir.",
        )


class UnreadableFile(FileProblem):
    """The file is there and this user may not read it."""

    def __init__(self, path: Path, why: str) -> None:
        super().__init__(
            path,
            f"{path} cannot be opened: {why}.",
            "Nothing was changed.",
            "Let this user read and write there, or name another folder with --data-dir.",
        )


class LockedFile(FileProblem):
    """Another program holds the write lock."""

    def __init__(self, path: Path) -> None:
        super().__init__(
            path,
            "Something else is writing to the data file and does not end.",
            "Nothing of this was saved.",
            "Try again in a moment. If it stays so, see which other program has the file open.",
        )


class FullDisk(FileProblem):
    """No room for what was to be written."""

    def __init__(self, path: Path) -> None:
        super().__init__(
            path,
            f"The disk is full: there is no room left where {path.name} is.",
            "Nothing of this was saved; what was saved before is there.",
            "Make room on that disk, then send it again.",
        )


class GoneFile(FileProblem):
    """The file was moved, deleted or exchanged while the app was running."""

    def __init__(self, path: Path) -> None:
        super().__init__(
            path,
            f"{path.name} was moved, deleted or exchanged while the app was running.",
            "Nothing more is saved, since it would be lost.",
            f"Stop the app and put the file back where it was: {path}. {RESTORE}",
        )


# SQLite's own names of what went wrong, without what comes after the second underscore
_BY_NAME = {
    "SQLITE_BUSY": LockedFile,
    "SQLITE_LOCKED": LockedFile,
    "SQLITE_FULL": FullDisk,
    "SQLITE_READONLY": ReadOnlyFile,
}


_BY_NUMBER = {errno.ENOSPC: FullDisk, errno.EDQUOT: FullDisk, errno.EROFS: ReadOnlyFile}


def told_by(path: Path, error: BaseException) -> FileProblem | None:
    """What an error of SQLite (or of peewee around one) or of the system says of the file.

    None: it is our fault.
    """
    at: BaseException | None = error
    # SQLite takes a full disk's transaction back by itself, and peewee stumbles on that
    while at is not None:
        if problem := _told_by_one(path, at):
            return problem
        at = at.__cause__ or at.__context__
    return None


def _told_by_one(path: Path, error: BaseException) -> FileProblem | None:
    if isinstance(error, OSError) and error.errno in _BY_NUMBER:
        return _BY_NUMBER[error.errno](path)
    family = "_".join(str(getattr(error, "sqlite_errorname", "")).split("_")[:2])
    if family in _BY_NAME:
        return _BY_NAME[family](path)
    if family == "SQLITE_CANTOPEN":
        return UnreadableFile(path, str(error))
    if family == "SQLITE_IOERR" and _is_full(path):
        return FullDisk(path)
    if family in {"SQLITE_CORRUPT", "SQLITE_IOERR"}:
        return DamagedFile(path, str(error))
    if family == "SQLITE_NOTADB":
        return ForeignFile(path, "it is no SQLite file, or its beginning is damaged")
    return None


def _is_full(path: Path) -> bool:
    """Whether there is no room for what SQLite keeps beside an open file, its index of the log."""
    try:
        return shutil.disk_usage(path.parent).free < INDEX_BYTES
    except OSError:
        return False

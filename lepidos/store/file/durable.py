"""Files and folders written so that a power cut leaves what was there before, or all of the new.

A disk keeps what was synced, in no other order: a rename may be on it before what the renamed file
holds. So the content is synced, then the file has its name, then the folder is synced.
"""

import os
from pathlib import Path


def sync(path: Path) -> None:
    """Wait until a closed file, or the names in a folder, are on the disk."""
    try:
        handle = os.open(path, os.O_RDONLY)
    except PermissionError:
        if path.is_dir():
            return  # a system that opens no folders keeps their names by itself
        raise
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def make_private(path: Path) -> None:
    """An empty file that only this user may read, in the place of any other."""
    path.unlink(missing_ok=True)
    os.close(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600))


def make_folder(folder: Path) -> None:
    """Make a folder that only this user may look into, unless there is one."""
    if not folder.exists():
        make_folder(folder.parent)
        folder.mkdir(mode=0o700, exist_ok=True)  # names of guests are nobody else's business
        sync(folder.parent)


def write(path: Path, data: bytes) -> None:
    """Write a private file. Raises OSError; then what was there is as it was."""
    new = path.with_name(f"{path.name}.new")
    try:
        make_private(new)
        new.write_bytes(data)
        move(new, path)
    finally:
        new.unlink(missing_ok=True)


def move(new: Path, path: Path) -> None:
    """Give a closed file its name in the same folder, in the place of what has it."""
    sync(new)
    new.replace(path)
    sync(path.parent)


def remove(path: Path) -> None:
    """Take a file away, if it is there; after a power cut it does not come back."""
    if path.exists():
        path.unlink(missing_ok=True)
        sync(path.parent)

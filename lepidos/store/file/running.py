"""Only one app on a data file: who runs says so by a lock that ends with the process."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from filelock import FileLock, Timeout

from lepidos.core.errors import Conflict
from lepidos.store.file.durable import make_folder


@contextmanager
def only_one(path: Path) -> Iterator[None]:
    """Hold the lock of the data file at `path`. Raises Conflict when somebody else holds it."""
    make_folder(path.parent)
    lock = FileLock(path.with_name(f"{path.name}-lock"), mode=0o600)
    try:
        lock.acquire(timeout=0)
    except Timeout as error:
        raise Conflict(
            f"Lepidos is running on {path} already. Stop it first, or name another --data-dir."
        ) from error
    try:
        yield
    finally:
        lock.release()

"""What was read already within one reading transaction: it cannot have changed meanwhile."""

from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any, TypeVar

T = TypeVar("T")
_READ: ContextVar[dict[Hashable, Any] | None] = ContextVar("read", default=None)


@contextmanager
def snapshot() -> Iterator[None]:
    """Answers read inside are kept until its end."""
    token = _READ.set({})
    try:
        yield
    finally:
        _READ.reset(token)


def read_once(key: Hashable, read: Callable[[], T]) -> T:
    """The answer for a key, read once in a snapshot; outside of one, as in a write, every time."""
    kept = _READ.get()
    if kept is None:
        return read()
    if key not in kept:
        kept[key] = read()
    found: T = kept[key]
    return found

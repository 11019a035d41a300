"""Writers of one process wait in line: SQLite's own waiting looks again ever more seldom."""

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager


class Stuck(Exception):
    """It is no use to wait any longer."""


class Turns:
    """One writer at a time. Each waits `at_most_s` seconds for its turn.

    When the one whose turn it is has asked the file for its lock for `stuck_after_s`, all others
    are told at once.
    """

    def __init__(self, at_most_s: float, stuck_after_s: float) -> None:
        self._at_most_s, self._stuck_after_s = at_most_s, stuck_after_s
        self._changed = threading.Condition()
        self._owner: int | None = None
        self._depth = 0
        self._asking_since: float | None = None

    @contextmanager
    def mine(self) -> Iterator[None]:
        """Wait for this thread's turn and keep it; a thread that has it need not wait.

        Raises Stuck.
        """
        with self._changed:
            self._wait()
            self._owner = threading.get_ident()
            self._depth += 1
        try:
            yield
        finally:
            with self._changed:
                self._depth -= 1
                if not self._depth:
                    self._owner = None
                    self._changed.notify()

    @contextmanager
    def asking(self) -> Iterator[None]:
        """While the file is asked for its lock."""
        with self._changed:
            self._asking_since = time.monotonic()
            self._changed.notify_all()  # the others wait less from now on
        try:
            yield
        finally:
            self._asking_since = None

    def _wait(self) -> None:
        end = time.monotonic() + self._at_most_s
        while self._owner not in (None, threading.get_ident()):
            asked = self._asking_since
            until = end if asked is None else min(end, asked + self._stuck_after_s)
            if (left := until - time.monotonic()) <= 0:
                raise Stuck
            self._changed.wait(left)

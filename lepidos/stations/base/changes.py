"""What a running house remembers between requests: that something changed, and costly answers."""

import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, TypeVar

MOST_KEPT = 5000
T = TypeVar("T")


class Changes:
    """Counts what was written or worked out anew, so that open pages know when to look again."""

    def __init__(self) -> None:
        self._count = 0
        self._lock = threading.Lock()
        self._start = f"{time.time_ns():x}"

    @property
    def count(self) -> int:
        """How many changes there were since the app started."""
        return self._count

    @property
    def mark(self) -> str:
        """Stands for what there is now: another mark, also after a new start, means look again."""
        return f"{self._start}-{self._count}"

    def tell(self) -> None:
        """Something changed. From any thread."""
        with self._lock:
            self._count += 1


class Memo:
    """Answers that hold as long as their key does. Whoever asks puts all it depends on in the key.

    What several threads ask for at once is worked out by the first; the others wait for it.
    """

    def __init__(self) -> None:
        self._kept: OrderedDict[Hashable, Any] = OrderedDict()
        self._making: dict[Hashable, threading.Event] = {}
        self._lock = threading.Lock()

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """The answer for a key, made when it is not there. What `make` raises is not kept.

        `make` may ask for other keys, never for its own.
        """
        while True:
            with self._lock:
                if key in self._kept:
                    self._kept.move_to_end(key)
                    found: T = self._kept[key]
                    return found
                others = self._making.get(key)
                if others is None:
                    done = self._making[key] = threading.Event()
            if others is None:
                return self._make(key, make, done)
            others.wait()

    def _make(self, key: Hashable, make: Callable[[], T], done: threading.Event) -> T:
        try:
            made = make()
            with self._lock:
                self._kept[key] = made
                while len(self._kept) > MOST_KEPT:
                    self._kept.popitem(last=False)
            return made
        finally:
            with self._lock:
                del self._making[key]
            done.set()

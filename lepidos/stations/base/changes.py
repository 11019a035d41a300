"""What the running app remembers between requests: that something changed, and costly answers."""

import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from typing import Any, TypeVar

# Answers of one kind that are kept unless the caller says otherwise: some trips, each as it is now.
# What an earlier state of the file gave is not asked for again, and a slab of sixty fish is large.
MAX_KEPT = 24
T = TypeVar("T")
_MISSING: Any = object()
Key = tuple[Any, ...]


class Changes:
    """Counts what was written or recalculated, so that open pages know when to look again."""

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

    The first part of a key is its kind; of a kind the answers used last are kept. What several
    threads ask for at once is calculated by the first; the others wait for it.
    """

    def __init__(self) -> None:
        self._kept: dict[str, OrderedDict[Key, Any]] = {}
        self._making: dict[Key, threading.Event] = {}
        self._lock = threading.Lock()

    def get(self, key: Key, make: Callable[[], T], most: int = MAX_KEPT) -> T:
        """The answer for a key, made when it is not there. What `make` raises is not kept.

        `make` may ask for other keys, never for its own. `most`: answers of this kind to keep.
        """
        while True:
            with self._lock:
                kept = self._kept.setdefault(key[0], OrderedDict())
                found: T = kept.get(key, _MISSING)
                if found is not _MISSING:
                    # a key's hash is made each time: while there is room the order is no matter
                    if 2 * len(kept) > most:
                        kept.move_to_end(key)
                    return found
                others = self._making.get(key)
                if others is None:
                    done = self._making[key] = threading.Event()
            if others is None:
                return self._make(key, make, done, most)
            others.wait()

    def __len__(self) -> int:
        """Answers that are kept."""
        with self._lock:
            return sum(map(len, self._kept.values()))

    def _make(self, key: Key, make: Callable[[], T], done: threading.Event, most: int) -> T:
        try:
            made = make()
            with self._lock:
                kept = self._kept[key[0]]
                kept[key] = made
                while len(kept) > most:
                    kept.popitem(last=False)
            return made
        finally:
            with self._lock:
                del self._making[key]
            done.set()

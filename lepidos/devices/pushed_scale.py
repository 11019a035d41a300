"""A scale plugged into another device, whose browser passes its lines on, by the same protocol."""

import threading
import time
from collections.abc import Callable, Iterable

from lepidos.devices.heard_scale import HeardScale

MOST_TOLD = 20  # lines that wait for the browser to fetch them


class PushedScale(HeardScale):
    """Lines come in by `take`, which hands back those that wait for the scale."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        super().__init__(clock)
        self._lock = threading.Lock()
        self._told: list[bytes] = []

    def take(self, lines: Iterable[str]) -> list[str]:
        """Hear lines of the scale; what is to be written to it now."""
        with self._lock:
            for line in lines:
                self.hear(line.encode())
            told, self._told = self._told, []
        return [line.decode() for line in told]

    def _tell(self, line: bytes) -> None:
        with self._lock:
            self._told = [*self._told, line][-MOST_TOLD:]

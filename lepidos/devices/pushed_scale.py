"""A scale plugged into another device, whose browser passes its lines on, by the same protocol."""

import threading
import time
from collections.abc import Callable, Iterable

from lepidos.devices.heard_scale import HeardScale

MAX_TOLD = 20  # lines that wait for the browser to fetch them


class PushedScale(HeardScale):
    """Lines come in by `take`, which hands back those that wait for the scale.

    They wait until the device says that it wrote them: an answer may be lost on its way.
    """

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        super().__init__(clock)
        self._lock = threading.Lock()
        self._told: list[bytes] = []
        self._gone = 0  # how many were written before those

    def take(self, lines: Iterable[str], wrote: int = 0) -> tuple[list[str], int]:
        """Hear lines of the scale.

        `wrote`: the number that came with the lines last written to it, 0 for none. Returns the
        lines to write now, and the number to say once they are.
        """
        with self._lock:
            for line in lines:
                self.hear(line.encode())
            written = min(max(0, wrote - self._gone), len(self._told))
            self._told, self._gone = self._told[written:], self._gone + written
            return [line.decode() for line in self._told], self._gone + len(self._told)

    def _tell(self, line: bytes) -> None:
        with self._lock:
            if len(self._told) < MAX_TOLD:
                self._told.append(line)

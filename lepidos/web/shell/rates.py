"""How much one device may ask for: so many requests in a while, and so many open streams.

The machine itself asks for what it likes. The numbers are far above what people do: a page asks for
about ten things, a busy bench for two a second. Common practice, no source.
"""

import time
from collections import OrderedDict
from collections.abc import Callable

A_SECOND = {"stranger": 5.0, "guest": 20.0, "bench": 40.0, "crew": 40.0}
AT_ONCE = {"stranger": 60.0, "guest": 200.0, "bench": 600.0, "crew": 600.0}
STREAMS = {"stranger": 1, "guest": 6, "bench": 12, "crew": 12}
MAX_KNOWN = 5000  # addresses that are remembered: a stranger can make up many
OPEN_STREAMS = ("/live/changes", "/live/scale/stream")


class Rates:
    """Counts requests and open streams by device. For one thread.

    Each device has a bucket of `AT_ONCE` requests that fills again by `A_SECOND`.
    """

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._left: OrderedDict[str, tuple[float, float]] = OrderedDict()  # requests left, and when
        self._open: dict[str, int] = {}

    def wait_s(self, who: str, role: str) -> float:
        """Take one request of a device: 0 when it may be answered, else how long to wait [s]."""
        now, most = self._clock(), AT_ONCE[role]
        left, since = self._left.get(who, (most, now))
        left = min(most, left + (now - since) * A_SECOND[role])
        may = left >= 1
        self._left[who] = (left - 1 if may else left, now)
        self._left.move_to_end(who)
        while len(self._left) > MAX_KNOWN:
            self._left.popitem(last=False)
        return 0.0 if may else (1 - left) / A_SECOND[role]

    def open_stream(self, who: str, role: str) -> bool:
        """Whether a device may open one more stream; `close_stream` when it ends."""
        if self._open.get(who, 0) >= STREAMS[role]:
            return False
        self._open[who] = self._open.get(who, 0) + 1
        return True

    def close_stream(self, who: str) -> None:
        """A stream ended."""
        self._open[who] -= 1
        if not self._open[who]:
            del self._open[who]

"""What a freezer's air was, minute by minute, and where nobody knows.

A reading holds until the next one. Where readings are further apart than `GAP_S` there is a gap:
what it was then is not guessed.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lepidos.core.errors import BadInput, OutOfRange

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]
Flags = NDArray[np.bool_]

MINUTE_S = 60
GAP_S = 65 * MINUTE_S  # loggers write every minute to every hour (common practice, no source)
COLDEST_C, WARMEST_C = -90.0, 60.0
MAX_MINUTES = 10 * 366 * 24 * 60


@dataclass(frozen=True)
class Readings:
    """Readings of one sensor: seconds since 1970 (UTC), rising, and °C, −90 to 60."""

    at_s: Whole
    celsius: Floats

    def __len__(self) -> int:
        return len(self.at_s)


def readings(at_s: Sequence[int] | Whole, celsius: Sequence[float] | Floats) -> Readings:
    """Readings, checked.

    Raises: BadInput when stamps do not rise or numbers do not match; OutOfRange for a temperature
    outside −90 to 60 °C.
    """
    at, air = np.asarray(at_s, dtype=np.int64), np.asarray(celsius, dtype=np.float64)
    if len(at) != len(air):
        raise BadInput("Every reading needs a time and a temperature")
    if len(at) > 1 and bool(np.any(np.diff(at) <= 0)):
        raise BadInput("Readings must follow each other in time")
    if len(air) and not (air.min() >= COLDEST_C and air.max() <= WARMEST_C):
        worst = air[np.argmax(np.where(np.isfinite(air), np.abs(air + 15), np.inf))]
        raise OutOfRange("temperature", float(worst), COLDEST_C, WARMEST_C, "°C")
    return Readings(at, air)


def merged(parts: Sequence[Readings]) -> Readings:
    """Several logs of one place as one; at the same second the later part holds."""
    if not parts:
        return Readings(np.zeros(0, np.int64), np.zeros(0))
    at = np.concatenate([part.at_s for part in parts])
    air = np.concatenate([part.celsius for part in parts])
    order = np.lexsort((np.arange(len(at)), at))
    at, air = at[order], air[order]
    last = np.append(np.diff(at) > 0, True) if len(at) else np.zeros(0, bool)
    return Readings(at[last], air[last])


@dataclass(frozen=True)
class MinuteLog:
    """°C of every minute from `first` (minutes since 1970); not a number where nobody knows."""

    first: int
    celsius: Floats

    @property
    def end(self) -> int:
        """The minute after the last one."""
        return self.first + len(self.celsius)

    @property
    def known(self) -> Flags:
        """Of each minute: whether it is known."""
        return ~np.isnan(self.celsius)


def by_minute(log: Readings, gap_s: int = GAP_S) -> MinuteLog:
    """A log on a grid of minutes; of several readings in a minute the warmest.

    Raises: OutOfRange for a log longer than ten years.
    """
    if not len(log):
        return MinuteLog(0, np.zeros(0))
    minute = log.at_s // MINUTE_S
    first, last = int(minute[0]), int(minute[-1])
    if last - first >= MAX_MINUTES:
        raise OutOfRange("log", (last - first) / 525_600, 0, 10, "years")
    starts = np.flatnonzero(np.append(True, np.diff(minute) > 0))
    warmest = np.maximum.reduceat(log.celsius, starts)
    at = minute[starts] - first
    steps = np.diff(np.append(at, at[-1] + 1))
    grid = np.repeat(warmest, steps)
    ends_s = log.at_s[np.append(starts[1:] - 1, len(log) - 1)]
    next_s = np.append(log.at_s[starts[1:]], ends_s[-1])
    for i in np.flatnonzero(next_s - ends_s > gap_s):
        grid[at[i] + 1 : at[i + 1]] = np.nan
    return MinuteLog(first, grid)


def runs(flags: Flags) -> list[tuple[int, int]]:
    """Stretches of true: from, and the first after it.

    >>> runs(np.array([False, True, True, False, True]))
    [(1, 3), (4, 5)]
    """
    edges = np.flatnonzero(np.diff(np.concatenate([[False], flags, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def gaps(log: MinuteLog) -> list[tuple[int, int]]:
    """Stretches [minutes since 1970] of which nobody knows anything."""
    return [(log.first + a, log.first + b) for a, b in runs(~log.known)]

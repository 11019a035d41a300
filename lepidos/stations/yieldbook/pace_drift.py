"""Whether a cutter's latest fish took longer than that cutter's own usually do."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean, median, stdev

from lepidos.core.errors import OutOfRange
from lepidos.core.yields.drift import Point, low_since, moving_average
from lepidos.store.table import sessions

BASE = 50  # fish from which a cutter's own middle and spread are taken; then the watch begins
MIN_OF_KIND = 8  # fewer tell nothing of a pace (practice)
SHOWN = 60
# time on the board goes with weight to about this power (common practice, no source)
POWER = 0.5


@dataclass(frozen=True)
class PaceDrift:
    """The average after each of the last fish, slower downwards, and how many it has been low."""

    points: tuple[Point, ...]
    since: int


def pace_drift(most: int) -> dict[str, PaceDrift]:
    """By cutter with more than fifty timed fish. Called in an open transaction."""
    by_cutter: dict[str, list[tuple[str, float]]] = {}
    for cutter, kind, kg, seconds in sessions.timed(most):
        if seconds > 0 and kg > 0:
            logs = math.log(seconds) - POWER * math.log(kg)
            by_cutter.setdefault(cutter, []).append((kind, logs))
    found = {name: _of(rows) for name, rows in by_cutter.items()}
    return {name: one for name, one in found.items() if one}


def _of(rows: Sequence[tuple[str, float]]) -> PaceDrift | None:
    base: dict[str, list[float]] = {}
    for kind, log in rows[:BASE]:
        base.setdefault(kind, []).append(log)
    middles = {kind: median(logs) for kind, logs in base.items() if len(logs) >= MIN_OF_KIND}
    usual = [log - middles[kind] for kind, log in rows[:BASE] if kind in middles]
    if len(usual) < BASE // 2 or stdev(usual) == 0:
        return None
    mean, sd = fmean(usual), stdev(usual)
    # slower counts downwards, as less meat does
    offs = [-(log - middles[kind] - mean) / sd for kind, log in rows[BASE:] if kind in middles]
    try:
        points = moving_average(offs)
    except OutOfRange:
        return None  # a clock that jumped by days tells nothing
    since = low_since(points)
    return PaceDrift(tuple(points[-SHOWN:]), 0 if since is None else len(points) - since)

"""Cutters: whether their latest fish gave less than was foreseen, fish after fish."""

import math
from dataclasses import dataclass

from lepidos.core.errors import OutOfRange
from lepidos.core.yields.drift import Point, low_since, moving_average, run_length, standardised
from lepidos.stations.base.context import AppContext
from lepidos.stations.table.forecasts import came_out, finished_mark

LOOKED_AT = 600  # fish, of all cutters
SHOWN = 60  # of one
LEAST = 8  # fish before anything is said


@dataclass(frozen=True)
class CutterDrift:
    """One cutter: the average after each of the last fish, and what they gave of what was foreseen.

    `since`: of how many fish the average has been out of its limits by now; 0: it is not.
    """

    name: str
    fish: int
    points: tuple[Point, ...]
    since: int
    given_kg: float
    foreseen_kg: float
    lately: float

    @property
    def share(self) -> float:
        """What all of them gave of what was foreseen."""
        return self.given_kg / self.foreseen_kg

    @property
    def finding(self) -> str:
        """What the picture says."""
        if self.fish < LEAST:
            return f"{self.name}: too few fish yet to say"
        if self.since:
            return f"{self.name}: the last fish gave {1 - self.lately:.0%} less than foreseen"
        return f"{self.name}: as foreseen"


@dataclass(frozen=True)
class Drift:
    """All cutters, those who lose most first; how often, in fish, a picture cries wolf."""

    cutters: tuple[CutterDrift, ...]
    run_length: float


def view_drift(ctx: AppContext) -> Drift:
    """From the forecasts that were made before the first cut, and what the fish then gave."""
    with ctx.store.reading():
        key = ("drift", finished_mark(ctx))
        return ctx.memo.get(key, lambda: _work_out(ctx), most=2)


def _work_out(ctx: AppContext) -> Drift:
    by_cutter: dict[str, list[tuple[float, float, float]]] = {}
    for row, kg in reversed(came_out(ctx, LOOKED_AT)):
        try:
            off = standardised(kg, row.kg, row.low_kg, row.high_kg)
        except OutOfRange:
            continue  # a forecast without a width says nothing
        by_cutter.setdefault(row.cutter or "no board", []).append((off, kg, row.kg))
    found = [_of(name, rows) for name, rows in by_cutter.items()]
    return Drift(tuple(sorted(found, key=lambda c: (not c.since, c.name))), run_length())


def _of(name: str, rows: list[tuple[float, float, float]]) -> CutterDrift:
    points = moving_average([off for off, _, _ in rows])
    since = low_since(points) if len(rows) >= LEAST else None
    out = 0 if since is None else len(points) - since
    # what the average has in mind: its last few fish
    latest = rows[-max(LEAST, out) :]
    logs = [math.log(kg / foreseen) for _, kg, foreseen in latest]
    return CutterDrift(
        name,
        len(rows),
        tuple(points[-SHOWN:]),
        out,
        sum(kg for _, kg, _ in rows),
        sum(foreseen for _, _, foreseen in rows),
        math.exp(sum(logs) / len(logs)),
    )

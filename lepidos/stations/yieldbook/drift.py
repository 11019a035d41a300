"""Cutters: whether their latest fish gave less, or took longer, fish after fish; and why."""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime

from lepidos.core.errors import OutOfRange, Refused
from lepidos.core.pack.labels import one_line
from lepidos.core.units import HOUR_S, format_percent
from lepidos.core.yields.before_after import Gain, gained
from lepidos.core.yields.drift import Point, low_since, moving_average, run_length, standardised
from lepidos.core.yields.with_size import goes_with
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.table.forecasts import came_out, finished_mark
from lepidos.stations.yieldbook.pace_drift import PaceDrift, pace_drift
from lepidos.store.base import entries
from lepidos.store.records import Sharpening
from lepidos.store.schedule import boards
from lepidos.store.table import sessions
from lepidos.store.yieldbook import blades

LOOKED_AT = 600  # fish, of all cutters
SHOWN = 60  # of one
MIN_FISH = 8  # fish before anything is said
COLD_AIR_C = 8.0  # hands lose their feeling below about this (common practice, no source)
MAX_BLADE = 40


@dataclass(frozen=True)
class CutterDrift:
    """One cutter with one blade: the average after each of the last fish, and what they gave of
    what was foreseen. `name` says the blade, too, where it was named.

    `since`: of how many fish the average has been out of its limits by now; 0: it is not.
    `sharpened`: after which of the shown fish, counted from 0; `fish_since` the last time, None:
    never noted. `late`: whether fish give less late in the day; `cold`: whether the air was.
    """

    name: str
    cutter: str
    fish: int
    points: tuple[Point, ...]
    since: int
    given_kg: float
    foreseen_kg: float
    lately: float
    sharpened: tuple[int, ...] = ()
    fish_since: int | None = None
    gain: Gain | None = None
    late: bool = False
    cold: bool = False
    pace: PaceDrift | None = None

    @property
    def share(self) -> float:
        """What all of them gave of what was foreseen."""
        return self.given_kg / self.foreseen_kg

    @property
    def finding(self) -> str:
        """What the picture says."""
        if self.fish < MIN_FISH:
            return f"{self.name}: too few fish yet to say"
        if self.since:
            less = format_percent(1 - self.lately)
            return f"{self.name}: the last fish gave {less} less than foreseen"
        if self.pace and self.pace.since:
            return f"{self.name}: as foreseen, but slower"
        return f"{self.name}: as foreseen"


@dataclass(frozen=True)
class Drift:
    """All cutters, those who lose most first; how often, in fish, a picture cries wolf."""

    cutters: tuple[CutterDrift, ...]
    run_length: float


@dataclass(frozen=True)
class _Row:
    off: float
    kg: float
    foreseen_kg: float
    at: datetime
    hour: float
    air_c: float | None


def view_drift(ctx: AppContext) -> Drift:
    """From the forecasts that were made before the first cut, and what the fish then gave."""
    with ctx.store.reading():
        key = ("drift", finished_mark(ctx), entries.last_key())
        return ctx.memo.get(key, lambda: _work_out(ctx), most=2)


@dataclass(frozen=True)
class Sharpen:
    """An order: this cutter's blade was sharpened now, or `blade` taken up instead."""

    cutter: str
    blade: str = ""


def sharpen(ctx: AppContext, key: str, order: Sharpen) -> Receipt:
    """Note it. Raises Refused."""

    def do(at: datetime) -> Receipt:
        if order.cutter not in set(boards.names().values()):
            raise Refused({"cutter": "Choose who cuts"})
        blade = one_line(order.blade, MAX_BLADE)
        row = blades.sharpened(ctx.ids, at, order.cutter, blade)
        words = f"takes up {blade}" if blade else "has a sharp blade"
        return Receipt("sharpening", row.id, f"{order.cutter} {words}")

    return run_idempotent(ctx, key, "book.sharpen", order, do)


def _work_out(ctx: AppContext) -> Drift:
    by_cutter: dict[str, list[_Row]] = {}
    came = list(reversed(came_out(ctx, LOOKED_AT)))
    days = sessions.days_of_fish([row.fish_id for row, _ in came])
    first: dict[tuple[str, str], datetime] = {}
    for row, kg in came:
        try:
            off = standardised(kg, row.kg, row.low_kg, row.high_kg)
        except OutOfRange:
            continue  # a forecast without a width says nothing
        trip, air_c = days.get(row.fish_id, ("", None))
        name = row.cutter or "no board"
        start = first.setdefault((trip, name), row.at)
        hour = (row.at - start).total_seconds() / HOUR_S
        by_cutter.setdefault(name, []).append(_Row(off, kg, row.kg, row.at, hour, air_c))
    sharp, pace = blades.every(), pace_drift(LOOKED_AT)
    found = [
        one
        for cutter, rows in by_cutter.items()
        for one in _of_cutter(cutter, rows, sharp.get(cutter, []), pace.get(cutter))
    ]
    return Drift(tuple(sorted(found, key=lambda c: (not c.since, c.name))), run_length())


def _of_cutter(
    cutter: str, rows: list[_Row], sharp: list[Sharpening], pace: PaceDrift | None
) -> Iterator[CutterDrift]:
    """A line for each blade that was named; what sharpening gave and the pace stand at the last."""
    by_blade: dict[str, list[_Row]] = {}
    for row in rows:
        named = [one.blade for one in sharp if one.blade and one.at < row.at]
        by_blade.setdefault(named[-1] if named else "", []).append(row)
    shares = [row.kg / row.foreseen_kg for row in rows]
    after = [sum(row.at <= one.at for row in rows) for one in sharp]
    gains = (gained(shares[:n], shares[n:]) for n in reversed(after))
    gain = next(filter(None, gains), None)
    for number, (blade, some) in enumerate(by_blade.items(), 1):
        name = f"{cutter}, {blade}" if blade else cutter
        last = number == len(by_blade)
        one = _of(name, cutter, some, sharp, pace if last else None)
        yield replace(one, gain=gain) if last else one


def _of(
    name: str, cutter: str, rows: list[_Row], sharp: list[Sharpening], pace: PaceDrift | None
) -> CutterDrift:
    points = moving_average([row.off for row in rows])
    since = low_since(points) if len(rows) >= MIN_FISH else None
    out = 0 if since is None else len(points) - since
    # what the average has in mind: its last few fish
    latest = rows[-max(MIN_FISH, out) :]
    logs = [math.log(row.kg / row.foreseen_kg) for row in latest]
    after = [sum(row.at <= one.at for row in rows) for one in sharp]
    hidden = len(points) - len(points[-SHOWN:])
    air = [row.air_c for row in latest if row.air_c is not None]
    return CutterDrift(
        name,
        cutter,
        len(rows),
        tuple(points[-SHOWN:]),
        out,
        sum(row.kg for row in rows),
        sum(row.foreseen_kg for row in rows),
        math.exp(sum(logs) / len(logs)),
        tuple(n - hidden for n in after if n > hidden),
        len(rows) - after[-1] if after else None,
        None,
        goes_with([row.hour for row in rows], [row.off for row in rows]) == "less",
        bool(air) and sum(air) / len(air) < COLD_AIR_C,
        pace,
    )


def undo_sharpening(ctx: AppContext, row_id: str, at: datetime) -> str:
    row = blades.get(row_id)
    entries.undo(ctx.ids, "sharpening", row_id, at)
    return f"{row.cutter}'s blade was not sharpened after all"

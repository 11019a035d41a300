"""One place: its temperature, what warm spells did, how long it keeps without power."""

from dataclasses import dataclass
from datetime import datetime

import numpy as np

from lepidos.core.errors import OutOfRange
from lepidos.core.freezer.bag_cold import WIDE_M
from lepidos.core.freezer.freezing_curve import Curve, freezing_curve
from lepidos.core.freezer.freezing_time import (
    HARD_C,
    Block,
    fish_of_water,
    freezing_hours,
    plank_hours,
)
from lepidos.core.freezer.heat_balance import FREEZES_C, Load, Outage, without_power
from lepidos.core.freezer.keeping_time import pace
from lepidos.core.freezer.temperature_log import MinuteLog, gaps
from lepidos.guide.freezing import HoldRule, usual_freezing
from lepidos.stations.base.context import AppContext
from lepidos.stations.freezer.cold_records import Logs, all_logs, minute_log, record_of
from lepidos.stations.freezer.holds import moment_of, rule_now
from lepidos.stations.freezer.places import set_to
from lepidos.stations.freezer.stocktake import Counted, counted
from lepidos.store.freezer import places as place_store
from lepidos.store.freezer import temperature
from lepidos.store.pack import bags
from lepidos.store.records import Bag, BagNow, Place, PlaceSaid, TemperatureLog

ROOM_C = 20.0  # of a room that nobody measured (practice)
DAY_MINUTES = 24 * 60
POINTS = 288  # of a day's line, a point each five minutes
SOFT_C, THAWED_C, COLD_C = -10.0, -1.0, 4.4  # 40 °F: FoodSafety.gov (memory)
SPELL_DAYS = 14  # warm spells that are told


@dataclass(frozen=True)
class DayLine:
    """The last day of a log: (minute of the 1440, °C) in stretches between gaps, its ends, and what
    stands in it.
    """

    until: datetime
    lines: tuple[tuple[tuple[int, float], ...], ...]
    low_c: float
    high_c: float
    now_c: float
    gaps: int


@dataclass(frozen=True)
class WarmSpell:
    """The warmest that the middle of the thinnest bag has been of late, and when."""

    at: datetime
    celsius: float

    @property
    def advice(self) -> str:
        """hard, soft, thawed or warm: what to do with the bags."""
        if self.celsius <= SOFT_C:
            return "hard"
        if self.celsius <= THAWED_C:
            return "soft"
        return "thawed" if self.celsius <= COLD_C else "warm"


@dataclass(frozen=True)
class FreezesHere:
    """How a bag of lean fish freezes in a place: hours by Pham's method until its middle is hard,
    until it is at −18 °C, and for the change of phase alone by Plank's equation; None: never.
    """

    thick_m: float
    stacked: bool
    hard_h: float | None
    stored_h: float | None
    plank_h: float | None
    curve: Curve
    air_c: float


def freezes_here(said: PlaceSaid | None, thick_m: float, stacked: bool) -> FreezesHere:
    """In a single layer, or stacked so that only one side is cold. `thick_m` 5 mm to 10 cm.

    Raises OutOfRange.
    """
    usual = usual_freezing()
    air_c = set_to(said)
    h, water = usual.cooling[said.cooling if said else "still"].h, usual.water["lean"]
    block, fish = Block(thick_m, WIDE_M, WIDE_M, stacked), fish_of_water(water)
    hard, stored = (
        freezing_hours(block, air_c, usual.start_c, h, fish, end) for end in (usual.hard_c, HARD_C)
    )
    plank = plank_hours(
        2 * thick_m if stacked else thick_m,
        0.5,
        0.125,
        density=fish.density_frozen,
        latent=fish.latent,
        surface_w=h,
        conductivity=fish.conductivity,
        freezes_c=FREEZES_C,
        air_c=air_c,
    )
    curve = freezing_curve(thick_m, air_c, usual.start_c, h, water, stacked)
    return FreezesHere(thick_m, stacked, hard, stored, plank, curve, air_c)


@dataclass(frozen=True)
class PlaceView:
    """All of one place. `paces`: how many times as fast bags grow old at what it holds, by fat."""

    place: Place
    said: PlaceSaid | None
    within: str
    rows: tuple[tuple[Bag, BagNow], ...]
    kg: float
    line: DayLine | None
    logs: tuple[TemperatureLog, ...]
    gaps: int
    spell: WarmSpell | None
    sooner: tuple[tuple[Bag, BagNow], ...]
    outage: Outage | None
    counted: Counted | None
    rule: HoldRule
    paces: dict[str, float]

    @property
    def celsius(self) -> float:
        """What it is set to, or a usual freezer."""
        return set_to(self.said)


def view_place(ctx: AppContext, place_id: str) -> PlaceView:
    """Raises Unknown."""
    with ctx.store.reading():
        place = place_store.place(place_id)
        names = {p.id: p.name for p, _ in place_store.places()}
        logs = all_logs()
        said = logs.said.get(place.id)
        rows = tuple(bags.first_expiring(place.id, 5000))
        ids = logs.ids(place.id)
        log = minute_log(ctx, ids) if ids else None
        kg = sum(bag.kg for bag, _ in rows)
        celsius = set_to(said)
        return PlaceView(
            place,
            said,
            names.get(said.within_id or "", "") if said else "",
            rows,
            kg,
            line_of(ctx, ids),
            tuple(row for row in temperature.logs() if row.id in ids),
            len(gaps(log)) if log else 0,
            _spell(ctx, logs, place.id, rows),
            tuple((bag, now) for bag, now in rows if now.lost_days),
            _outage(said, kg),
            counted(names).get(place.id),
            rule_now()[1],
            {fat: float(pace(celsius, fat)) for fat in ("lean", "medium", "fatty")},
        )


def line_of(ctx: AppContext, ids: tuple[str, ...]) -> DayLine | None:
    """`day_line` of the logs of a place; None without one. From an open file."""
    if not ids:
        return None
    return ctx.memo.get(("day line", ids), lambda: day_line(minute_log(ctx, ids)))


def day_line(log: MinuteLog | None) -> DayLine | None:
    """The last day that a log knows of; None without one."""
    if log is None or not len(log.celsius):
        return None
    air = log.celsius[-DAY_MINUTES:]
    offset = DAY_MINUTES - len(air)
    step = DAY_MINUTES // POINTS
    lines: list[list[tuple[int, float]]] = [[]]
    for n in range(0, len(air), step):
        part = air[n : n + step]
        if np.isnan(part).all():
            if lines[-1]:
                lines.append([])
            continue
        # of some minutes the furthest from the mean, so that a short warm spell is not lost
        mean = float(np.nanmean(air))
        known = part[~np.isnan(part)]
        furthest = float(known[np.argmax(np.abs(known - mean))])
        lines[-1].append((offset + n, furthest))
    return DayLine(
        moment_of(log.end),
        tuple(tuple(line) for line in lines if line),
        float(np.nanmin(air)),
        float(np.nanmax(air)),
        float(log.celsius[-1]),
        len([g for g in gaps(log) if g[1] > log.end - DAY_MINUTES]),
    )


def _spell(
    ctx: AppContext, logs: Logs, place_id: str, rows: tuple[tuple[Bag, BagNow], ...]
) -> WarmSpell | None:
    """By the log of the last days, since the last bag that is still freezing went in."""
    if not rows:
        return None
    thinnest = min((bag for bag, _ in rows), key=lambda b: b.thick_m or 1)
    record = record_of(ctx, logs, place_id, thinnest)
    if record is None or not len(record.log.celsius):
        return None
    since = max(0, len(record.log.celsius) - SPELL_DAYS * DAY_MINUTES)
    middle = np.where(record.log.known, record.middle, -np.inf)[since:]
    at = int(np.argmax(middle))
    return WarmSpell(moment_of(record.log.first + since + at), float(middle[at]))


def _outage(said: PlaceSaid | None, kg: float) -> Outage | None:
    if said is None or not said.litres or kg <= 0 or said.celsius >= -12:
        return None
    try:
        return without_power(said.litres, Load(kg, said.celsius), ROOM_C)
    except OutOfRange:
        return None

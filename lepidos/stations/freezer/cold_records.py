"""The log of each place, and how cold bags of each kind were by it."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache

from lepidos.core.freezer.bag_cold import ColdRecord, Kind
from lepidos.core.freezer.freezing_time import fish_of_water
from lepidos.core.freezer.raw_hold import StayInPlace
from lepidos.core.freezer.temperature_log import MINUTE_S, MinuteLog, by_minute
from lepidos.guide.freezing import raw_holds, usual_freezing
from lepidos.stations.base.context import AppContext
from lepidos.store.freezer import places as place_store
from lepidos.store.freezer import temperature
from lepidos.store.records import Bag, Move, PlaceSaid

THICK_STEP_M = 0.005  # bags are taken in steps of thickness, the next thicker one
MAX_KINDS = 60  # of bags and places, whose results are kept
MAX_DEEP = 5  # drawers in drawers


@dataclass(frozen=True)
class Logs:
    """What is known of places, inside one transaction: what they are like, and their logs."""

    said: dict[str, PlaceSaid]
    of_place: dict[str, tuple[str, ...]]

    def place_of_log(self, place_id: str) -> str:
        """The place whose log is that of this one: itself, or what it is a drawer of."""
        at = place_id
        for _ in range(MAX_DEEP):
            said = self.said.get(at)
            if at in self.of_place or said is None or not said.within_id:
                return at
            at = said.within_id
        return at

    def ids(self, place_id: str) -> tuple[str, ...]:
        """The logs that hold for a place."""
        return self.of_place.get(self.place_of_log(place_id), ())

    def with_log_of(self, place_id: str) -> list[str]:
        """Places that have the same log as this one."""
        known = {*self.said, place_id}
        return [p for p in known if self.place_of_log(p) == self.place_of_log(place_id)]


def all_logs() -> Logs:
    """Read in an open transaction."""
    found: dict[str, list[str]] = {}
    for row in temperature.logs():
        found.setdefault(row.place_id, []).append(row.id)
    return Logs(place_store.said_of_places(), {p: tuple(ids) for p, ids in found.items()})


def minute_log(ctx: AppContext, ids: tuple[str, ...]) -> MinuteLog:
    """Logs as one, minute by minute."""
    return ctx.memo.get(
        ("freezer log", ids), lambda: by_minute(temperature.readings_of(list(ids))), most=12
    )


def kind_of(ctx: AppContext, bag: Bag, said: PlaceSaid | None) -> Kind:
    """What it takes to calculate how cold a bag gets where it lies."""
    usual = usual_freezing()
    thick = bag.thick_m or raw_holds().unknown_thick_m
    steps = max(1, math.ceil(thick / THICK_STEP_M - 1e-9))
    fat = ctx.guide.known_or_named(bag.species).keeping.fat
    h = usual.cooling[said.cooling if said else "still"].h
    return _kind(steps, h, usual.water[fat], usual.start_c)


@lru_cache(maxsize=500)
def _kind(steps: int, h: float, water: float, start_c: float) -> Kind:
    return Kind(steps * THICK_STEP_M, h, fish_of_water(water), start_c)


def record_of(ctx: AppContext, logs: Logs, place_id: str, bag: Bag) -> ColdRecord | None:
    """How cold bags like this were in a place; None: it has no log."""
    ids = logs.ids(place_id)
    if not ids:
        return None
    kind = kind_of(ctx, bag, logs.said.get(place_id))
    return ctx.memo.get(
        ("cold record", ids, kind),
        lambda: ColdRecord(minute_log(ctx, ids), kind),
        most=MAX_KINDS,
    )


def stays_of(ctx: AppContext, logs: Logs, bag: Bag, moves: Sequence[Move]) -> list[StayInPlace]:
    """Where a bag has been, by its moves that stand, oldest first, as far as logs go.

    The last one is there also where it has no log, or outside: then nothing is known of it now.
    """
    found: list[StayInPlace] = []
    for n, move in enumerate(moves):
        start, last = minute_of(move.at), n + 1 == len(moves)
        inside = move.action == "in" and move.place_id is not None
        record = record_of(ctx, logs, str(move.place_id), bag) if inside else None
        if last and record is None:
            found.append(StayInPlace(None, start, start + 1, inside and n > 0))
        if not inside:
            continue
        if last:
            end = max(start, record.log.end if record else start)
        else:
            end = minute_of(moves[n + 1].at)
        follows = n > 0 and moves[n - 1].action == "in"
        if end > start:
            found.append(StayInPlace(record, start, end, follows))
    return found


def minute_of(at: datetime) -> int:
    """Minutes since 1970."""
    return int(at.timestamp()) // MINUTE_S

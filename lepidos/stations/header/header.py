"""The header of every page: the numbers of the day, what waits at each station, what to watch.

Made by whoever draws it, never inside a write.
"""

import re
from dataclasses import dataclass
from datetime import datetime, timedelta

from lepidos.core.pack.portions import PACKED
from lepidos.core.schedule.boards import MAX_FISH
from lepidos.stations.base.context import AppContext, state_of_file
from lepidos.stations.base.contradictions import how_many
from lepidos.stations.base.fish import RoundWeight, SetAside, landed, round_weight, set_aside
from lepidos.stations.cold.ice import ice_account
from lepidos.stations.schedule.order import bench_order
from lepidos.store.base import entries
from lepidos.store.pack import bags, portions
from lepidos.store.records import Trip

CLOCK_SLACK = timedelta(minutes=2)  # two devices' clocks differ, and are set now and then
MAX_LAST_LENGTH = 44  # letters that stand in two lines of the header


@dataclass(frozen=True)
class Header:
    """The day so far. Ice is None where none was noted; `clears_at` when nothing waits.

    `set_aside` are fish that cannot be calculated and count in nothing else; `beyond` how many wait
    beyond those that order and cold are calculated for; `unprinted` the bags whose labels did not
    come out, with why; `clock_back` is when something was entered that, by the clock, is still to
    come; `contradictions` how many there are since a merge; `last` says in short what changed last,
    `last_at` when.
    """

    fish_left: int
    fish_landed: int
    round_kg: float
    round_all_measured: bool
    packed_kg: float
    bags: int
    waits: dict[str, int]
    ice_left_kg: float | None
    ice_needed_kg: float | None
    clears_at: datetime | None
    set_aside: tuple[SetAside, ...]
    unprinted: tuple[tuple[str, str], ...]
    clock_back: datetime | None
    beyond: int
    contradictions: int
    last: str
    last_at: datetime | None


def in_short(said: str) -> str:
    """What was done, without what it means or what follows of it: one sentence, two lines at most.

    >>> in_short("P1: ear stones kept. Rinse and dry them; note the fish's code with them.")
    'P1: ear stones kept'
    >>> in_short("chest, bottom: 86401 readings, 2 Oct 2026 to 1 Dec 2026; 36 raw holds proved")
    'chest, bottom: 86401 readings'
    """
    said = re.split(r"[.;?!] ", said, maxsplit=1)[0].rstrip(".")
    for between in (", ", ": "):
        while len(said) > MAX_LAST_LENGTH and between in said:
            said = said.rpartition(between)[0]
    return said


def _clock_back(ctx: AppContext) -> datetime | None:
    """When something was entered that by the clock is still to come; None when it is right."""
    latest = entries.latest()
    return latest.time if latest and latest.time > ctx.clock() + CLOCK_SLACK else None


def view_header(ctx: AppContext, trip: Trip) -> Header:
    """The header of a trip's pages; made once for each change and half minute."""
    with ctx.store.reading():
        key = ("header", trip.id, ctx.changes.count, *state_of_file(ctx))
        return ctx.memo.get(key, lambda: _header(ctx, trip))


def _header(ctx: AppContext, trip: Trip) -> Header:
    states = [now for _, now in landed(ctx, trip.id)]
    weights: list[RoundWeight] = [round_weight(now, ctx.guide.one(now.species)) for now in states]
    eaten = [key for key, piece in ctx.guide.pieces.items() if piece.counts_as != "rest"]
    in_state = bags.totals_of_trip(trip.id)
    packed = [in_state[s] for s in ("sealed", "in", "out") if s in in_state]
    waiting = sum(now.stage != "done" for now in states)
    ice = ice_account(ctx, trip) if trip.ice_kg is not None or waiting else None
    latest = entries.latest()
    return Header(
        fish_left=waiting,
        fish_landed=len(states),
        round_kg=sum(w.kg for w in weights),
        round_all_measured=all(w.measured for w in weights),
        packed_kg=sum(kg for _, kg in packed),
        bags=sum(number for number, _ in packed),
        waits={
            "deck": sum(now.stage == "slab" for now in states),
            "table": sum(now.stage == "table" for now in states),
            "pack": portions.count_waiting(trip.id, eaten, PACKED),
            "freezer": in_state.get("sealed", (0, 0.0))[0],
        },
        ice_left_kg=ice.left if ice else None,
        ice_needed_kg=ice.needed if ice else None,
        clears_at=bench_order(ctx, trip).clears_at if waiting else None,
        set_aside=tuple(set_aside(ctx, trip.id)),
        unprinted=tuple(ctx.labels.unprinted.values()),
        clock_back=_clock_back(ctx),
        beyond=max(0, waiting - MAX_FISH),
        contradictions=how_many(ctx),
        last=in_short(latest.sentence) if latest else "",
        last_at=latest.at if latest else None,
    )

"""The chain of cold of each fish: from the sea through whatever it lay in, calculated to now."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from lepidos.core.cold.conduction import Floats
from lepidos.core.cold.cooling_body import CoolingBody
from lepidos.core.cold.ice_balance import FISH_KJ
from lepidos.core.cold.probe_update import Assimilated, Reading
from lepidos.core.cold.spoilage import (
    HistamineClock,
    histamine_clock,
    hours_until_chilled_by,
)
from lepidos.core.schedule.boards import MAX_FISH
from lepidos.core.schedule.deadline import Ahead
from lepidos.core.units import HOUR_S
from lepidos.stations.base.context import AppContext, state_of_order
from lepidos.stations.base.fish import landed
from lepidos.stations.base.pressing import WAITS, waiting
from lepidos.stations.cold.ways import Way, ways_of
from lepidos.store.records import Fish, FishNow, Trip
from lepidos.store.trips import trips

POINTS = 60  # of a curve that is drawn
BOX_W_PER_K = 1.5  # heat that a good 100-litre box lets in (memory)


@dataclass(frozen=True)
class ColdNow:
    """How cold a fish is now [°C], at its core and in the mean, and what of its ice life is used.

    `lies` is the state that says where it lies ("" in the air since it was landed);
    `iced_after_h` is None when it never came into ice; `melted_kj` the heat that ice took from it
    since `since` of the account; `probed` says that a probe's reading is in it.
    """

    core_c: float
    mean_c: float
    lies: str
    iced_after_h: float | None
    ice_days: float
    ice_life_days: float
    kg: float
    melted_kj: float
    probed: bool
    ahead: Ahead

    @property
    def to_take_kj(self) -> float:
        """Heat that ice still has to take to bring it to 0 °C."""
        return self.kg * FISH_KJ * max(0.0, self.mean_c)


@dataclass(frozen=True)
class Cold:
    """One fish with its curve from landing to now, and the interval that is left open.

    `chill_within_h` are the hours from landing that the guidance gives a histamine fish.
    """

    now: ColdNow
    low_c: float
    high_c: float
    hours: tuple[float, ...]
    curve_c: tuple[float, ...]
    low_curve_c: tuple[float, ...]
    high_curve_c: tuple[float, ...]
    readings: tuple[Reading, ...]
    doubtful: tuple[Reading, ...]
    histamine: HistamineClock | None
    chill_within_h: float
    body: CoolingBody
    media: tuple[str, ...]


def cold_of_trip(ctx: AppContext, trip: Trip) -> Mapping[str, ColdNow]:
    """By fish that stands; empty when the sea's temperature was not noted.

    Called inside an open transaction. Worked out once for each state of the file.
    """
    if trip.sea_c is None:
        return {}
    return ctx.memo.get(("cold", trip.id, *state_of_order(ctx)), lambda: _cold_of_trip(ctx, trip))


def _cold_of_trip(ctx: AppContext, trip: Trip) -> dict[str, ColdNow]:
    since = ice_since(trip)
    return {
        fish.id: _now(ctx, way, (since - fish.landed_at).total_seconds())
        for fish, way in ways_of(ctx, trip, _with_cold(ctx, trip))
    }


def _with_cold(ctx: AppContext, trip: Trip) -> list[tuple[Fish, FishNow]]:
    """The fish whose cold is calculated: those in the order of work, and the finished."""
    done = [row for row in landed(ctx, trip.id) if row[1].stage not in WAITS]
    return [*waiting(ctx, trip.id), *done]


def _now(ctx: AppContext, way: Way, since_s: float) -> ColdNow:
    # a way is all that its cold depends on: a fish that nothing happened to keeps it for a minute
    return ctx.memo.get(("way", way, since_s), lambda: _work_out(way, since_s), most=2 * MAX_FISH)


def _work_out(way: Way, since_s: float) -> ColdNow:
    found, now = way.with_ahead()
    times, cores = found.seconds.tolist(), found.core.tolist()
    ahead = Ahead(tuple(times), tuple(cores), way.lasted_s, way.ice_life_days, way.climate)
    means = found.mean[: now + 1]
    return ColdNow(
        core_c=cores[now],
        mean_c=float(means[-1]),
        lies=way.lies,
        iced_after_h=None if way.iced_s is None else way.iced_s / HOUR_S,
        ice_days=ahead.used_days[now],
        ice_life_days=way.ice_life_days,
        kg=way.kg,
        melted_kj=_melted_kj(way, found.seconds[: now + 1], means, since_s),
        probed=bool(way.readings),
        ahead=ahead,
    )


def _melted_kj(way: Way, times: Floats, means: Floats, since_s: float) -> float:
    """Heat that ice took: the mean's fall over each spell in ice, from a moment on.

    The mean of the thickest section stands for the fish; its thin parts give their heat sooner.
    """
    total, begin = 0.0, 0.0
    for spell, medium in zip(way.spells, way.media, strict=True):
        end = begin + spell.seconds
        if medium in {"drained_ice", "ice_slurry"} and end > since_s:
            warm, cold = np.interp([max(begin, since_s), end], times, means)
            total += way.kg * FISH_KJ * max(0.0, float(warm - cold))
        begin = end
    return total


def cold_of_fish(ctx: AppContext, trip: Trip, fish: Fish, state: FishNow) -> Cold | None:
    """One fish with its curves; None when it is finished or the sea's temperature is missing."""
    if trip.sea_c is None or state.stage not in {"slab", "table"}:
        return None
    ((_, way),) = ways_of(ctx, trip, [(fish, state)])
    now = _now(ctx, way, (ice_since(trip) - fish.landed_at).total_seconds())
    if way.spells:
        taken = way.assimilated(POINTS)
    else:
        edge = (way.start_c,)
        taken = Assimilated((0.0,), edge, edge, edge, edge, ())
    forms = "histamine" in ctx.guide.one(fish.species).traits
    clock = histamine_clock(taken.seconds, taken.celsius) if forms and way.spells else None
    return Cold(
        now=now,
        low_c=taken.low[-1],
        high_c=taken.high[-1],
        hours=tuple(t / HOUR_S for t in taken.seconds),
        curve_c=taken.celsius,
        low_curve_c=taken.low,
        high_curve_c=taken.high,
        readings=way.readings,
        doubtful=taken.doubtful,
        histamine=clock,
        chill_within_h=hours_until_chilled_by(
            min(50.0, max(trip.sea_c, trip.air_c or trip.sea_c)), "gutted" in state.facts.split()
        ),
        body=way.body,
        media=way.media,
    )


def sentence(cold: Cold) -> str:
    """The reason in one sentence."""
    thick, wide = (f"{part * 100:.1f} cm" for part in (cold.body.size_m, cold.body.across_m))
    shape = f"as a section of {thick} by {wide}"
    if cold.now.iced_after_h is None:
        return f"It has lain in the air since it was landed and cools {shape}: put it in ice."
    if cold.now.iced_after_h > 0.25:
        return f"It lay {cold.now.iced_after_h:.1f} h before it came into ice, and cools {shape}."
    return f"It went straight into ice, and cools {shape}."


def ice_since(trip: Trip) -> datetime:
    """The moment from which the ice aboard is known: it was seen, or came aboard."""
    seen = trips.ice_seen(trip.id)
    return seen.at if seen else trip.started_at

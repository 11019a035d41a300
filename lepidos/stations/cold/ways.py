"""How each fish has lain: from the sea through its media, with its probe readings."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np

from lepidos.core.catch.handling import STATES
from lepidos.core.cold.conduction import Medium
from lepidos.core.cold.cooling_body import CoolingBody, cooling_body
from lepidos.core.cold.probe_update import Assimilated, Reading, Spell, assimilate
from lepidos.core.cold.spoilage import Climate
from lepidos.core.cold.thermal_history import History, Stay, history, moments
from lepidos.core.schedule.boards import MAX_FISH
from lepidos.core.schedule.deadline import HORIZON_S
from lepidos.core.units import DAY_S, HOUR_S
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import facts_by_fish, round_weight, total_length_m
from lepidos.store.deck import looks
from lepidos.store.records import Fact, Fish, FishNow, Trip
from lepidos.store.records import Reading as ReadingRow
from lepidos.store.schedule import work

POINTS_NOW = 24  # enough for its end and its ice-days: within 0.3 % of a fine curve's
MAX_S = 14 * DAY_S  # a fish forgotten for longer is worth no more arithmetic
SHORTEST_S = 1.0
STEP_S = 60.0  # a core is shown as it was at the last full minute since landing, see `_step_s`
# The time ahead is looked at closely first: that is when a fish cools most.
AHEAD_S = (*moments(3 * HOUR_S, 900.0), *moments(HORIZON_S, 2 * HOUR_S)[2:])


@dataclass(frozen=True)
class Way:
    """A fish on its way from the sea through its media, up to now or to the end of its table."""

    body: CoolingBody
    start_c: float
    lasted_s: float
    spells: tuple[Spell, ...]
    media: tuple[str, ...]
    lies: str
    lying_now: Spell
    iced_s: float | None
    readings: tuple[Reading, ...]
    ice_life_days: float
    climate: Climate
    kg: float

    def assimilated(self, points: int) -> Assimilated:
        """The curve with its interval, probe readings taken in."""
        return assimilate(
            self.body, self.start_c, self.spells, self.readings, self._spacing(points)
        )

    def with_ahead(self) -> tuple[History, int]:
        """From landing, and on for a day as it lies now; and the index of the present."""
        *before, lying = self.spells or (self.lying_now,)
        if not self.readings:
            passed = moments(lying.seconds, self._spacing(POINTS_NOW)) if self.spells else ()
            # as it lies now, so it goes on: one stay up to now and from now on
            at = (*passed, *(lying.seconds + s for s in AHEAD_S))
            stays = [*(s.stay(0.0) for s in before), Stay(at[-1], lying.celsius, lying.h, at)]
            found = history(self.body, self.start_c, stays, self._spacing(POINTS_NOW))
            return found, len(found.seconds) - 1 - len(AHEAD_S)
        # from a probed core on: as a body that is of that temperature throughout, which is slow
        so_far = self.assimilated(POINTS_NOW)
        to_come = Stay(HORIZON_S, lying.celsius, lying.h, AHEAD_S)
        ahead = history(self.body, so_far.celsius[-1], [to_come])
        both = (
            (so_far.seconds, ahead.seconds[1:] + so_far.seconds[-1]),
            (so_far.celsius, ahead.core[1:]),
            (so_far.mean, ahead.mean[1:]),
        )
        return History(*(np.concatenate(parts) for parts in both)), len(so_far.seconds) - 1

    def _spacing(self, points: int) -> float:
        return max(60.0, self.lasted_s / points)


def ways_of(
    ctx: AppContext, trip: Trip, rows: Sequence[tuple[Fish, FishNow]]
) -> list[tuple[Fish, Way]]:
    """How each fish lay since it was landed. In an open transaction.

    Kept fish by fish: what is done to one leaves the others as they were.
    """
    facts = facts_by_fish(ctx, trip.id)
    readings = looks.readings_of_trip(trip.id)
    now = ctx.clock()
    air_c = trip.air_c if trip.air_c is not None else ctx.guide.media["open_air"].celsius
    around = (float(air_c), float(trip.sea_c or 0.0))
    ways = []
    for fish, state in rows:
        done, probed = tuple(facts.get(fish.id, ())), tuple(readings.get(fish.id, ()))
        lasted_s = _lasted_s(fish, done, now)
        way = ctx.memo.get(
            ("way of a fish", fish, state, done, probed, lasted_s, *around, ctx.guide.edition),
            lambda f=fish, s=state, d=done, p=probed, t=lasted_s: _way(ctx, f, s, d, p, t, *around),  # type: ignore[misc]
            most=2 * MAX_FISH,
        )
        ways.append((fish, way))
    return ways


def _lasted_s(fish: Fish, facts: Sequence[Fact], now: datetime) -> float:
    """For how long its cold is followed: to its end, or till now as coarsely as that may be."""
    ended = work.closed_at(list(facts))
    lasted_s = min(MAX_S, max(0.0, ((ended or now) - fish.landed_at).total_seconds()))
    if ended is None:
        moved_s = max((s for s, _ in _moves(fish, facts, lasted_s)), default=0.0)
        lasted_s -= lasted_s % _step_s(lasted_s - moved_s)
    return lasted_s


def _way(
    ctx: AppContext,
    fish: Fish,
    state: FishNow,
    facts: Sequence[Fact],
    probed: Sequence[ReadingRow],
    lasted_s: float,
    air_c: float,
    sea_c: float,
) -> Way:
    moves = _moves(fish, facts, lasted_s)
    species = ctx.guide.one(fish.species)
    kg = round_weight(state, species).kg
    spells, media = _spells(ctx.guide.media, moves, lasted_s, air_c)
    lying = STATES[moves[-1][1]].medium if moves else "open_air"
    return Way(
        body=cooling_body(ctx.guide.body_of(species), total_length_m(state, species), kg),
        start_c=sea_c,
        lasted_s=sum(s.seconds for s in spells),
        spells=spells,
        media=media,
        lies=moves[-1][1] if moves else "",
        lying_now=_spell(ctx.guide.media[lying], 0.0),
        iced_s=next((s for s, k in moves if STATES[k].medium != "open_air"), None),
        readings=_readings(fish, probed, spells),
        ice_life_days=species.ice_life.mean,
        climate=species.climate,
        kg=kg,
    )


def _step_s(lies_s: float) -> float:
    """How coarse "now" may be for a fish that lies where it lies since so long: whole minutes.

    A core on its way down as C·T·exp(-x) falls by C·T/(60·e) at most in a 60th of the time passed,
    0.15 K from 15 °C with C up to 1.6. Fish that nothing happens to then keep their answer longer.
    """
    return STEP_S * max(1.0, lies_s // HOUR_S)


def _moves(fish: Fish, facts: Sequence[Fact], lasted_s: float) -> list[tuple[float, str]]:
    """Seconds after landing and the state, for each time it came to lie in something else."""
    return [
        (min(lasted_s, max(0.0, (f.at - fish.landed_at).total_seconds())), f.name)
        for f in facts
        if f.kind == work.STATE and STATES[f.name].medium
    ]


def _spell(medium: Medium, seconds: float) -> Spell:
    return Spell(seconds, medium.celsius, medium.h, medium.h_low, medium.h_high)


def _spells(
    known: Mapping[str, Medium], moves: Sequence[tuple[float, str]], lasted_s: float, air_c: float
) -> tuple[tuple[Spell, ...], tuple[str, ...]]:
    steps = [(0.0, "open_air"), *((s, STATES[key].medium) for s, key in moves)]
    ends = [*(s for s, _ in steps[1:]), lasted_s]
    spells, media = [], []
    for (begin, key), end in zip(steps, ends, strict=True):
        if end - begin < SHORTEST_S:
            continue
        medium = known[key]
        celsius = air_c if key == "open_air" else medium.celsius
        spells.append(replace(_spell(medium, end - begin), celsius=celsius))
        media.append(key)
    return tuple(spells), tuple(media)


def _readings(
    fish: Fish, rows: Sequence[ReadingRow], spells: Sequence[Spell]
) -> tuple[Reading, ...]:
    total = sum(s.seconds for s in spells)
    return tuple(
        Reading(min(total, max(0.0, (r.at - fish.landed_at).total_seconds())), r.celsius)
        for r in rows
        if spells
    )

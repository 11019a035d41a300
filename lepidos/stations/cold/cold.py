"""The chain of cold of each fish: from the sea through whatever it lay in, worked out to now."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from lepidos.core.catch.handling import STATES
from lepidos.core.cold.conduction import MEDIA, CoolingBody, Floats, cooling_body
from lepidos.core.cold.ice_balance import FISH_KJ
from lepidos.core.cold.probe_update import Assimilated, Reading, Spell, assimilate
from lepidos.core.cold.spoilage import (
    HistamineClock,
    histamine_clock,
    hours_until_chilled_by,
)
from lepidos.core.cold.thermal_history import History, Stay, history, moments
from lepidos.core.schedule.deadline import HORIZON_S, Ahead
from lepidos.stations.base.context import House, state_of_order
from lepidos.stations.base.fish import facts_by_fish, landed, round_weight, total_length_m
from lepidos.stations.base.pressing import WAITS, waiting
from lepidos.store import fishes, trips
from lepidos.store.models import Fact, Fish, FishNow, Trip
from lepidos.store.models import Reading as ReadingRow

POINTS = 60  # of a curve that is drawn
POINTS_NOW = 24  # enough for its end and its ice-days: within 0.3 % of a fine curve's
LONGEST_S = 14 * 86_400.0  # a fish forgotten for longer is worth no more arithmetic
SHORTEST_S = 1.0
STEP_S = 60.0  # a core is shown as it was at the last full minute since landing, see `_step_s`
# The time ahead is looked at closely first: that is when a fish cools most.
AHEAD_S = (*moments(3 * 3600.0, 900.0), *moments(HORIZON_S, 2 * 3600.0)[2:])
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
    def life_used(self) -> float:
        """Share of the species' ice life that is used."""
        return self.ice_days / self.ice_life_days

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


@dataclass(frozen=True)
class _Way:
    """A fish on its way from the sea through its media, up to now or to the end of its table."""

    body: CoolingBody
    start_c: float
    lasted_s: float
    spells: tuple[Spell, ...]
    media: tuple[str, ...]
    lies: str
    iced_s: float | None
    readings: tuple[Reading, ...]
    ice_life_days: float
    kg: float

    def assimilated(self, points: int) -> Assimilated:
        """The curve with its interval, probe readings taken in."""
        return assimilate(
            self.body, self.start_c, self.spells, self.readings, self._spacing(points)
        )

    def with_ahead(self) -> tuple[History, int]:
        """From landing, and on for a day as it lies now; and the index of now."""
        *before, lying = self.spells or (self._lying_spell(),)
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

    def _lying_spell(self) -> Spell:
        """Of a fish that was only just landed."""
        medium = MEDIA[STATES[self.lies].medium if self.lies else "open_air"]
        return Spell(0.0, medium.celsius, medium.h, medium.h_low, medium.h_high)

    def _spacing(self, points: int) -> float:
        return max(60.0, self.lasted_s / points)


def cold_of_trip(house: House, trip: Trip) -> Mapping[str, ColdNow]:
    """By fish that stands; empty when the sea's temperature was not noted.

    Called inside an open transaction. Worked out once for each state of the file.
    """
    if trip.sea_c is None:
        return {}
    return house.memo.get(
        ("cold", trip.id, *state_of_order(house)), lambda: _cold_of_trip(house, trip)
    )


def _cold_of_trip(house: House, trip: Trip) -> dict[str, ColdNow]:
    since = ice_since(trip)
    return {
        fish.id: _now(house, way, (since - fish.landed_at).total_seconds())
        for fish, way in _ways(house, trip, _worked_out(house, trip))
    }


def _worked_out(house: House, trip: Trip) -> list[tuple[Fish, FishNow]]:
    """The fish whose cold is worked out: those in the order of work, and the finished."""
    done = [row for row in landed(house, trip.id) if row[1].stage not in WAITS]
    return [*waiting(house, trip.id), *done]


def _now(house: House, way: _Way, since_s: float) -> ColdNow:
    # a way is all that its cold depends on: a fish that nothing happened to keeps it for a minute
    return house.memo.get(("way", way, since_s), lambda: _work_out(way, since_s))


def _work_out(way: _Way, since_s: float) -> ColdNow:
    found, now = way.with_ahead()
    times, cores = found.seconds.tolist(), found.core.tolist()
    ahead = Ahead(tuple(times), tuple(cores), way.lasted_s, way.ice_life_days)
    means = found.mean[: now + 1]
    return ColdNow(
        core_c=cores[now],
        mean_c=float(means[-1]),
        lies=way.lies,
        iced_after_h=None if way.iced_s is None else way.iced_s / 3600,
        ice_days=ahead.used_days[now],
        ice_life_days=way.ice_life_days,
        kg=way.kg,
        melted_kj=_melted_kj(way, found.seconds[: now + 1], means, since_s),
        probed=bool(way.readings),
        ahead=ahead,
    )


def _melted_kj(way: _Way, times: Floats, means: Floats, since_s: float) -> float:
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


def cold_of_fish(house: House, trip: Trip, fish: Fish, state: FishNow) -> Cold | None:
    """One fish with its curves; None when it is finished or the sea's temperature is missing."""
    if trip.sea_c is None or state.stage not in {"slab", "table"}:
        return None
    ((_, way),) = _ways(house, trip, [(fish, state)])
    now = _now(house, way, (ice_since(trip) - fish.landed_at).total_seconds())
    if way.spells:
        taken = way.assimilated(POINTS)
    else:
        edge = (way.start_c,)
        taken = Assimilated((0.0,), edge, edge, edge, edge, ())
    forms = "histamine" in house.guide.one(fish.species).traits
    clock = histamine_clock(taken.seconds, taken.celsius) if forms and way.spells else None
    return Cold(
        now=now,
        low_c=taken.low[-1],
        high_c=taken.high[-1],
        hours=tuple(t / 3600 for t in taken.seconds),
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


def _ways(
    house: House, trip: Trip, rows: Sequence[tuple[Fish, FishNow]]
) -> list[tuple[Fish, _Way]]:
    facts = facts_by_fish(house, trip.id)
    readings = fishes.readings_of_trip(trip.id)
    now = house.clock()
    air_c = trip.air_c if trip.air_c is not None else MEDIA["open_air"].celsius
    ways = []
    for fish, state in rows:
        done = facts.get(fish.id, [])
        ended = next((f.at for f in done if f.name == fishes.CLOSED), None)
        lasted_s = min(LONGEST_S, max(0.0, ((ended or now) - fish.landed_at).total_seconds()))
        if ended is None:
            moved_s = max((s for s, _ in _moves(fish, done, lasted_s)), default=0.0)
            lasted_s -= lasted_s % _step_s(lasted_s - moved_s)
        moves = _moves(fish, done, lasted_s)
        species = house.guide.one(fish.species)
        kg = round_weight(state, species).kg
        spells, media = _spells(moves, lasted_s, float(air_c))
        ways.append(
            (
                fish,
                _Way(
                    body=cooling_body(
                        house.guide.body_of(species), total_length_m(state, species), kg
                    ),
                    start_c=float(trip.sea_c or 0.0),
                    lasted_s=sum(s.seconds for s in spells),
                    spells=spells,
                    media=media,
                    lies=moves[-1][1] if moves else "",
                    iced_s=next((s for s, k in moves if STATES[k].medium != "open_air"), None),
                    readings=_readings(fish, readings.get(fish.id, []), spells),
                    ice_life_days=species.ice_life.mean,
                    kg=kg,
                ),
            )
        )
    return ways


def _step_s(lies_s: float) -> float:
    """How coarse "now" may be for a fish that lies where it lies since so long: whole minutes.

    A core on its way down as C·T·exp(-x) falls by C·T/(60·e) at most in a 60th of the time passed,
    0.15 K from 15 °C with C up to 1.6. Fish that nothing happens to then keep their answer longer.
    """
    return STEP_S * max(1.0, lies_s // 3600)


def _moves(fish: Fish, facts: Sequence[Fact], lasted_s: float) -> list[tuple[float, str]]:
    """Seconds after landing and the state, for each time it came to lie in something else."""
    return [
        (min(lasted_s, max(0.0, (f.at - fish.landed_at).total_seconds())), f.name)
        for f in facts
        if f.name in STATES and STATES[f.name].medium
    ]


def _spells(
    moves: Sequence[tuple[float, str]], lasted_s: float, air_c: float
) -> tuple[tuple[Spell, ...], tuple[str, ...]]:
    steps = [(0.0, "open_air"), *((s, STATES[key].medium) for s, key in moves)]
    ends = [*(s for s, _ in steps[1:]), lasted_s]
    spells, media = [], []
    for (begin, key), end in zip(steps, ends, strict=True):
        if end - begin < SHORTEST_S:
            continue
        medium = MEDIA[key]
        celsius = air_c if key == "open_air" else medium.celsius
        spells.append(Spell(end - begin, celsius, medium.h, medium.h_low, medium.h_high))
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


def sentence(cold: Cold) -> str:
    """The reason in one sentence."""
    thick = f"{cold.body.size_m * 100:.1f} cm thick"
    shape = f"as a {'slab' if cold.body.shape == 'slab' else 'cylinder'} {thick}"
    if cold.now.iced_after_h is None:
        return f"It has lain in the air since it was landed and cools {shape}: put it in ice."
    if cold.now.iced_after_h > 0.25:
        return f"It lay {cold.now.iced_after_h:.1f} h before it came into ice, and cools {shape}."
    return f"It went straight into ice, and cools {shape}."


def ice_since(trip: Trip) -> datetime:
    """The moment from which the ice aboard is known: it was seen, or came aboard."""
    seen = trips.ice_seen(trip.id)
    return seen.at if seen else trip.started_at

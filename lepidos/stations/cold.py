"""The chain of cold of each fish: from the sea over the deck into the ice, worked out to now."""

from collections.abc import Mapping
from dataclasses import dataclass

from lepidos.core.chill import MEDIA, CoolingBody, Stay, cooling_body, core_history
from lepidos.core.ice import ice_to_cool
from lepidos.core.spoilage import HistamineClock, histamine_clock, ice_days
from lepidos.stations.fish import round_weight, total_length_m
from lepidos.stations.house import House
from lepidos.store import fishes
from lepidos.store.models import Fish, FishNow, Trip

POINTS = 60  # of a curve that is drawn
POINTS_NOW = 24  # enough for its end and its ice-days: within 0.3 % of a fine curve's
LONGEST_S = 14 * 86_400.0  # a fish forgotten for longer is worth no more arithmetic
SHORTEST_S = 1.0


@dataclass(frozen=True)
class ColdNow:
    """How cold a fish is at its core now [°C], and what of its life on ice is used.

    `iced_after_h` is None when it never came into ice.
    """

    core_c: float
    iced_after_h: float | None
    ice_days: float
    ice_life_days: float

    @property
    def life_used(self) -> float:
        """Share of the species' ice life that is used."""
        return self.ice_days / self.ice_life_days


@dataclass(frozen=True)
class Cold(ColdNow):
    """The same with its curves from landing to now, and the interval that ice and air leave."""

    low_c: float
    high_c: float
    hours: tuple[float, ...]
    curve_c: tuple[float, ...]
    low_curve_c: tuple[float, ...]
    high_curve_c: tuple[float, ...]
    histamine: HistamineClock | None
    body: CoolingBody


@dataclass(frozen=True)
class _Way:
    """A fish on its way from the sea into the ice."""

    body: CoolingBody
    start_c: float
    air_c: float
    lasted_s: float
    iced_s: float | None
    ice_life_days: float

    @property
    def iced_after_h(self) -> float | None:
        return None if self.iced_s is None else self.iced_s / 3600

    def curve(self, which: str, points: int) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """Times [s] and core temperatures [°C] for h, h_low or h_high of the media."""
        ice, air = MEDIA["drained_ice"], MEDIA["open_air"]
        warm_s = self.lasted_s if self.iced_s is None else self.iced_s
        stays = []
        if warm_s >= SHORTEST_S:
            stays.append(Stay(warm_s, self.air_c, getattr(air, which)))
        if self.lasted_s - warm_s >= SHORTEST_S:
            stays.append(Stay(self.lasted_s - warm_s, ice.celsius, getattr(ice, which)))
        if not stays:
            return (0.0,), (self.start_c,)
        every_s = max(60.0, self.lasted_s / points)
        times, cores = core_history(self.body, self.start_c, stays, every_s)
        return tuple(times.tolist()), tuple(cores.tolist())


def cold_of_trip(house: House, trip: Trip, rows: list[tuple[Fish, FishNow]]) -> dict[str, ColdNow]:
    """By fish that is not finished; empty when the sea's temperature was not noted.

    Called inside an open transaction.
    """
    found = {}
    for fish_id, way in _ways(house, trip, rows).items():
        times, cores = way.curve("h", POINTS_NOW)
        used = ice_days(times, cores) if len(times) > 1 else 0.0
        found[fish_id] = ColdNow(cores[-1], way.iced_after_h, used, way.ice_life_days)
    return found


def cold_of_fish(house: House, trip: Trip, fish: Fish, state: FishNow) -> Cold | None:
    """One fish with its curves; None when it is finished or the sea's temperature is missing."""
    way = _ways(house, trip, [(fish, state)]).get(fish.id)
    if way is None:
        return None
    curves = [way.curve(which, POINTS) for which in ("h", "h_low", "h_high")]
    times, middle = curves[0]
    # more transfer is colder in ice and warmer in warm air, so the range is sorted point by point
    low = tuple(min(c[1][i] for c in curves) for i in range(len(times)))
    high = tuple(max(c[1][i] for c in curves) for i in range(len(times)))
    spans = len(times) > 1
    forms_histamine = "histamine" in house.guide.one(fish.species).traits
    return Cold(
        core_c=middle[-1],
        iced_after_h=way.iced_after_h,
        ice_days=ice_days(times, middle) if spans else 0.0,
        ice_life_days=way.ice_life_days,
        low_c=low[-1],
        high_c=high[-1],
        hours=tuple(t / 3600 for t in times),
        curve_c=middle,
        low_curve_c=low,
        high_curve_c=high,
        histamine=histamine_clock(times, middle) if spans and forms_histamine else None,
        body=way.body,
    )


def ice_needed_kg(
    house: House, rows: list[tuple[Fish, FishNow]], cold: Mapping[str, ColdNow]
) -> float:
    """Ice that takes the waiting fish from their cores' temperatures to 0 °C [kg]."""
    return sum(
        ice_to_cool(
            round_weight(state, house.guide.one(state.species)).kg, max(0.0, cold[fish.id].core_c)
        )
        for fish, state in rows
        if fish.id in cold
    )


def _ways(house: House, trip: Trip, rows: list[tuple[Fish, FishNow]]) -> dict[str, _Way]:
    if trip.sea_c is None:
        return {}
    iced, now = fishes.facts_of_trip(trip.id, "iced"), house.clock()
    air_c = trip.air_c if trip.air_c is not None else MEDIA["open_air"].celsius
    ways = {}
    for fish, state in rows:
        if state.stage not in {"slab", "table"}:
            continue
        species = house.guide.one(fish.species)
        body = cooling_body(
            house.guide.body_of(species),
            total_length_m(state, species),
            round_weight(state, species).kg,
        )
        lasted_s = min(LONGEST_S, max(0.0, (now - fish.landed_at).total_seconds()))
        iced_s = None
        if fish.id in iced:
            after_s = (iced[fish.id] - fish.landed_at).total_seconds()
            iced_s = min(lasted_s, max(0.0, after_s))
        ways[fish.id] = _Way(
            body, float(trip.sea_c), float(air_c), lasted_s, iced_s, species.ice_life.mean
        )
    return ways


def sentence(cold: Cold) -> str:
    """The reason in one sentence."""
    thick = f"{cold.body.size_m * 100:.1f} cm thick"
    shape = f"as a {'slab' if cold.body.shape == 'slab' else 'cylinder'} {thick}"
    if cold.iced_after_h is None:
        return f"It has lain in the air since it was landed and cools {shape}: put it in ice."
    if cold.iced_after_h > 0.25:
        return f"It lay {cold.iced_after_h:.1f} h before it came into ice, and cools {shape}."
    return f"It went straight into ice, and cools {shape}."

"""The chain of cold of each fish: from the sea over the deck into the ice, worked out to now."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import cast

from lepidos.core.chill import MEDIA, CoolingBody, Stay, cooling_body, core_history
from lepidos.core.ice import ice_to_cool
from lepidos.core.spoilage import HistamineClock, histamine_clock, ice_days
from lepidos.stations.fish import round_weight, total_length_m
from lepidos.stations.house import House
from lepidos.store import fishes
from lepidos.store.models import Fish, FishNow, Trip

POINTS = 60  # of a curve; the core moves slowly
LONGEST_S = 14 * 86_400.0  # a fish forgotten for longer is worth no more arithmetic
SHORTEST_S = 1.0


@dataclass(frozen=True)
class Cold:
    """How cold a fish is at its core now [°C], with the interval that the ice's own range gives.

    `hours` and the curves run from landing to now. `iced_after_h` is None when it never was.
    """

    core_c: float
    low_c: float
    high_c: float
    hours: tuple[float, ...]
    curve_c: tuple[float, ...]
    low_curve_c: tuple[float, ...]
    high_curve_c: tuple[float, ...]
    iced_after_h: float | None
    ice_days: float
    ice_life_days: float
    histamine: HistamineClock | None
    body: CoolingBody

    @property
    def life_used(self) -> float:
        """Share of the species' ice life that is used."""
        return self.ice_days / self.ice_life_days


def cold_of_trip(house: House, trip: Trip, rows: list[tuple[Fish, FishNow]]) -> dict[str, Cold]:
    """By fish that is not finished; empty when the sea's temperature was not noted.

    Called inside an open transaction.
    """
    if trip.sea_c is None:
        return {}
    iced = fishes.facts_of_trip(trip.id, "iced")
    now = house.clock()
    return {
        fish.id: _cold(house, trip, fish, state, iced, now)
        for fish, state in rows
        if state.stage in {"slab", "table"}
    }


def ice_needed_kg(
    house: House, rows: list[tuple[Fish, FishNow]], cold: Mapping[str, Cold]
) -> float:
    """Ice that takes the waiting fish from their cores' temperatures to 0 °C [kg]."""
    return sum(
        ice_to_cool(
            round_weight(state, house.guide.one(state.species)).kg, max(0.0, cold[fish.id].core_c)
        )
        for fish, state in rows
        if fish.id in cold
    )


def _cold(
    house: House,
    trip: Trip,
    fish: Fish,
    state: FishNow,
    iced: Mapping[str, datetime],
    now: datetime,
) -> Cold:
    species = house.guide.one(fish.species)
    body = cooling_body(
        house.guide.body_of(species),
        total_length_m(state, species),
        round_weight(state, species).kg,
    )
    lasted = min(LONGEST_S, (now - fish.landed_at).total_seconds())
    iced_s = None
    if fish.id in iced:
        iced_s = min(lasted, max(0.0, (iced[fish.id] - fish.landed_at).total_seconds()))
    start_c = cast(float, trip.sea_c)
    air_c = trip.air_c if trip.air_c is not None else MEDIA["open_air"].celsius
    curves = [
        _curve(body, start_c, air_c, lasted, iced_s, which) for which in ("h", "h_low", "h_high")
    ]
    times, middle = curves[0]
    # more transfer is colder in ice and warmer in warm air, so the range is sorted point by point
    low = tuple(min(c[1][i] for c in curves) for i in range(len(times)))
    high = tuple(max(c[1][i] for c in curves) for i in range(len(times)))
    spans = len(times) > 1
    forms_histamine = "histamine" in species.traits
    return Cold(
        core_c=middle[-1],
        low_c=low[-1],
        high_c=high[-1],
        hours=tuple(t / 3600 for t in times),
        curve_c=middle,
        low_curve_c=low,
        high_curve_c=high,
        iced_after_h=None if iced_s is None else iced_s / 3600,
        ice_days=ice_days(times, middle) if spans else 0.0,
        ice_life_days=species.ice_life.mean,
        histamine=histamine_clock(times, middle) if spans and forms_histamine else None,
        body=body,
    )


def _curve(
    body: CoolingBody,
    start_c: float,
    air_c: float,
    lasted: float,
    iced_s: float | None,
    which: str,
) -> tuple[tuple[float, ...], tuple[float, ...]]:
    ice, air = MEDIA["drained_ice"], MEDIA["open_air"]
    warm_s = lasted if iced_s is None else iced_s
    stays = []
    if warm_s >= SHORTEST_S:
        stays.append(Stay(warm_s, air_c, getattr(air, which)))
    if lasted - warm_s >= SHORTEST_S:
        stays.append(Stay(lasted - warm_s, ice.celsius, getattr(ice, which)))
    if not stays:
        return (0.0,), (start_c,)
    times, cores = core_history(body, start_c, stays, max(60.0, lasted / POINTS))
    return tuple(times.tolist()), tuple(cores.tolist())


def sentence(cold: Cold) -> str:
    """The reason in one sentence."""
    thick = f"{cold.body.size_m * 100:.1f} cm thick"
    shape = f"as a {'slab' if cold.body.shape == 'slab' else 'cylinder'} {thick}"
    if cold.iced_after_h is None:
        return f"It has lain in the air since it was landed and cools {shape}: put it in ice."
    if cold.iced_after_h > 0.25:
        return f"It lay {cold.iced_after_h:.1f} h before it came into ice, and cools {shape}."
    return f"It went straight into ice, and cools {shape}."

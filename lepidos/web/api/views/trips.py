"""Trips and the numbers of their header, as the API shows them."""

from datetime import date

from lepidos.stations.header.header import Header
from lepidos.stations.trips.trips import TripView
from lepidos.store.records import Trip
from lepidos.web.api.shapes import Instant, Out


class TripOut(Out):
    """A trip."""

    id: str
    name: str
    kind: str
    harbour: str
    on_date: date
    timezone: str
    sea_c: float | None
    air_c: float | None
    ice_kg: float | None


class TripsOut(Out):
    """Trips, newest first."""

    total: int
    trips: list[TripOut]


class NamedOut(Out):
    """A person or a party."""

    id: str
    name: str


class GaugesOut(Out):
    """The header's numbers. `waits`: fish by what they wait for; `last`: what happened last."""

    fish_left: int
    fish_landed: int
    round_kg: float
    round_all_measured: bool
    packed_kg: float
    bags: int
    waits: dict[str, int]
    ice_left_kg: float | None
    ice_needed_kg: float | None
    clears_at: Instant | None
    last: str


class TripViewOut(TripOut):
    """A trip with people, parties and the numbers of the header."""

    people: list[NamedOut]
    parties: list[NamedOut]
    gauges: GaugesOut


def trip(row: Trip) -> TripOut:
    """A trip."""
    return TripOut(
        id=row.id,
        name=row.name,
        kind=row.origin,
        harbour=row.harbour,
        on_date=row.on_date,
        timezone=row.timezone,
        sea_c=row.sea_c,
        air_c=row.air_c,
        ice_kg=row.ice_kg,
    )


def trip_view(view: TripView, g: Header) -> TripViewOut:
    """A trip with people, parties and the numbers of the header."""
    return TripViewOut(
        **dict(trip(view.trip)),
        people=[NamedOut.model_validate(p) for p in view.people],
        parties=[NamedOut.model_validate(p) for p in view.parties],
        gauges=GaugesOut.model_validate(g),
    )

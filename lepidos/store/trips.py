"""Trips, who was aboard, and the parties."""

from datetime import date, datetime

from peewee import SQL

from lepidos.core.errors import Unknown
from lepidos.store import entries
from lepidos.store.ids import IdMaker
from lepidos.store.models import IceNote, Party, Person, Trip
from lepidos.store.ready import Ready
from lepidos.store.rows import find, save

_TRIP: Ready[Trip] = Ready(lambda trip: Trip.select().where(Trip.id == trip))
_PEOPLE: Ready[Person] = Ready(
    lambda trip: Person.select().where(Person.trip == trip).order_by(Person.id)
)
_PARTIES: Ready[Party] = Ready(
    lambda trip: Party.select().where(Party.trip == trip).order_by(Party.id)
)


def add(
    ids: IdMaker,
    *,
    name: str,
    kind: str,
    harbour: str,
    on_date: date,
    timezone: str,
    people: tuple[str, ...],
    parties: tuple[str, ...],
    sea_c: float | None,
    air_c: float | None,
    ice_kg: float | None,
    at: datetime,
    **more: object,
) -> Trip:
    """A new trip with its people and parties."""
    trip = Trip.create(
        id=ids.new(at),
        name=name,
        kind=kind,
        harbour=harbour,
        on_date=on_date,
        timezone=timezone,
        started_at=at,
        sea_c=sea_c,
        air_c=air_c,
        ice_kg=ice_kg,
        force_insert=True,
        **more,
    )
    for person in people:
        Person.create(id=ids.new(at), trip=trip.id, name=person, force_insert=True)
    for party in parties:
        Party.create(id=ids.new(at), trip=trip.id, name=party, force_insert=True)
    return trip


def get(trip_id: str) -> Trip:
    """Raises Unknown."""
    trip = _TRIP.first(trip_id)
    if trip is None:
        raise Unknown("trip", trip_id)
    return trip


def latest() -> Trip | None:
    """The newest trip, if there is one."""
    return Trip.select().order_by(Trip.on_date.desc(), Trip.id.desc()).first()


def newest(limit: int, skip: int = 0) -> list[Trip]:
    """Trips, newest first."""
    return list(
        Trip.select().order_by(Trip.on_date.desc(), Trip.id.desc()).limit(limit).offset(skip)
    )


def count() -> int:
    """How many trips there are."""
    return Trip.select().count()


def change(trip: Trip, **values: object) -> None:
    """Write new settings into a trip."""
    save(trip, values)


def change_party(party: Party, **values: object) -> None:
    """Write when a party leaves, and whether its fish are cut in one go."""
    save(party, values)


def people_of(trip_id: str) -> list[Person]:
    """Who was aboard, in the order they were named."""
    return _PEOPLE(trip_id)


def parties_of(trip_id: str) -> list[Party]:
    """The parties, in the order they were named."""
    return _PARTIES(trip_id)


def party(party_id: str) -> Party:
    """Raises Unknown."""
    row = Party.get_or_none(Party.id == party_id)
    if row is None:
        raise Unknown("party", party_id)
    return row


def note_ice(ids: IdMaker, at: datetime, trip_id: str, kg: float) -> IceNote:
    """Ice that someone saw aboard."""
    return IceNote.create(id=ids.new(at), trip=trip_id, kg=kg, at=at, force_insert=True)


def ice_note(note_id: str) -> IceNote:
    """A note of ice, taken back or not. Raises Unknown."""
    return find(IceNote, note_id, "note of ice")


def ice_seen(trip_id: str) -> IceNote | None:
    """The last ice that was seen and not taken back."""
    rows = IceNote.select().where(IceNote.trip == trip_id)
    rows = rows.order_by(SQL("rowid").desc()).limit(20)
    return next((row for row in rows if not entries.is_undone(row.id)), None)


def of_same_people(trip_id: str, since: date) -> list[Trip]:
    """Other trips since a date, for counts that go over several days."""
    rows = Trip.select().where(Trip.id != trip_id, Trip.on_date >= since)
    return list(rows.order_by(Trip.on_date))

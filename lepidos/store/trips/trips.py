"""Trips, who was aboard, and the parties."""

from datetime import date, datetime

from peewee import fn

from lepidos.core.errors import Unknown
from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import change as change_row
from lepidos.store.base.rows import find, first, read
from lepidos.store.schema.entries import UndoTable
from lepidos.store.schema.trips import IceNoteTable, PartyTable, PersonTable, TripTable

_TRIP: Ready[records.Trip] = Ready(lambda trip: TripTable.select().where(TripTable.id == trip))
_PEOPLE: Ready[records.Person] = Ready(
    lambda trip: PersonTable.select().where(PersonTable.trip == trip).order_by(PersonTable.id)
)
_PARTIES: Ready[records.Party] = Ready(
    lambda trip: PartyTable.select().where(PartyTable.trip == trip).order_by(PartyTable.id)
)

_ICE_SEEN: Ready[records.IceNote] = Ready(
    lambda trip: (
        IceNoteTable.select()
        .where(
            IceNoteTable.trip == trip,
            ~fn.EXISTS(UndoTable.select().where(UndoTable.target_id == IceNoteTable.id)),
        )
        .order_by(IceNoteTable.id.desc())
        .limit(1)
    )
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
) -> records.Trip:
    """A new trip with its people and parties."""
    trip = add_row(
        TripTable,
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
        **more,
    )
    for person in people:
        add_row(PersonTable, id=ids.new(at), trip=trip.id, name=person)
    for party in parties:
        add_row(PartyTable, id=ids.new(at), trip=trip.id, name=party)
    return trip


def get(trip_id: str) -> records.Trip:
    """Raises Unknown."""
    trip = _TRIP.first(trip_id)
    if trip is None:
        raise Unknown("trip", trip_id)
    return trip


def latest() -> records.Trip | None:
    """The newest trip, if there is one."""
    found: records.Trip | None = first(
        TripTable.select().order_by(TripTable.on_date.desc(), TripTable.id.desc())
    )
    return found


def newest(limit: int, skip: int = 0) -> list[records.Trip]:
    """Trips, newest first."""
    return read(
        TripTable.select()
        .order_by(TripTable.on_date.desc(), TripTable.id.desc())
        .limit(limit)
        .offset(skip)
    )


def count() -> int:
    """How many trips there are."""
    return TripTable.select().count()


def change(trip: records.Trip, **values: object) -> records.Trip:
    """Write new settings into a trip."""
    found: records.Trip = change_row(TripTable, trip, **values)
    return found


def change_party(party: records.Party, **values: object) -> records.Party:
    """Write when a party leaves, and whether its fish are cut in one go."""
    found: records.Party = change_row(PartyTable, party, **values)
    return found


def people_of(trip_id: str) -> list[records.Person]:
    """Who was aboard, in the order they were named."""
    return _PEOPLE(trip_id)


def parties_of(trip_id: str) -> list[records.Party]:
    """The parties, in the order they were named."""
    return _PARTIES(trip_id)


def party(party_id: str) -> records.Party:
    """Raises Unknown."""
    found: records.Party = find(PartyTable, party_id, "party")
    return found


def note_ice(ids: IdMaker, at: datetime, trip_id: str, kg: float) -> records.IceNote:
    """Ice that someone saw aboard."""
    return add_row(IceNoteTable, id=ids.new(at), trip=trip_id, kg=kg, at=at)


def ice_note(note_id: str) -> records.IceNote:
    """A note of ice, undone or not. Raises Unknown."""
    found: records.IceNote = find(IceNoteTable, note_id, "note of ice")
    return found


def ice_seen(trip_id: str) -> records.IceNote | None:
    """The last ice that was seen and not undone."""
    return _ICE_SEEN.first(trip_id)


def other_trips_since(trip_id: str, since: date) -> list[records.Trip]:
    """Other trips since a date, for counts that go over several days."""
    rows = TripTable.select().where(TripTable.id != trip_id, TripTable.on_date >= since)
    return read(rows.order_by(TripTable.on_date))

"""A trip: who is aboard, the parties, the ice."""

from datetime import date, datetime
from typing import NamedTuple

from peewee import BooleanField, FloatField, ForeignKeyField, IntegerField, TextField

from lepidos.store.tables.base import Day, Instant, Row


class Trip(NamedTuple):
    """A day's fish. `kind` is boat or shore, `origin` says it more closely."""

    id: str
    name: str
    kind: str
    harbour: str
    on_date: date
    timezone: str
    started_at: datetime
    sea_c: float | None
    air_c: float | None
    ice_kg: float | None
    home_at: datetime | None
    box_w_per_k: float | None
    origin: str
    revision: int = 0


class TripTable(Row):
    record = Trip

    name = TextField()
    kind = TextField()
    harbour = TextField()
    on_date = Day()
    timezone = TextField()
    started_at = Instant()
    sea_c = FloatField(null=True)
    air_c = FloatField(null=True)
    ice_kg = FloatField(null=True)
    home_at = Instant(null=True)
    box_w_per_k = FloatField(null=True)
    origin = TextField(default="boat")
    revision = IntegerField(default=0)

    class Meta:
        table_name = "trip"


class Person(NamedTuple):
    """Someone aboard."""

    id: str
    trip_id: str
    name: str


class PersonTable(Row):
    record = Person

    trip = ForeignKeyField(TripTable, lazy_load=False)
    name = TextField()

    class Meta:
        table_name = "person"


class Party(NamedTuple):
    """Those who share fish; `together` asks for their fish to be cut in one go."""

    id: str
    trip_id: str
    name: str
    leaves_at: datetime | None
    together: bool
    revision: int = 0


class PartyTable(Row):
    record = Party

    trip = ForeignKeyField(TripTable, lazy_load=False)
    name = TextField()
    leaves_at = Instant(null=True)
    together = BooleanField(default=False)
    revision = IntegerField(default=0)

    class Meta:
        table_name = "party"


class IceNote(NamedTuple):
    """Ice that someone saw aboard [kg]."""

    id: str
    trip_id: str
    kg: float
    at: datetime


class IceNoteTable(Row):
    record = IceNote

    trip = ForeignKeyField(TripTable, lazy_load=False)
    kg = FloatField()
    at = Instant()

    class Meta:
        table_name = "ice_note"

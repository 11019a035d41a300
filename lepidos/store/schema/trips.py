"""A trip: who is aboard, the parties, the ice."""

from typing import NamedTuple

from peewee import BooleanField, FloatField, ForeignKeyField, IntegerField, TextField

from lepidos.store.schema.base import Day, Instant, Row
from lepidos.store.schema.kinds import (
    Celsius,
    Date,
    Flag,
    Key,
    Moment,
    Name,
    PieceKg,
    Revision,
    WattsPerKelvin,
    Word,
)


class Trip(NamedTuple):
    """A day's fish. `kind` is boat or shore, `origin` says it more closely."""

    id: Key
    name: Name
    kind: Word
    harbour: Name
    on_date: Date
    timezone: Word
    started_at: Moment
    sea_c: Celsius | None
    air_c: Celsius | None
    ice_kg: PieceKg | None
    home_at: Moment | None
    box_w_per_k: WattsPerKelvin | None
    origin: Word
    revision: Revision = 0


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

    id: Key
    trip_id: Key
    name: Name


class PersonTable(Row):
    record = Person

    trip = ForeignKeyField(TripTable, lazy_load=False)
    name = TextField()

    class Meta:
        table_name = "person"


class Party(NamedTuple):
    """Those who share fish; `together` asks for their fish to be cut in one go."""

    id: Key
    trip_id: Key
    name: Name
    leaves_at: Moment | None
    together: Flag
    revision: Revision = 0


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

    id: Key
    trip_id: Key
    kg: PieceKg
    at: Moment


class IceNoteTable(Row):
    record = IceNote

    trip = ForeignKeyField(TripTable, lazy_load=False)
    kg = FloatField()
    at = Instant()

    class Meta:
        table_name = "ice_note"

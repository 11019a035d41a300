"""Freezer places, their logs, what was counted in them, and meals out of them."""

from typing import NamedTuple

from peewee import BlobField, FloatField, ForeignKeyField, IntegerField, TextField

from lepidos.store.schema.base import Instant, Row
from lepidos.store.schema.kinds import (
    Amount,
    Celsius,
    Codes,
    Count,
    DayNumber,
    Key,
    Moment,
    Name,
    Numbers,
    People,
    Readings,
    Word,
)


class Place(NamedTuple):
    """A place in a freezer."""

    id: Key
    name: Name


class PlaceTable(Row):
    record = Place

    name = TextField(unique=True)

    class Meta:
        table_name = "place"


class PlaceSaid(NamedTuple):
    """What a place is like: its temperature, litres inside (0: unknown), how it takes heat off.

    `within_id`: the place that it is a drawer or shelf of, if any. `kg_day`: what it freezes per
    day, as its plate says; 0: unknown.
    """

    id: Key
    place_id: Key
    celsius: Celsius
    litres: Amount
    cooling: Word
    at: Moment
    kind: Word
    within_id: Key | None
    kg_day: Amount


class PlaceSaidTable(Row):
    record = PlaceSaid

    place = ForeignKeyField(PlaceTable, lazy_load=False)
    celsius = FloatField()
    litres = FloatField()
    cooling = TextField()
    at = Instant()
    kind = TextField(default="freezer")
    within = ForeignKeyField(PlaceTable, null=True, lazy_load=False)
    kg_day = FloatField(default=0.0)

    class Meta:
        table_name = "place_said"


class TemperatureLog(NamedTuple):
    """Readings of a sensor in a place, taken in together."""

    id: Key
    place_id: Key
    name: Name
    first_at: Moment
    last_at: Moment
    readings: Readings
    at: Moment


class TemperatureLogTable(Row):
    record = TemperatureLog

    place = ForeignKeyField(PlaceTable, lazy_load=False)
    name = TextField()
    first_at = Instant()
    last_at = Instant()
    readings = IntegerField()
    at = Instant()

    class Meta:
        table_name = "temperature_log"


class TemperatureSlice(NamedTuple):
    """A day of a log: see the migration for its numbers."""

    id: Key
    log_id: Key
    day: DayNumber
    at_s: Numbers
    centi_c: Numbers


class TemperatureSliceTable(Row):
    record = TemperatureSlice

    log = ForeignKeyField(TemperatureLogTable, lazy_load=False)
    day = IntegerField()
    at_s = BlobField()
    centi_c = BlobField()

    class Meta:
        table_name = "temperature_slice"


class Stocktake(NamedTuple):
    """A place counted through: how many bags were seen; codes missing and strange, JSON lists."""

    id: Key
    place_id: Key
    seen: Count
    missing: Codes
    strange: Codes
    at: Moment


class StocktakeTable(Row):
    record = Stocktake

    place = ForeignKeyField(PlaceTable, lazy_load=False)
    seen = IntegerField()
    missing = TextField()
    strange = TextField()
    at = Instant()

    class Meta:
        table_name = "stocktake"


class Meal(NamedTuple):
    """A meal from the freezer: its bags' codes, a JSON list, and when to take them out."""

    id: Key
    eaten_at: Moment
    people: People
    purpose: Word
    thaw: Word
    codes: Codes
    out_at: Moment
    at: Moment


class MealTable(Row):
    record = Meal

    eaten_at = Instant()
    people = IntegerField()
    purpose = TextField()
    thaw = TextField()
    codes = TextField()
    out_at = Instant()
    at = Instant()

    class Meta:
        table_name = "meal"

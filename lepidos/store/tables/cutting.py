"""The cutting session: weighings, findings, by-product uses, forecasts."""

from datetime import datetime
from typing import NamedTuple

from peewee import FloatField, ForeignKeyField, IntegerField, TextField

from lepidos.store.tables.base import Instant, Row, Table
from lepidos.store.tables.fish import FishTable


class Weighing(NamedTuple):
    """A part of a fish on the scale [kg].

    `pan_kg` is what the display showed and `load_mark` which load that was; pieces weighed together
    share `joint` and carry an interval.
    """

    id: str
    fish_id: str
    piece: str
    side: str
    kg: float
    method: str
    at: datetime
    pan_kg: float | None
    load_mark: str
    joint: str
    low_kg: float | None
    high_kg: float | None


class WeighingTable(Row):
    record = Weighing

    fish = ForeignKeyField(FishTable, lazy_load=False)
    piece = TextField()
    side = TextField()
    kg = FloatField()
    method = TextField()
    at = Instant()
    pan_kg = FloatField(null=True)
    load_mark = TextField(default="")
    joint = TextField(default="")
    low_kg = FloatField(null=True)
    high_kg = FloatField(null=True)

    class Meta:
        table_name = "weighing"


class SightRow(NamedTuple):
    """Something that was seen on a fish: how many, and where.

    A spot has its piece and side, its place on the drawing in parts of total length (None: not
    touched there), and what was cut out [kg], which is "estimated" from its width or "weighed".
    """

    id: str
    fish_id: str
    what: str
    number: int
    place: str
    at: datetime
    piece: str
    side: str
    x: float | None
    y: float | None
    lost_kg: float
    lost_how: str


class SightRowTable(Row):
    record = SightRow

    fish = ForeignKeyField(FishTable, lazy_load=False)
    what = TextField()
    number = IntegerField()
    place = TextField()
    at = Instant()
    piece = TextField(default="")
    side = TextField(default="")
    x = FloatField(null=True)
    y = FloatField(null=True)
    lost_kg = FloatField(default=0.0)
    lost_how = TextField(default="")

    class Meta:
        table_name = "sight"


class FateRow(NamedTuple):
    """Where a piece of a fish goes."""

    id: str
    fish_id: str
    piece: str
    fate: str
    at: datetime


class FateRowTable(Row):
    record = FateRow

    fish = ForeignKeyField(FishTable, lazy_load=False)
    piece = TextField()
    fate = TextField()
    at = Instant()

    class Meta:
        table_name = "fate"


class Forecast(NamedTuple):
    """What a fish's fillets were to weigh, before its first cut [kg]."""

    fish_id: str
    species: str
    cutter: str
    skin: str
    level: float
    kg: float
    low_kg: float
    high_kg: float
    learned_from: int
    at: datetime


class ForecastTable(Table):
    record = Forecast

    fish = ForeignKeyField(FishTable, primary_key=True, lazy_load=False)
    species = TextField()
    cutter = TextField()
    skin = TextField()
    level = FloatField()
    kg = FloatField()
    low_kg = FloatField()
    high_kg = FloatField()
    learned_from = IntegerField()
    at = Instant()

    class Meta:
        table_name = "forecast"

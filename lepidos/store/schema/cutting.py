"""The cutting session: weighings, findings, by-product uses, forecasts."""

from typing import NamedTuple

from peewee import BooleanField, FloatField, ForeignKeyField, IntegerField, TextField

from lepidos.store.schema.base import Instant, Row, Table
from lepidos.store.schema.fish import FishTable
from lepidos.store.schema.kinds import (
    Count,
    Few,
    Flag,
    Key,
    Moment,
    Name,
    PieceKg,
    Place,
    Share,
    Side,
    Skin,
    Word,
)


class Weighing(NamedTuple):
    """A part of a fish on the scale [kg].

    `pan_kg` is what the display showed and `load_mark` which load that was; pieces weighed together
    share `joint` and carry an interval. One that is `rough` was taken before all was off that comes
    off: it stays as it is, and nothing is learned from it.
    """

    id: Key
    fish_id: Key
    piece: Word
    side: Side
    kg: PieceKg
    method: Word
    at: Moment
    pan_kg: PieceKg | None
    load_mark: Word
    joint: Word
    low_kg: PieceKg | None
    high_kg: PieceKg | None
    rough: Flag = False


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
    rough = BooleanField(default=False)

    class Meta:
        table_name = "weighing"


class SightRow(NamedTuple):
    """Something that was seen on a fish: how many, and where.

    A spot has its piece and side, its place on the drawing in parts of total length (None: not
    touched there), and what was cut out [kg], which is "estimated" from its width or "weighed".
    """

    id: Key
    fish_id: Key
    what: Word
    number: Few
    place: Name
    at: Moment
    piece: Word
    side: Side
    x: Place | None
    y: Place | None
    lost_kg: PieceKg
    lost_how: Word


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

    id: Key
    fish_id: Key
    piece: Word
    fate: Word
    at: Moment


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

    fish_id: Key
    species: Word
    cutter: Name
    skin: Skin
    level: Share
    kg: PieceKg
    low_kg: PieceKg
    high_kg: PieceKg
    learned_from: Count
    at: Moment


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

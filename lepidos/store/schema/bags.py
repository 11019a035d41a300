"""Bags, what is in them, and where they are."""

from typing import NamedTuple

from peewee import BooleanField, FloatField, ForeignKeyField, IntegerField, TextField

from lepidos.store.schema.base import Day, Instant, Row, Table
from lepidos.store.schema.cutting import WeighingTable
from lepidos.store.schema.kinds import (
    Action,
    BagSide,
    BagState,
    Count,
    Date,
    Few,
    Flag,
    Key,
    MarksOrNone,
    Metres,
    Moment,
    Name,
    PerBag,
    PieceKg,
    ServingKg,
    Servings,
    Share,
    Skin,
    Word,
)
from lepidos.store.schema.places import PlaceTable
from lepidos.store.schema.trips import PartyTable, TripTable


class Bag(NamedTuple):
    """A sealed bag. `measured` says whether its weight was taken or added up from portions.

    `width_m` and `length_m` are the empty bag's, `thick_m` how thick the fish lies in it; 0 where
    nobody said. `pack`: how it was closed.
    """

    id: Key
    code: Word
    trip_id: Key
    party_id: Key | None
    species: Word
    piece: Word
    tail: Flag
    skin: Skin
    kg: PieceKg
    measured: Flag
    caught_on: Date
    packed_on: Date
    best_by: Date
    sealed_at: Moment
    purpose: Word
    width_m: BagSide
    length_m: BagSide
    from_roll: Flag
    thick_m: BagSide
    pack: Word
    servings: Servings


class BagTable(Row):
    record = Bag

    code = TextField(unique=True)
    trip = ForeignKeyField(TripTable, lazy_load=False)
    party = ForeignKeyField(PartyTable, null=True, lazy_load=False)
    species = TextField()
    piece = TextField()
    tail = BooleanField()
    skin = TextField()
    kg = FloatField()
    measured = BooleanField()
    caught_on = Day()
    packed_on = Day()
    best_by = Day()
    sealed_at = Instant()
    purpose = TextField(default="")
    width_m = FloatField(default=0.0)
    length_m = FloatField(default=0.0)
    from_roll = BooleanField(default=False)
    thick_m = FloatField(default=0.0)
    pack = TextField(default="vacuum")
    servings = FloatField()

    class Meta:
        table_name = "bag"


class Portion(NamedTuple):
    """A stretch of a weighed piece, in a bag. `cuts`: all marks of that piece, a JSON list [m].

    `thick` of its portions are thick ones, counted from the head end; the rest is its tail.
    """

    id: Key
    bag_id: Key
    weighing_id: Key
    position: Few
    from_m: Metres
    to_m: Metres
    share: Share
    kg: PieceKg
    serving_kg: ServingKg
    length_m: Metres
    tail_apart: Flag
    per_bag: PerBag
    cuts: MarksOrNone
    thick: Few


class PortionTable(Row):
    record = Portion

    bag = ForeignKeyField(BagTable, lazy_load=False)
    weighing = ForeignKeyField(WeighingTable, lazy_load=False)
    position = IntegerField()
    from_m = FloatField()
    to_m = FloatField()
    share = FloatField()
    kg = FloatField()
    serving_kg = FloatField()
    length_m = FloatField()
    tail_apart = BooleanField()
    per_bag = IntegerField()
    cuts = TextField(default="")
    thick = IntegerField(default=0)

    class Meta:
        table_name = "portion"


class Move(NamedTuple):
    """A bag put in or taken out."""

    id: Key
    bag_id: Key
    action: Action
    place_id: Key | None
    why: Word
    at: Moment
    note: Name
    together: Word


class MoveTable(Row):
    record = Move

    bag = ForeignKeyField(BagTable, lazy_load=False)
    action = TextField()
    place = ForeignKeyField(PlaceTable, null=True, lazy_load=False)
    why = TextField(default="")
    at = Instant()
    note = TextField(default="")
    together = TextField(default="")

    class Meta:
        table_name = "move"


class BagNow(NamedTuple):
    """Where a bag is now, derived. `best_by` is the label's, less `lost_days` of warm spells.

    `raw_from`: when a log proved its raw hold; `why` it was taken out, "" while it is not.
    """

    bag_id: Key
    trip_id: Key
    state: BagState
    place_id: Key | None
    best_by: Date
    lost_days: Count
    raw_from: Moment | None
    why: Word = ""


class BagNowTable(Table):
    record = BagNow

    bag = ForeignKeyField(BagTable, primary_key=True, lazy_load=False)
    trip = ForeignKeyField(TripTable, lazy_load=False)
    state = TextField()
    place = ForeignKeyField(PlaceTable, null=True, lazy_load=False)
    best_by = Day()
    lost_days = IntegerField(default=0)
    raw_from = Instant(null=True)
    why = TextField(default="")

    class Meta:
        table_name = "bag_now"

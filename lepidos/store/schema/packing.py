"""How a trip's fish go into bags, what hands decided, the box of bags, and who gets what."""

from typing import NamedTuple

from peewee import BooleanField, FloatField, ForeignKeyField, IntegerField, TextField

from lepidos.store.schema.bags import BagTable
from lepidos.store.schema.base import Instant, Row
from lepidos.store.schema.cutting import WeighingTable
from lepidos.store.schema.kinds import (
    Amount,
    BagSide,
    Count,
    Few,
    Flag,
    Key,
    Marks,
    Metres,
    Moment,
    Name,
    PerBag,
    ServingKg,
    Shares,
    Word,
    Words,
)
from lepidos.store.schema.trips import PartyTable, TripTable


class BagRule(NamedTuple):
    """Servings of this weight, so many to a bag; of one party, or (None) of everybody."""

    id: Key
    trip_id: Key
    party_id: Key | None
    serving_kg: ServingKg
    per_bag: PerBag
    tail_apart: Flag
    at: Moment


class BagRuleTable(Row):
    record = BagRule

    trip = ForeignKeyField(TripTable, lazy_load=False)
    party = ForeignKeyField(PartyTable, null=True, lazy_load=False)
    serving_kg = FloatField()
    per_bag = IntegerField()
    tail_apart = BooleanField()
    at = Instant()

    class Meta:
        table_name = "bag_rule"


class PieceMark(NamedTuple):
    """Marks of one piece alone; `length_m` 0: as long as the body plan says.

    `cuts` is a JSON list of places [m from the head end]; empty: equal portions.
    """

    id: Key
    weighing_id: Key
    serving_kg: ServingKg
    per_bag: PerBag
    tail_apart: Flag
    length_m: Metres
    cuts: Marks
    at: Moment


class PieceMarkTable(Row):
    record = PieceMark

    weighing = ForeignKeyField(WeighingTable, lazy_load=False)
    serving_kg = FloatField()
    per_bag = IntegerField()
    tail_apart = BooleanField()
    length_m = FloatField()
    cuts = TextField()
    at = Instant()

    class Meta:
        table_name = "piece_mark"


class PartSaid(NamedTuple):
    """By hand, of a portion that is not sealed: what it lies together with, and for whom."""

    id: Key
    weighing_id: Key
    position: Few
    pin: Word
    party_id: Key | None
    at: Moment


class PartSaidTable(Row):
    record = PartSaid

    weighing = ForeignKeyField(WeighingTable, lazy_load=False)
    position = IntegerField()
    pin = TextField()
    party = ForeignKeyField(PartyTable, null=True, lazy_load=False)
    at = Instant()

    class Meta:
        table_name = "part_said"


class SupplyCount(NamedTuple):
    """What the box held of a size: bags, or metres of a roll (`length_m` 0)."""

    id: Key
    width_m: BagSide
    length_m: BagSide
    held: Amount
    at: Moment


class SupplyCountTable(Row):
    record = SupplyCount

    width_m = FloatField()
    length_m = FloatField()
    held = FloatField()
    at = Instant()

    class Meta:
        table_name = "supply_count"


class ShareRule(NamedTuple):
    """How a trip's bags are shared out; `shares` is a JSON object of whole numbers by party."""

    id: Key
    trip_id: Key
    how: Word
    shares: Shares
    at: Moment


class ShareRuleTable(Row):
    record = ShareRule

    trip = ForeignKeyField(TripTable, lazy_load=False)
    how = TextField()
    shares = TextField()
    at = Instant()

    class Meta:
        table_name = "share_rule"


class PartyWish(NamedTuple):
    """A note on a party's labels, and what it does not take: keys, with spaces between.

    Of one of its `guest`s by name, or ("") of all of it.
    """

    id: Key
    trip_id: Key
    party_id: Key
    guest: Name
    note: Name
    without: Words
    at: Moment


class PartyWishTable(Row):
    record = PartyWish

    trip = ForeignKeyField(TripTable, lazy_load=False)
    party = ForeignKeyField(PartyTable, lazy_load=False)
    guest = TextField(default="")
    note = TextField()
    without = TextField()
    at = Instant()

    class Meta:
        table_name = "party_wish"


class LabelPrint(NamedTuple):
    """A label that came out of the printer."""

    id: Key
    bag_id: Key
    at: Moment


class LabelPrintTable(Row):
    record = LabelPrint

    bag = ForeignKeyField(BagTable, lazy_load=False)
    at = Instant()

    class Meta:
        table_name = "label_print"


class LabelCount(NamedTuple):
    """Labels on the roll when somebody looked."""

    id: Key
    held: Count
    at: Moment


class LabelCountTable(Row):
    record = LabelCount

    held = IntegerField()
    at = Instant()

    class Meta:
        table_name = "label_count"

"""A fish: as described, what was measured, done and seen on deck, and what is true of it now."""

from typing import Literal, NamedTuple

from peewee import BooleanField, FloatField, ForeignKeyField, IntegerField, TextField

from lepidos.store.schema.base import Instant, Row, Table
from lepidos.store.schema.kinds import (
    Amount,
    Celsius,
    FactKind,
    FishKg,
    Flag,
    Key,
    KeyOrNone,
    LengthName,
    Metres,
    Moment,
    Name,
    Points,
    Quantity,
    Revision,
    Skin,
    Stage,
    Weights,
    Word,
    Words,
)
from lepidos.store.schema.trips import PartyTable, PersonTable, TripTable


class Fish(NamedTuple):
    """One fish, as described; what was measured on it is in other rows."""

    id: Key
    trip_id: Key
    code: Name
    species: Word
    party_id: Key | None
    caught_by_id: Key | None
    skin: Skin
    landed_at: Moment
    hooked_at: Moment | None
    revision: Revision = 0


class FishTable(Row):
    record = Fish

    trip = ForeignKeyField(TripTable, lazy_load=False)
    code = TextField()
    species = TextField()
    party = ForeignKeyField(PartyTable, null=True, lazy_load=False)
    caught_by = ForeignKeyField(PersonTable, null=True, column_name="caught_by", lazy_load=False)
    skin = TextField(default="on")
    landed_at = Instant()
    hooked_at = Instant(null=True)
    revision = IntegerField(default=0)

    class Meta:
        table_name = "fish"


class Measurement(NamedTuple):
    """A length [m], or a weight [kg] of a whole, gutted or headed fish, or its share of a weight of
    several ("shared").
    """

    id: Key
    fish_id: Key
    quantity: Quantity
    value: FishKg
    length_type: LengthName
    method: Word
    at: Moment


class MeasurementTable(Row):
    record = Measurement

    fish = ForeignKeyField(FishTable, lazy_load=False)
    quantity = TextField()
    value = FloatField()
    length_type = TextField(default="")
    method = TextField()
    at = Instant()

    class Meta:
        table_name = "measurement"


class Fact(NamedTuple):
    """Something that happened to a fish, and when.

    By kind, `name` is: of a "state" of handling its key; of a "step" of the plan its key; of a
    "board" that it came to the board's id; of an "answer" (it is so) the question's key; of "work"
    "paused", "resumed" or "closed"; of a "lot" the key that fish landed together share.
    """

    id: Key
    fish_id: Key
    name: Word
    at: Moment
    kind: FactKind


class FactTable(Row):
    record = Fact

    fish = ForeignKeyField(FishTable, lazy_load=False)
    name = TextField()
    at = Instant()
    kind = TextField()

    class Meta:
        table_name = "fact"


class Reading(NamedTuple):
    """What a probe showed at a fish's core [°C]."""

    id: Key
    fish_id: Key
    celsius: Celsius
    method: Word
    at: Moment


class ReadingTable(Row):
    record = Reading

    fish = ForeignKeyField(FishTable, lazy_load=False)
    celsius = FloatField()
    method = TextField()
    at = Instant()

    class Meta:
        table_name = "reading"


class Look(NamedTuple):
    """Demerit points given to a mark of a fish."""

    id: Key
    fish_id: Key
    mark: Word
    points: Points
    at: Moment


class LookTable(Row):
    record = Look

    fish = ForeignKeyField(FishTable, lazy_load=False)
    mark = TextField()
    points = IntegerField()
    at = Instant()

    class Meta:
        table_name = "look"


Doubt = Literal["", "rough", "eye"]


class FishNow(NamedTuple):
    """What is true of a fish now, derived: `facts` are its states, `steps` those ticked.

    `parts` is a JSON object, kg weighed by piece; `board_id` where it was cut, `seconds` for how
    long, once it is finished (None: nobody said); `doubt` says why nothing is learned from what it
    gave: a piece was weighed before it was trimmed ("rough") or judged by eye ("eye"); else "".
    `shared_kg` is its part of a weight of several; `length_about`: nobody measured it.
    """

    fish_id: Key
    trip_id: Key
    species: Word
    stage: Stage
    facts: Words
    length_m: Metres
    length_type: LengthName
    whole_kg: FishKg | None
    gutted_kg: FishKg | None
    weighed_kg: Amount
    fillet_kg: Amount
    steps: Words
    parts: Weights = "{}"
    board_id: KeyOrNone | None = None
    seconds: Amount | None = None
    doubt: Doubt = ""
    headed_kg: FishKg | None = None
    shared_kg: FishKg | None = None
    length_about: Flag = False


class FishNowTable(Table):
    record = FishNow

    fish = ForeignKeyField(FishTable, primary_key=True, lazy_load=False)
    trip = ForeignKeyField(TripTable, lazy_load=False)
    species = TextField()
    stage = TextField()
    facts = TextField()
    length_m = FloatField()
    length_type = TextField()
    whole_kg = FloatField(null=True)
    gutted_kg = FloatField(null=True)
    weighed_kg = FloatField()
    fillet_kg = FloatField()
    steps = TextField()
    parts = TextField(default="{}")
    board_id = TextField(null=True)
    seconds = FloatField(null=True)
    doubt = TextField(default="")
    headed_kg = FloatField(null=True)
    shared_kg = FloatField(null=True)
    length_about = BooleanField(default=False)

    class Meta:
        table_name = "fish_now"

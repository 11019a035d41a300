"""The tables as peewee models. The SQL in `migrations/` is what makes them; a test compares."""

from datetime import UTC, date, datetime

from peewee import BooleanField, Field, FloatField, ForeignKeyField, IntegerField, Model, TextField


class Instant(Field):
    """A moment: aware datetime outside, UTC ISO 8601 with milliseconds in the file."""

    field_type = "TEXT"

    def db_value(self, value: datetime | None) -> str | None:
        """To the file. A naive time is refused: nobody knows which zone it was in."""
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("a time without a zone cannot be stored")
        utc = value.astimezone(UTC)
        return utc.strftime("%Y-%m-%dT%H:%M:%S.") + f"{utc.microsecond // 1000:03d}Z"

    def python_value(self, value: str | None) -> datetime | None:
        """From the file."""
        return None if value is None else datetime.fromisoformat(value)


class Day(Field):
    """A calendar date as ISO 8601."""

    field_type = "TEXT"

    def db_value(self, value: date | None) -> str | None:
        """To the file."""
        return None if value is None else value.isoformat()

    def python_value(self, value: str | None) -> date | None:
        """From the file."""
        return None if value is None else date.fromisoformat(value)


class Row(Model):
    """Base: a ULID for a key."""

    id = TextField(primary_key=True)


class Trip(Row):
    """A day out, on a boat or from the shore."""

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


class Person(Row):
    """Someone aboard."""

    trip = ForeignKeyField(Trip, lazy_load=False)
    trip_id: str
    name = TextField()


class Party(Row):
    """Those who share fish; `together` asks for their fish to be cut in one go."""

    trip = ForeignKeyField(Trip, lazy_load=False)
    trip_id: str
    name = TextField()
    leaves_at = Instant(null=True)
    together = BooleanField(default=False)


class Fish(Row):
    """One fish, as described; what was measured on it is in other rows."""

    trip = ForeignKeyField(Trip, lazy_load=False)
    trip_id: str
    code = TextField()
    species = TextField()
    party = ForeignKeyField(Party, null=True, lazy_load=False)
    party_id: str | None
    caught_by = ForeignKeyField(Person, null=True, column_name="caught_by", lazy_load=False)
    caught_by_id: str | None
    skin = TextField(default="on")
    landed_at = Instant()
    hooked_at = Instant(null=True)


class Measurement(Row):
    """A length [m] or a weight [kg] of a whole or gutted fish."""

    fish = ForeignKeyField(Fish, lazy_load=False)
    fish_id: str
    quantity = TextField()
    value = FloatField()
    length_type = TextField(default="")
    method = TextField()
    at = Instant()


class Fact(Row):
    """Something that happened to a fish, and when.

    By kind, `name` is: of a "state" of handling its key; of a "step" of the plan its key; of a
    "board" that it came to the board's id; of an "answer" (it is so) the question's key; of "work"
    "paused", "resumed" or "closed".
    """

    fish = ForeignKeyField(Fish, lazy_load=False)
    fish_id: str
    name = TextField()
    at = Instant()
    kind = TextField()


class Reading(Row):
    """What a probe showed at a fish's core [°C]."""

    fish = ForeignKeyField(Fish, lazy_load=False)
    fish_id: str
    celsius = FloatField()
    method = TextField()
    at = Instant()


class Look(Row):
    """Demerit points given to a mark of a fish."""

    fish = ForeignKeyField(Fish, lazy_load=False)
    fish_id: str
    mark = TextField()
    points = IntegerField()
    at = Instant()


class IceNote(Row):
    """Ice that someone saw aboard [kg]."""

    trip = ForeignKeyField(Trip, lazy_load=False)
    trip_id: str
    kg = FloatField()
    at = Instant()

    class Meta:
        table_name = "ice_note"


class Board(Row):
    """A cutter's board on a trip, from when, with a break."""

    trip = ForeignKeyField(Trip, lazy_load=False)
    trip_id: str
    name = TextField()
    opens_at = Instant()
    break_from = Instant(null=True)
    break_to = Instant(null=True)
    closed = BooleanField(default=False)


class Hold(Model):
    """A fish that a person put at a place of a board's row."""

    fish = ForeignKeyField(Fish, primary_key=True, lazy_load=False)
    fish_id: str
    board = ForeignKeyField(Board, lazy_load=False)
    board_id: str
    position = IntegerField()


class RuleCardRow(Row):
    """A rule card as it was written down; seasons as "MM-DD"."""

    species = TextField()
    area = TextField()
    source = TextField()
    checked_on = Day()
    season_from = TextField(default="")
    season_to = TextField(default="")
    length_type = TextField()
    min_cm = FloatField(null=True)
    max_cm = FloatField(null=True)
    per_person = IntegerField(null=True)
    per_boat = IntegerField(null=True)
    possession = IntegerField(null=True)
    fillet_at_sea = TextField(default="")
    skin_patch = BooleanField(default=False)
    keep_carcass = BooleanField(default=False)
    note = TextField(default="")

    class Meta:
        table_name = "rule_card"


class OwnGuide(Row):
    """A species or a body plan of the crew's own, as TOML."""

    kind = TextField()
    key = TextField()
    toml = TextField()
    at = Instant()

    class Meta:
        table_name = "own_guide"


class Weighing(Row):
    """A part of a fish on the scale [kg].

    `pan_kg` is what the display showed and `load_mark` which load that was; pieces weighed together
    share `joint` and carry an interval.
    """

    fish = ForeignKeyField(Fish, lazy_load=False)
    fish_id: str
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


class SightRow(Row):
    """Something that was seen on a fish: how many, and where."""

    fish = ForeignKeyField(Fish, lazy_load=False)
    fish_id: str
    what = TextField()
    number = IntegerField()
    place = TextField()
    at = Instant()

    class Meta:
        table_name = "sight"


class FateRow(Row):
    """Where a piece of a fish goes."""

    fish = ForeignKeyField(Fish, lazy_load=False)
    fish_id: str
    piece = TextField()
    fate = TextField()
    at = Instant()

    class Meta:
        table_name = "fate"


class Forecast(Model):
    """What a fish's fillets were to weigh, before its first cut [kg]."""

    fish = ForeignKeyField(Fish, primary_key=True, lazy_load=False)
    fish_id: str
    species = TextField()
    cutter = TextField()
    skin = TextField()
    level = FloatField()
    kg = FloatField()
    low_kg = FloatField()
    high_kg = FloatField()
    learned_from = IntegerField()
    at = Instant()


class Undo(Row):
    """An earlier row undone."""

    kind = TextField()
    target_id = TextField(unique=True)
    at = Instant()


class Entry(Model):
    """One use case that changed something; `key` came with the request."""

    key = TextField(primary_key=True)
    action = TextField()
    digest = TextField()
    subject_kind = TextField()
    subject_id = TextField()
    sentence = TextField()
    question = TextField(default="")
    undoes = TextField(default="")
    at = Instant()


class FishNow(Model):
    """What is true of a fish now, derived: `facts` are its states, `steps` those ticked."""

    fish = ForeignKeyField(Fish, primary_key=True, lazy_load=False)
    fish_id: str
    trip = ForeignKeyField(Trip, lazy_load=False)
    trip_id: str
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

    class Meta:
        table_name = "fish_now"


class Bag(Row):
    """A sealed bag. `measured` says whether its weight was taken or added up from portions."""

    code = TextField(unique=True)
    trip = ForeignKeyField(Trip, lazy_load=False)
    trip_id: str
    party = ForeignKeyField(Party, null=True, lazy_load=False)
    party_id: str | None
    species = TextField()
    piece = TextField()
    tail = BooleanField()
    skin = TextField()
    servings = IntegerField()
    kg = FloatField()
    measured = BooleanField()
    caught_on = Day()
    packed_on = Day()
    best_by = Day()
    sealed_at = Instant()


class Portion(Row):
    """A stretch of a weighed piece, in a bag."""

    bag = ForeignKeyField(Bag, lazy_load=False)
    bag_id: str
    weighing = ForeignKeyField(Weighing, lazy_load=False)
    weighing_id: str
    position = IntegerField()
    from_m = FloatField()
    to_m = FloatField()
    share = FloatField()
    kg = FloatField()
    serving_kg = FloatField()
    length_m = FloatField()
    tail_apart = BooleanField()
    per_bag = IntegerField()


class Place(Row):
    """A place in a freezer."""

    name = TextField(unique=True)


class Move(Row):
    """A bag put in or taken out."""

    bag = ForeignKeyField(Bag, lazy_load=False)
    bag_id: str
    action = TextField()
    place = ForeignKeyField(Place, null=True, lazy_load=False)
    place_id: str | None
    why = TextField(default="")
    at = Instant()


class BagNow(Model):
    """Where a bag is now, derived."""

    bag = ForeignKeyField(Bag, primary_key=True, lazy_load=False)
    bag_id: str
    trip = ForeignKeyField(Trip, lazy_load=False)
    trip_id: str
    state = TextField()
    place = ForeignKeyField(Place, null=True, lazy_load=False)
    place_id: str | None
    best_by = Day()

    class Meta:
        table_name = "bag_now"


MODELS = [
    Trip, Person, Party, Fish, Measurement, Fact, Weighing, Undo, Entry, FishNow,
    Bag, Portion, Place, Move, BagNow,
    Reading, Look, IceNote, Board, Hold, RuleCardRow, OwnGuide,
    SightRow, FateRow, Forecast,
]  # fmt: skip

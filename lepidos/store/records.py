"""What the store hands out: one frozen record a row, with the names of its columns.

Nothing above the store can write to one; a change is asked for by the repository's functions,
which return the record as it is then. A test compares these with the tables.
"""

from datetime import date, datetime
from typing import NamedTuple


class Trip(NamedTuple):
    """A day out, on a boat or from the shore."""

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


class Person(NamedTuple):
    """Someone aboard."""

    id: str
    trip_id: str
    name: str


class Party(NamedTuple):
    """Those who share fish; `together` asks for their fish to be cut in one go."""

    id: str
    trip_id: str
    name: str
    leaves_at: datetime | None
    together: bool


class Fish(NamedTuple):
    """One fish, as described; what was measured on it is in other rows."""

    id: str
    trip_id: str
    code: str
    species: str
    party_id: str | None
    caught_by_id: str | None
    skin: str
    landed_at: datetime
    hooked_at: datetime | None


class Measurement(NamedTuple):
    """A length [m] or a weight [kg] of a whole or gutted fish."""

    id: str
    fish_id: str
    quantity: str
    value: float
    length_type: str
    method: str
    at: datetime


class Fact(NamedTuple):
    """Something that happened to a fish, and when.

    By kind, `name` is: of a "state" of handling its key; of a "step" of the plan its key; of a
    "board" that it came to the board's id; of an "answer" (it is so) the question's key; of "work"
    "paused", "resumed" or "closed".
    """

    id: str
    fish_id: str
    name: str
    at: datetime
    kind: str


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


class Undo(NamedTuple):
    """An earlier row undone."""

    id: str
    kind: str
    target_id: str
    at: datetime


class Entry(NamedTuple):
    """One use case that changed something; `key` came with the request."""

    key: str
    action: str
    digest: str
    subject_kind: str
    subject_id: str
    sentence: str
    question: str
    undoes: str
    at: datetime


class FishNow(NamedTuple):
    """What is true of a fish now, derived: `facts` are its states, `steps` those ticked."""

    fish_id: str
    trip_id: str
    species: str
    stage: str
    facts: str
    length_m: float
    length_type: str
    whole_kg: float | None
    gutted_kg: float | None
    weighed_kg: float
    fillet_kg: float
    steps: str


class Bag(NamedTuple):
    """A sealed bag. `measured` says whether its weight was taken or added up from portions."""

    id: str
    code: str
    trip_id: str
    party_id: str | None
    species: str
    piece: str
    tail: bool
    skin: str
    servings: int
    kg: float
    measured: bool
    caught_on: date
    packed_on: date
    best_by: date
    sealed_at: datetime


class Portion(NamedTuple):
    """A stretch of a weighed piece, in a bag."""

    id: str
    bag_id: str
    weighing_id: str
    position: int
    from_m: float
    to_m: float
    share: float
    kg: float
    serving_kg: float
    length_m: float
    tail_apart: bool
    per_bag: int


class Place(NamedTuple):
    """A place in a freezer."""

    id: str
    name: str


class Move(NamedTuple):
    """A bag put in or taken out."""

    id: str
    bag_id: str
    action: str
    place_id: str | None
    why: str
    at: datetime


class BagNow(NamedTuple):
    """Where a bag is now, derived."""

    bag_id: str
    trip_id: str
    state: str
    place_id: str | None
    best_by: date


class Reading(NamedTuple):
    """What a probe showed at a fish's core [°C]."""

    id: str
    fish_id: str
    celsius: float
    method: str
    at: datetime


class Look(NamedTuple):
    """Demerit points given to a mark of a fish."""

    id: str
    fish_id: str
    mark: str
    points: int
    at: datetime


class IceNote(NamedTuple):
    """Ice that someone saw aboard [kg]."""

    id: str
    trip_id: str
    kg: float
    at: datetime


class Board(NamedTuple):
    """A cutter's board on a trip, from when, with a break."""

    id: str
    trip_id: str
    name: str
    opens_at: datetime
    break_from: datetime | None
    break_to: datetime | None
    closed: bool


class RuleCardRow(NamedTuple):
    """A rule card as it was written down; seasons as "MM-DD"."""

    id: str
    species: str
    area: str
    source: str
    checked_on: date
    season_from: str
    season_to: str
    length_type: str
    min_cm: float | None
    max_cm: float | None
    per_person: int | None
    per_boat: int | None
    possession: int | None
    fillet_at_sea: str
    skin_patch: bool
    keep_carcass: bool
    note: str


class OwnGuide(NamedTuple):
    """A species or a body plan of the crew's own, as TOML."""

    id: str
    kind: str
    key: str
    toml: str
    at: datetime


class SightRow(NamedTuple):
    """Something that was seen on a fish: how many, and where."""

    id: str
    fish_id: str
    what: str
    number: int
    place: str
    at: datetime


class FateRow(NamedTuple):
    """Where a piece of a fish goes."""

    id: str
    fish_id: str
    piece: str
    fate: str
    at: datetime


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

"""What was said of how to cut: by the crew, by a party, of one fish."""

from typing import NamedTuple

from peewee import BooleanField, ForeignKeyField, TextField

from lepidos.store.schema.base import Instant, Row
from lepidos.store.schema.fish import FishTable
from lepidos.store.schema.kinds import Flag, Key, Moment, Pairs, Skin, Word, Words
from lepidos.store.schema.trips import PartyTable, TripTable


class WishRow(NamedTuple):
    """One saying. Without a trip it is the crew's, on every trip: of a species ("" for all) and a
    size ("" for every size). A party's is of a species too; a fish's of that fish alone.

    `methods` and `pieces` are JSON objects; `tools` and `keeps` keys with spaces between. A fish's
    row is `settled` with its first fillet: from then on nobody else's word changes its plan, and
    `skin` is as it was cut.
    """

    id: Key
    trip_id: Key | None
    party_id: Key | None
    fish_id: Key | None
    species: Word
    size: Word
    purpose: Word
    skin: Skin
    methods: Pairs
    tools: Words
    pieces: Pairs
    keeps: Words
    settled: Flag
    at: Moment


class WishTable(Row):
    record = WishRow

    trip = ForeignKeyField(TripTable, null=True, lazy_load=False)
    party = ForeignKeyField(PartyTable, null=True, lazy_load=False)
    fish = ForeignKeyField(FishTable, null=True, lazy_load=False)
    species = TextField(default="")
    size = TextField(default="")
    purpose = TextField(default="")
    skin = TextField(default="")
    methods = TextField(default="{}")
    tools = TextField(default="")
    pieces = TextField(default="{}")
    keeps = TextField(default="")
    settled = BooleanField(default=False)
    at = Instant()

    class Meta:
        table_name = "wish"

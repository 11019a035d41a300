"""The cutters' boards of a trip, and the fish that a person put at a place of a row."""

from typing import NamedTuple

from peewee import BooleanField, ForeignKeyField, IntegerField, TextField

from lepidos.store.schema.base import Instant, Row, Table
from lepidos.store.schema.fish import FishTable
from lepidos.store.schema.kinds import Few, Flag, Key, Moment, Name, Revision, Word
from lepidos.store.schema.trips import TripTable


class Board(NamedTuple):
    """A cutter's board on a trip, from when, with a break.

    `hand` is "left" when the cutter's left hand holds the knife; `first_time`: whoever cuts there
    has not done it before.
    """

    id: Key
    trip_id: Key
    name: Name
    opens_at: Moment
    break_from: Moment | None
    break_to: Moment | None
    closed: Flag
    hand: Word = ""
    first_time: Flag = False
    revision: Revision = 0


class BoardTable(Row):
    record = Board

    trip = ForeignKeyField(TripTable, lazy_load=False)
    name = TextField()
    opens_at = Instant()
    break_from = Instant(null=True)
    break_to = Instant(null=True)
    closed = BooleanField(default=False)
    hand = TextField(default="")
    first_time = BooleanField(default=False)
    revision = IntegerField(default=0)

    class Meta:
        table_name = "board"


class Hold(NamedTuple):
    """A fish that a person put at a place of a board's row."""

    fish_id: Key
    board_id: Key
    position: Few


class HoldTable(Table):
    record = Hold

    fish = ForeignKeyField(FishTable, primary_key=True, lazy_load=False)
    board = ForeignKeyField(BoardTable, lazy_load=False)
    position = IntegerField()

    class Meta:
        table_name = "hold"

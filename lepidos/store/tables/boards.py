"""The cutters' boards of a trip, and the fish that a person put at a place of a row."""

from datetime import datetime
from typing import NamedTuple

from peewee import BooleanField, ForeignKeyField, IntegerField, TextField

from lepidos.store.tables.base import Instant, Row, Table
from lepidos.store.tables.fish import FishTable
from lepidos.store.tables.trips import TripTable


class Board(NamedTuple):
    """A cutter's board on a trip, from when, with a break.

    `hand` is "left" when the cutter's left hand holds the knife; `first_time`: whoever cuts there
    has not done it before.
    """

    id: str
    trip_id: str
    name: str
    opens_at: datetime
    break_from: datetime | None
    break_to: datetime | None
    closed: bool
    hand: str = ""
    first_time: bool = False
    revision: int = 0


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


class HoldTable(Table):
    fish = ForeignKeyField(FishTable, primary_key=True, lazy_load=False)
    board = ForeignKeyField(BoardTable, lazy_load=False)
    position = IntegerField()

    class Meta:
        table_name = "hold"

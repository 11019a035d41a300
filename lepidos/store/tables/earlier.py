"""What rows were before they were written over."""

from datetime import datetime
from typing import NamedTuple

from peewee import TextField

from lepidos.store.tables.base import Instant, Row


class Earlier(NamedTuple):
    """A row as it was before an act wrote over it.

    `act` is shared by all that was written over at once. `before` is the row as JSON by its
    columns, None where there was none before.
    """

    id: str
    act: str
    of_table: str
    row_id: str
    before: str | None
    at: datetime


class EarlierTable(Row):
    record = Earlier

    act = TextField()
    of_table = TextField()
    row_id = TextField()
    before = TextField(null=True)
    at = Instant()

    class Meta:
        table_name = "earlier"

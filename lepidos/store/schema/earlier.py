"""What rows were before they were written over."""

from typing import NamedTuple

from peewee import TextField

from lepidos.store.schema.base import Instant, Row
from lepidos.store.schema.kinds import Key, Moment, Page, Word


class Earlier(NamedTuple):
    """A row as it was before an act wrote over it.

    `act` is shared by all that was written over at once. `before` is the row as JSON by its
    columns, None where there was none before.
    """

    id: Key
    act: Key
    of_table: Word
    row_id: Key
    before: Page | None
    at: Moment


class EarlierTable(Row):
    record = Earlier

    act = TextField()
    of_table = TextField()
    row_id = TextField()
    before = TextField(null=True)
    at = Instant()

    class Meta:
        table_name = "earlier"

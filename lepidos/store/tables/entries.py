"""What was done, once each, and what was undone."""

from datetime import datetime
from typing import NamedTuple

from peewee import TextField

from lepidos.store.tables.base import Instant, Row, Table


class Entry(NamedTuple):
    """One use case that changed something; `key` came with the request.

    `device`: the name of the device it came from, "" for the machine itself.
    """

    key: str
    action: str
    digest: str
    subject_kind: str
    subject_id: str
    sentence: str
    question: str
    undoes: str
    at: datetime
    device: str = ""


class EntryTable(Table):
    record = Entry

    key = TextField(primary_key=True)
    action = TextField()
    digest = TextField()
    subject_kind = TextField()
    subject_id = TextField()
    sentence = TextField()
    question = TextField(default="")
    undoes = TextField(default="")
    at = Instant()
    device = TextField(default="")

    class Meta:
        table_name = "entry"


class Undo(NamedTuple):
    """An earlier row undone."""

    id: str
    kind: str
    target_id: str
    at: datetime


class UndoTable(Row):
    record = Undo

    kind = TextField()
    target_id = TextField(unique=True)
    at = Instant()

    class Meta:
        table_name = "undo"

"""What was done, once each, and what was undone."""

from typing import NamedTuple

from peewee import TextField

from lepidos.store.schema.base import Instant, Row, Table
from lepidos.store.schema.kinds import Hex, Key, KeyOrNone, Moment, Name, Text, Word


class Entry(NamedTuple):
    """One use case that changed something; `key` came with the request.

    `device`: the name of the device it came from, "" for the machine itself.
    """

    key: Key
    action: Word
    digest: Hex
    subject_kind: Word
    subject_id: Key
    sentence: Text
    question: Text
    undoes: KeyOrNone
    at: Moment
    device: Name = ""


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

    id: Key
    kind: Word
    target_id: Key
    at: Moment


class UndoTable(Row):
    record = Undo

    kind = TextField()
    target_id = TextField(unique=True)
    at = Instant()

    class Meta:
        table_name = "undo"

"""What a crew chose for all its devices."""

from typing import NamedTuple

from peewee import TextField

from lepidos.store.schema.base import Instant, Row
from lepidos.store.schema.kinds import Key, Moment, Name, Text


class Setting(NamedTuple):
    """One choice: its name, and its value as text."""

    id: Key
    name: Name
    value: Text
    at: Moment


class SettingTable(Row):
    record = Setting

    name = TextField(unique=True)
    value = TextField()
    at = Instant()

    class Meta:
        table_name = "setting"

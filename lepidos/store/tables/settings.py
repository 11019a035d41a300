"""What a crew chose for all its devices."""

from datetime import datetime
from typing import NamedTuple

from peewee import TextField

from lepidos.store.tables.base import Instant, Row


class Setting(NamedTuple):
    """One choice: its name, and its value as text."""

    id: str
    name: str
    value: str
    at: datetime


class SettingTable(Row):
    record = Setting

    name = TextField(unique=True)
    value = TextField()
    at = Instant()

    class Meta:
        table_name = "setting"

"""Devices that were let in."""

from datetime import datetime
from typing import NamedTuple

from peewee import ForeignKeyField, TextField

from lepidos.store.tables.base import Instant, Row
from lepidos.store.tables.trips import PartyTable


class Device(NamedTuple):
    """A device and what it may do: `role` is crew, bench or guest; a guest is of a party.

    `token` is the SHA-256 of what the device holds, in hexadecimal digits.
    """

    id: str
    name: str
    role: str
    party_id: str | None
    token: str
    at: datetime
    until: datetime
    withdrawn_at: datetime | None


class DeviceTable(Row):
    record = Device

    name = TextField()
    role = TextField()
    party = ForeignKeyField(PartyTable, null=True)
    token = TextField(unique=True)
    at = Instant()
    until = Instant()
    withdrawn_at = Instant(null=True)

    class Meta:
        table_name = "device"

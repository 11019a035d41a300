"""Devices that were let in."""

from typing import NamedTuple

from peewee import ForeignKeyField, TextField

from lepidos.store.schema.base import Instant, Row
from lepidos.store.schema.kinds import Hex, Key, Moment, Name, Word
from lepidos.store.schema.trips import PartyTable


class Device(NamedTuple):
    """A device and what it may do: `role` is crew, bench or guest; a guest is of a party.

    `token` is the SHA-256 of what the device holds, in hexadecimal digits.
    """

    id: Key
    name: Name
    role: Word
    party_id: Key | None
    token: Hex
    at: Moment
    until: Moment
    withdrawn_at: Moment | None


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

"""What a trip cost, and the private addresses of receipts."""

from datetime import datetime
from typing import NamedTuple

from peewee import ForeignKeyField, IntegerField, TextField

from lepidos.store.tables.base import Instant, Row
from lepidos.store.tables.trips import PartyTable, TripTable


class Cost(NamedTuple):
    """An amount in the currency's smallest coin, and how parties share it."""

    id: str
    trip_id: str
    name: str
    coins: int
    shared_by: str
    at: datetime


class CostTable(Row):
    record = Cost

    trip = ForeignKeyField(TripTable, lazy_load=False)
    name = TextField()
    coins = IntegerField()
    shared_by = TextField()
    at = Instant()

    class Meta:
        table_name = "cost"


class ReceiptLink(NamedTuple):
    """A private address of one party's receipt."""

    id: str
    trip_id: str
    party_id: str
    token: str
    at: datetime


class ReceiptLinkTable(Row):
    record = ReceiptLink

    trip = ForeignKeyField(TripTable, lazy_load=False)
    party = ForeignKeyField(PartyTable, lazy_load=False)
    token = TextField(unique=True)
    at = Instant()

    class Meta:
        table_name = "receipt_link"

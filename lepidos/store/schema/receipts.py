"""What a trip cost, and the private addresses of receipts."""

from typing import NamedTuple

from peewee import ForeignKeyField, IntegerField, TextField

from lepidos.store.schema.base import Instant, Row
from lepidos.store.schema.kinds import Coins, Key, Moment, Name, Word
from lepidos.store.schema.trips import PartyTable, TripTable


class Cost(NamedTuple):
    """An amount in the currency's smallest coin, and how parties share it."""

    id: Key
    trip_id: Key
    name: Name
    coins: Coins
    shared_by: Word
    at: Moment


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

    id: Key
    trip_id: Key
    party_id: Key
    token: Word
    at: Moment


class ReceiptLinkTable(Row):
    record = ReceiptLink

    trip = ForeignKeyField(TripTable, lazy_load=False)
    party = ForeignKeyField(PartyTable, lazy_load=False)
    token = TextField(unique=True)
    at = Instant()

    class Meta:
        table_name = "receipt_link"

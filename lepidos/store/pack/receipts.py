"""What a trip cost, and the private addresses of receipts."""

from datetime import datetime

from lepidos.core.errors import Unknown
from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import find
from lepidos.store.base.standing import in_order, standing, those_standing
from lepidos.store.schema.receipts import CostTable, ReceiptLinkTable

_COSTS: Ready[records.Cost] = Ready(
    lambda trip: in_order(
        those_standing(CostTable.select().where(CostTable.trip == trip), CostTable)
    )
)


def add_cost(
    ids: IdMaker, at: datetime, trip_id: str, name: str, coins: int, shared_by: str
) -> records.Cost:
    """A cost of a trip."""
    return add_row(
        CostTable, id=ids.new(at), trip=trip_id, name=name, coins=coins, shared_by=shared_by, at=at
    )


def get_cost(cost_id: str) -> records.Cost:
    """Raises Unknown."""
    found: records.Cost = find(CostTable, cost_id, "cost")
    return found


def costs_of(trip_id: str) -> list[records.Cost]:
    """A trip's costs that stand, as they were entered."""
    return _COSTS(trip_id)


def add_link(
    ids: IdMaker, at: datetime, trip_id: str, party_id: str, token: str
) -> records.ReceiptLink:
    """A private address for a party's receipt."""
    return add_row(
        ReceiptLinkTable, id=ids.new(at), trip=trip_id, party=party_id, token=token, at=at
    )


def get_link(link_id: str) -> records.ReceiptLink:
    """Raises Unknown."""
    found: records.ReceiptLink = find(ReceiptLinkTable, link_id, "link")
    return found


def links_of(trip_id: str) -> list[records.ReceiptLink]:
    """A trip's private addresses that were not withdrawn."""
    rows = ReceiptLinkTable.select().where(ReceiptLinkTable.trip == trip_id)
    return standing(in_order(rows), ReceiptLinkTable)


def link_by_token(token: str) -> records.ReceiptLink:
    """An address that was not withdrawn. Raises Unknown."""
    rows = standing(
        ReceiptLinkTable.select().where(ReceiptLinkTable.token == token), ReceiptLinkTable
    )
    if not rows:
        raise Unknown("receipt", "this address")
    return rows[0]

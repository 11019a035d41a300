"""What was said of how to cut."""

from datetime import datetime

from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import find
from lepidos.store.base.standing import in_order, standing, those_standing
from lepidos.store.schema.wishes import WishTable

_OF_TRIP: Ready[records.WishRow] = Ready(
    lambda trip: in_order(
        those_standing(
            WishTable.select().where((WishTable.trip == trip) | WishTable.trip.is_null()), WishTable
        )
    )
)


def say(ids: IdMaker, at: datetime, **values: object) -> records.WishRow:
    """Add a saying."""
    return add_row(WishTable, id=ids.new(at), at=at, **values)


def get(wish_id: str) -> records.WishRow:
    """A saying, undone or not. Raises Unknown."""
    found: records.WishRow = find(WishTable, wish_id, "wish")
    return found


def settled(fish_id: str) -> records.WishRow | None:
    """A fish's settled saying that stands; None while others may still change its plan."""
    rows = WishTable.select().where(WishTable.fish == fish_id, WishTable.settled)
    return next(iter(standing(rows, WishTable)), None)


def of_trip(trip_id: str) -> list[records.WishRow]:
    """What stands of the crew's sayings and of a trip's, in the order in which they were said."""
    return _OF_TRIP(trip_id)


def of_crew() -> list[records.WishRow]:
    """What stands of the crew's sayings, in the order in which they were said."""
    return standing(in_order(WishTable.select().where(WishTable.trip.is_null())), WishTable)

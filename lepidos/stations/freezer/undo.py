"""What was said of a place, undone."""

from lepidos.stations.base.context import AppContext
from lepidos.store.freezer import places as place_store


def place_said_undone(_: AppContext, row_id: str) -> str:
    place_id = place_store.place_said(row_id).place_id
    return f"{place_store.place(place_id).name} is as it was said before"

"""What was said of a place, undone."""

from datetime import datetime

from lepidos.stations.base.context import AppContext
from lepidos.store import entries
from lepidos.store import places as place_store


def undo_place_said(ctx: AppContext, row_id: str, at: datetime) -> str:
    name = place_store.place(place_store.place_said(row_id).place_id).name
    entries.undo(ctx.ids, "place said", row_id, at)
    return f"{name} is as it was said before"

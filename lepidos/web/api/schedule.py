"""The order of work over the API."""

from functools import partial

from fastapi import APIRouter, Request

from lepidos.stations.deck import slab
from lepidos.stations.schedule import boards
from lepidos.web.api.orders import by_api
from lepidos.web.api.views import deck as deck_views
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")


@router.get("/trips/{trip_id}/order", tags=["bench"])
def get_order(request: Request, trip_id: str) -> deck_views.OrderOut:
    """What to cut next, by whom, and when the table is clear."""
    return deck_views.order(slab.view_slab(context_of(request), trip_id).order)


write = partial(by_api, router, "bench")
write(
    "/trips/{trip_id}/boards",
    boards.add_board,
    "Add a board for a cutter.",
    names={"name": "cutter"},
)
write(
    "/fish/{fish_id}/board",
    boards.start_fish,
    "Take a fish to a board. Its time starts now.",
    without=("own_board", "next_one"),
)
write(
    "/fish/{fish_id}/place",
    boards.place_fish,
    "Move a fish by hand; the order of work leaves it there.",
)
write(
    "/trips/{trip_id}/places",
    boards.let_go,
    "Let the order of work place every fish again.",
    method="DELETE",
)

"""The pages that say what was done to a fish or a bag, and on which device."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.pack.labels import show_code
from lepidos.stations.base.fish import find_fish
from lepidos.stations.base.history import history_of_bag, history_of_fish
from lepidos.stations.freezer import freezer
from lepidos.stations.trips.trips import view_trip
from lepidos.web.shell.render import context_of, page

router = APIRouter(include_in_schema=False)


@router.get("/fish/{fish_id}/history")
def show_fish_history(request: Request, fish_id: str) -> Response:
    """All that was done to a fish."""
    ctx = context_of(request)
    fish, _ = find_fish(ctx, fish_id)
    name = f"{fish.code} {ctx.guide.known_or_named(fish.species).name.lower()}"
    rows = history_of_fish(ctx, fish_id)
    view = view_trip(ctx, str(fish.trip_id))
    return page(
        request,
        "trips/history.html",
        view,
        here="deck",
        name=name,
        rows=rows,
        back_to=f"/fish/{fish.id}/card",
    )


@router.get("/b/{code}/history")
def show_bag_history(request: Request, code: str) -> Response:
    """All that was done to a bag."""
    ctx = context_of(request)
    bag = freezer.find_bag(ctx, code).row.bag
    view = view_trip(ctx, str(bag.trip_id))
    name = f"Bag {show_code(bag.code)}"
    return page(
        request,
        "trips/history.html",
        view,
        here="freezer",
        name=name,
        rows=history_of_bag(ctx, str(bag.id)),
        back_to=f"/b/{bag.code}",
    )

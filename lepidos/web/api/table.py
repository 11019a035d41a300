"""The table over the API: a fish at the bench, its pieces, what was seen, and where they go."""

from functools import partial

from fastapi import APIRouter, Request

from lepidos.stations.table import (
    by_eye,
    byproducts,
    cutters,
    findings,
    fish_view,
    steps,
    weighing,
    wishes,
)
from lepidos.web.api.orders import by_api
from lepidos.web.api.shapes import DoneOut, Key, done_out
from lepidos.web.api.views import table as table_views
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")
OF_THE_PAN = ("shown", "in_tray")  # what lies on it as a page sees it


@router.get("/fish/{fish_id}", tags=["table"])
def get_fish(request: Request, fish_id: str) -> table_views.TableOut:
    """A fish at the bench: plan, expected pieces, weighings, balance."""
    return table_views.table(fish_view.view_fish(context_of(request), fish_id))


@router.post("/fish/{fish_id}/pause", tags=["table"], status_code=201)
def pause_fish(request: Request, fish_id: str, key: Key, go_on: bool = False) -> DoneOut:
    """Stop a fish's time on the board, or go on with it."""
    return done_out(cutters.pause_fish(context_of(request), key, cutters.PauseFish(fish_id, go_on)))


@router.get("/trips/{trip_id}/waste", tags=["table"])
def get_waste(request: Request, trip_id: str) -> table_views.WasteOut:
    """What goes where at the end of the day, and how much of the fish is used."""
    return table_views.waste(byproducts.waste_list(context_of(request), trip_id))


write = partial(by_api, router, "table")
write(
    "/fish/{fish_id}/weighings",
    weighing.weigh_piece,
    "Record the weight of a piece.",
    without=OF_THE_PAN,
)
write(
    "/fish/{fish_id}/taken",
    by_eye.take_piece,
    "Record a piece that was taken and not weighed, at about what such a fish gives.",
)
write(
    "/fish/{fish_id}/together",
    weighing.weigh_together,
    "Record one weight for several pieces that lay on the scale together.",
    without=OF_THE_PAN,
)
write(
    "/fish/{fish_id}/corrections",
    weighing.correct_weighing,
    "Correct a weight.",
)
write("/fish/{fish_id}/steps", steps.tick_step, "Tick a step of the plan.")
write("/fish/{fish_id}/close", steps.close_fish, "Finish a fish.")
write("/fish/{fish_id}/seen", findings.note_sight, "Record a finding, such as worms.")
write("/fish/{fish_id}/fates", byproducts.send_piece, "Set where a by-product goes.")
write(
    "/fish/{fish_id}/wish",
    wishes.wish_for_fish,
    "Set how this fish is cut, until its first fillet is weighed.",
)
write(
    "/parties/{party_id}/wish",
    wishes.wish_of_party,
    "Set how a party wants its fish cut. It overrides the crew's wish.",
)
write(
    "/wishes",
    wishes.wish_of_crew,
    "Set how such fish are cut from now on, on this trip and the next ones.",
)

"""The order of work over the API."""

from fastapi import APIRouter, Request

from lepidos.stations.deck import slab
from lepidos.stations.schedule import boards
from lepidos.web.api.shapes import DoneOut, In, Key, Text, done_out
from lepidos.web.api.views import deck as deck_views
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")


class BoardIn(In):
    """A cutter who takes a board."""

    cutter: Text


class StartIn(In):
    """The board that a fish is taken to; empty: the first."""

    board_id: Text = ""


class PlaceInRowIn(In):
    """Where a fish is put by hand: beside a neighbour, or first at a board."""

    neighbour_id: Text = ""
    after: bool = False
    board_id: Text = ""


@router.get("/trips/{trip_id}/order", tags=["bench"])
def get_order(request: Request, trip_id: str) -> deck_views.OrderOut:
    """What to cut next, by whom, and when the table is clear."""
    return deck_views.order(slab.view_slab(context_of(request), trip_id).order)


@router.post("/trips/{trip_id}/boards", tags=["bench"], status_code=201)
def add_board(request: Request, trip_id: str, key: Key, body: BoardIn) -> DoneOut:
    """A cutter takes a board."""
    order = boards.AddBoard(trip_id, body.cutter)
    return done_out(boards.add_board(context_of(request), key, order))


@router.post("/fish/{fish_id}/board", tags=["bench"], status_code=201)
def start_fish(request: Request, fish_id: str, key: Key, body: StartIn) -> DoneOut:
    """Take a fish to a board: its time counts from now."""
    order = boards.StartFish(fish_id, body.board_id)
    return done_out(boards.start_fish(context_of(request), key, order))


@router.post("/fish/{fish_id}/place", tags=["bench"], status_code=201)
def place_fish(request: Request, fish_id: str, key: Key, body: PlaceInRowIn) -> DoneOut:
    """Put a fish by hand; the order of work leaves it there."""
    order = boards.PlaceFish(fish_id, body.neighbour_id, body.after, body.board_id)
    return done_out(boards.place_fish(context_of(request), key, order))


@router.delete("/trips/{trip_id}/places", tags=["bench"])
def let_go(request: Request, trip_id: str, key: Key) -> DoneOut:
    """Every fish may be put anywhere again."""
    return done_out(boards.let_go(context_of(request), key, boards.LetGo(trip_id)))

"""The deck over the API: states, probe, looks, the order of work, rule cards, ice.

`/live/changes` streams a mark by server-sent events whenever anything changed.
"""

from fastapi import APIRouter, Request

from lepidos.core.catch.rule_cards import RuleCard
from lepidos.stations.deck import card, handling, rule_cards, slab
from lepidos.stations.schedule import boards
from lepidos.stations.trips import trips
from lepidos.web.api.shapes import (
    BoardIn,
    CardIn,
    CoreIn,
    DoneOut,
    IceIn,
    Json,
    Key,
    LookIn,
    PlaceInRowIn,
    StartIn,
    StateIn,
    done_out,
)  # fmt: skip
from lepidos.web.api.views import deck as deck_views
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")


@router.get("/fish/{fish_id}/card", tags=["deck"])
def get_card(request: Request, fish_id: str) -> Json:
    """A fish before the knife: its cold, its advice, its place, the rule cards."""
    return deck_views.card(card.view_card(context_of(request), fish_id, "metric"))


@router.post("/fish/{fish_id}/states", tags=["deck"], status_code=201)
def mark_state(request: Request, fish_id: str, key: Key, body: StateIn) -> DoneOut:
    """Note what was done to a fish, or where it lies now."""
    order = handling.MarkState(fish_id, body.state)
    return done_out(handling.mark_state(context_of(request), key, order))


@router.post("/fish/{fish_id}/core", tags=["deck"], status_code=201)
def read_core(request: Request, fish_id: str, key: Key, body: CoreIn) -> DoneOut:
    """Note a core temperature."""
    order = handling.ReadCore(fish_id, body.celsius)
    return done_out(handling.read_core(context_of(request), key, order))


@router.post("/fish/{fish_id}/looks", tags=["deck"], status_code=201)
def look_over(request: Request, fish_id: str, key: Key, body: LookIn) -> DoneOut:
    """Note a look over."""
    order = handling.LookOver(fish_id, tuple(body.points.items()))
    return done_out(handling.look_over(context_of(request), key, order))


@router.get("/trips/{trip_id}/order", tags=["bench"])
def get_order(request: Request, trip_id: str) -> Json:
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


@router.post("/trips/{trip_id}/ice", tags=["deck"], status_code=201)
def note_ice(request: Request, trip_id: str, key: Key, body: IceIn) -> DoneOut:
    """Note the ice that is seen aboard now."""
    return done_out(trips.note_ice(context_of(request), key, trips.NoteIce(trip_id, body.seen_kg)))


@router.get("/rules", tags=["rules"])
def list_cards(request: Request, trip_id: str = "") -> list[Json]:
    """Every rule card, with a trip's counts when one is named."""
    _, cards = rule_cards.list_cards(context_of(request), trip_id or None)
    return [deck_views.rule_card(c) for c in cards]


@router.post("/rules", tags=["rules"], status_code=201)
def write_card(request: Request, key: Key, body: CardIn) -> DoneOut:
    """Write a rule card."""
    order = rule_cards.SaveCard(RuleCard(**body.model_dump()))
    return done_out(rule_cards.save_card(context_of(request), key, order))


@router.put("/rules/{card_id}", tags=["rules"])
def change_card(request: Request, card_id: str, key: Key, body: CardIn) -> DoneOut:
    """Change a rule card."""
    order = rule_cards.SaveCard(RuleCard(**body.model_dump()), card_id)
    return done_out(rule_cards.save_card(context_of(request), key, order))


@router.delete("/rules/{card_id}", tags=["rules"])
def remove_card(request: Request, card_id: str, key: Key) -> DoneOut:
    """Throw a rule card away."""
    return done_out(
        rule_cards.remove_card(context_of(request), key, rule_cards.RemoveCard(card_id))
    )

"""Bench: the table's first page, what is cut next, by whom, and why."""

from datetime import timedelta

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.catch.handling import RESTED_S
from lepidos.core.schedule.deadline import UNBLED_S
from lepidos.core.schedule.scheduler import MAX_EXACT
from lepidos.core.units import DAY_S, HOUR_S
from lepidos.stations.base.fish import find_fish
from lepidos.stations.schedule import boards, scales
from lepidos.stations.table import queue
from lepidos.stations.table.said import wish_words
from lepidos.stations.trips import trips
from lepidos.web.drawings import fish
from lepidos.web.shell.forms import Form, system_of
from lepidos.web.shell.orders import by_form
from lepidos.web.shell.render import after, context_of, page, shows_again

router = APIRouter(include_in_schema=False)


@router.get("/trips/{trip_id}/table")
def show_bench(request: Request, trip_id: str) -> Response:
    """Every board with its row of fish."""
    ctx, system = context_of(request), system_of(request)
    view = queue.view_bench(ctx, trip_id)
    every = [*(f for _, row in view.rows for f in row), *view.finished]
    keys = {f.species.key for f in every}
    return page(
        request,
        "table/bench.html",
        view.view,
        here="table",
        bench=view,
        mine=request.cookies.get("board", ""),
        reason=lambda row: queue.reason(ctx, row, system),
        symbols=fish.symbols(ctx.guide, keys),
        boxes=fish.view_boxes(ctx.guide, keys),
        wishes=view.wishes,
        wish_words=lambda wish: wish_words(ctx, wish),
        purposes=ctx.guide.methods.purposes,
        askable=[p for p in ctx.guide.pieces.values() if p.wished_for],
        scale_names=tuple(ctx.scales.named),
        scale_at=scales.scales_of(ctx, [b.id for b in view.order.boards]),
        guide=ctx.guide.bench,
        unbled_h=UNBLED_S // HOUR_S,
        rested_days=RESTED_S // DAY_S,
        most_exact=MAX_EXACT,
        room=boards.MAX_BOARDS - len(view.order.boards),
    )


by_form(
    router,
    "/trips/{trip_id}/boards",
    boards.add_board,
    show_bench,
    "/trips/{trip_id}/table",
    name="cutter",
)


@router.post("/trips/{trip_id}/boards/{board_id}")
@shows_again(show_bench)
def set_board(request: Request, trip_id: str, board_id: str, form: Form) -> Response:
    """When a board opens and breaks, or that it is closed."""
    ctx, key = context_of(request), form.text("key")
    view = trips.view_trip(ctx, trip_id)
    today = ctx.clock().astimezone(view.zone).date()
    begins = form.time_of_day("break_from", today, view.zone)
    ends = form.time_of_day("break_to", today, view.zone)
    if begins and ends and ends <= begins < ends + timedelta(days=1) <= begins + boards.MAX_BREAK:
        ends += timedelta(days=1)  # over midnight
    order = boards.SetBoard(
        board_id,
        form.time_of_day("opens_at", today, view.zone),
        begins,
        ends,
        form.flag("close"),
        *((form.flag("left_handed"), form.flag("first_time")) if form.flag("hands") else ()),
    )
    form.done()
    boards.set_board(ctx, key, order)
    return after(key, f"/trips/{trip_id}/table")


by_form(
    router,
    "/trips/{trip_id}/boards/{board_id}/scale",
    scales.give_scale,
    show_bench,
    "/trips/{trip_id}/table",
)


@router.post("/trips/{trip_id}/parties/{party_id}")
@shows_again(show_bench)
def set_party(request: Request, trip_id: str, party_id: str, form: Form) -> Response:
    """When a party leaves, and whether its fish are cut in one go."""
    ctx, key = context_of(request), form.text("key")
    view = trips.view_trip(ctx, trip_id)
    today = ctx.clock().astimezone(view.zone).date()
    order = boards.SetParty(
        party_id, form.time_of_day("leaves_at", today, view.zone), form.flag("together")
    )
    form.done()
    boards.set_party(ctx, key, order)
    return after(key, f"/trips/{trip_id}/table")


@router.post("/fish/{fish_id}/place")
def place_fish(request: Request, fish_id: str, form: Form) -> Response:
    """Put a fish by hand before or after another, or first at a board."""
    ctx, key = context_of(request), form.text("key")
    order = boards.PlaceFish(
        fish_id, form.text("neighbour"), form.text("side") == "after", form.text("board")
    )
    form.done()
    boards.place_fish(ctx, key, order)
    trip_id = find_fish(ctx, fish_id)[0].trip_id
    page_of = "deck" if form.text("from") == "deck" else "table"
    return after(key, f"/trips/{trip_id}/{page_of}")


by_form(router, "/trips/{trip_id}/places/free", boards.let_go, show_bench, "/trips/{trip_id}/table")

"""Card: a fish on deck, with its states, its cold, the look over, its rules and its place."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.catch.handling import STATES
from lepidos.core.cutting.hazards import at_landing
from lepidos.stations.base.fish import fact_words, find_fish
from lepidos.stations.cold.cold import sentence
from lepidos.stations.deck import card, handling, landing, slab
from lepidos.stations.schedule import boards
from lepidos.stations.table import queue
from lepidos.stations.trips.trips import view_trip
from lepidos.web.deck.landing_form import read_landing
from lepidos.web.drawings import charts, fish
from lepidos.web.shell.forms import Form, system_of
from lepidos.web.shell.orders import by_form
from lepidos.web.shell.render import after, context_of, page, shows_again

router = APIRouter(include_in_schema=False)


@router.get("/fish/{fish_id}/card")
def show_card(request: Request, fish_id: str) -> Response:
    """One fish before the knife."""
    ctx, system = context_of(request), system_of(request)
    view = card.view_card(ctx, fish_id, system)
    row = view.row
    return page(
        request,
        "deck/card.html",
        view.view,
        here="deck",
        card=view,
        row=row,
        drawing=fish.fish_svg(ctx.guide, row.species),
        states=STATES,
        only_alive=slab.ONLY_ALIVE,
        fact_words=lambda fact: fact_words(ctx, row.fish, fact),
        marks=ctx.guide.marks,
        cautions=at_landing(row.species, ctx.guide.cautions),
        own_caution=lambda key: ctx.guide.own_caution(key, row.species),
        cold_chart=charts.cold_chart(view.cold, system) if view.cold else None,
        cold_sentence=sentence(view.cold) if view.cold else "",
        reason=queue.reason(ctx, row, system),
        species=sorted(ctx.guide.species.values(), key=lambda s: s.name),
        lookalikes=[
            key
            for key in ctx.guide.lookalikes.values()
            if row.species.key in {c.species for c in key.candidates}
        ],
    )


by_form(router, "/fish/{fish_id}/states", handling.mark_state, show_card, "/fish/{fish_id}/card")


by_form(
    router,
    "/fish/{fish_id}/core",
    handling.read_core,
    show_card,
    "/fish/{fish_id}/card",
    celsius="core",
)


@router.post("/fish/{fish_id}/looks")
@shows_again(show_card)
def look_over(request: Request, fish_id: str, form: Form) -> Response:
    """Note a look over."""
    key = form.text("key")
    points = tuple(
        (mark, form.whole(mark, 0, 0, 3))
        for mark in context_of(request).guide.marks
        if form.text(mark)
    )
    form.done()
    handling.look_over(context_of(request), key, handling.LookOver(fish_id, points))
    return after(key, f"/fish/{fish_id}/card")


@router.post("/fish/{fish_id}/correct")
@shows_again(show_card)
def correct_fish(request: Request, fish_id: str, form: Form) -> Response:
    """Correct what was noted of a fish."""
    ctx, key = context_of(request), form.text("key")
    fish, _ = find_fish(ctx, fish_id)
    view = view_trip(ctx, str(fish.trip_id))
    order = landing.CorrectFish(fish_id, read_landing(ctx, view, form))
    form.done()
    landing.correct_fish(ctx, key, order)
    return after(key, f"/fish/{fish_id}/card")


by_form(
    router,
    "/fish/{fish_id}/board",
    boards.start_fish,
    show_card,
    "/fish/{fish_id}",
    own_board=lambda request, _: request.cookies.get("board", ""),
    next_one=lambda _, form: form.text("next_one") == "1",
)

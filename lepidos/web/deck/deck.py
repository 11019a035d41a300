"""Deck: the slab, landing, and the catch import."""

from collections import Counter

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response
from markupsafe import Markup

from lepidos.core.cutting.hazards import at_landing
from lepidos.core.errors import BadInput, Refused
from lepidos.core.units import System
from lepidos.exchange.text_files import text_of
from lepidos.guide.nearest import CAUTION
from lepidos.stations.base.context import AppContext, Receipt
from lepidos.stations.base.waters import home_waters, nearness
from lepidos.stations.deck import catch_import, slab
from lepidos.stations.guide import nearest
from lepidos.stations.trips.trips import view_trip
from lepidos.web.deck.landing_form import read_landing
from lepidos.web.deck.slab_lines import slab_lines
from lepidos.web.drawings import fish
from lepidos.web.drawings import slab as drawn_slab
from lepidos.web.shell.access import role_of
from lepidos.web.shell.forms import Form, FormData, system_of
from lepidos.web.shell.progress import progress_of
from lepidos.web.shell.render import after, context_of, fragment, page, shows_again

router = APIRouter(include_in_schema=False)

MAX_FILE = 1_000_000
NEAREST = "?"  # stands for a fish that the guide lacks, where its caution is looked up
AT_HAND = 4  # kinds beside the list of all
MAX_NEXT = 2  # buttons that stand side by side on a phone


@router.get("/trips/{trip_id}/deck")
def show_deck(request: Request, trip_id: str) -> Response:
    """The fish on the slab, to scale or as a list, and the landing panel."""
    ctx, system = context_of(request), system_of(request)
    asked = request.query_params.get("by", "")
    by = asked if asked in slab.BY else slab.BY[0]
    view = slab.view_slab(ctx, trip_id, by)
    across_m = drawn_slab.width_m(view.waiting)
    newest = view.last.species if view.last else None
    recent = Counter(f.species.key for f in (*view.waiting, *view.further))
    likely = set(recent) | ({newest.key} if newest else set())
    species = ctx.guide.species.values()
    near = nearness(ctx)
    home = home_waters(ctx)
    return page(
        request,
        "deck/deck.html",
        view.view,
        here="deck",
        slab=view,
        next_up=_next_up(view, request.cookies.get("board", "")),
        press=next((f for f in view.waiting if _presses(f)), None),
        by=by,
        as_list=request.query_params.get("as") == "list",
        shelves=drawn_slab.shelves(
            drawn_slab.place(ctx.guide, view.waiting, across_m), by, ctx.clock()
        ),
        slab_fish=slab_lines(request, view, by),
        landing_cautions=_landing_cautions(ctx),
        chips=_chips(ctx, system),
        only_alive=slab.ONLY_ALIVE,
        chip_of=lambda one, on: fragment("deck/_fish_chip.html", system, s=one, checked=on),
        last=view.last,
        waters=ctx.guide.waters if home is None and role_of(request) == "crew" else {},
        # where nobody said the waters, only what lies there is likelier than any other kind
        at_hand=AT_HAND if home else min(AT_HAND, len(likely)),
        width_m=across_m,
        ruler=drawn_slab.ruler(across_m, system),
        symbols=fish.symbols(ctx.guide, {f.species.key for f in view.waiting}),
        species=sorted(
            species, key=lambda s: (s is not newest, -recent[s.key], near(s), s.name.lower())
        ),
    )


def _next_up(view: slab.Slab, mine: str) -> list[slab.SlabFish]:
    """The first fish of each board, that of this device's own board first."""
    rows = {str(f.fish.id): f for f in view.waiting}
    by_board = [view.order.of_board(board.id) for board in view.order.boards]
    first = [places[0] for places in by_board or [view.order.places] if places]
    first.sort(key=lambda place: str(place.board_id) != mine)
    return [rows[place.fish_id] for place in first if place.fish_id in rows][:MAX_NEXT]


def _presses(row: slab.SlabFish) -> bool:
    """Whether something must be done to a fish now."""
    return any(a.urgency == "now" for a in row.handled.advice)


def _chips(ctx: AppContext, system: System) -> dict[str, Markup]:
    """Every fish to be touched when one is landed: a guide is long, so they are made once."""
    return ctx.memo.get(
        ("chips", ctx.guide.edition),
        lambda: {
            key: fragment("deck/_fish_chip.html", system, s=one, checked=False)
            for key, one in ctx.guide.species.items()
        },
    )


def _landing_cautions(ctx: AppContext) -> Markup:
    """The gravest caution of every fish that has one at its landing, for the page's script."""
    return ctx.memo.get(("landing cautions", ctx.guide.edition), lambda: _written(ctx))


def _written(ctx: AppContext) -> Markup:
    cautions = ctx.guide.cautions
    found = {key: at_landing(one, cautions) for key, one in ctx.guide.species.items()}
    span = Markup('<span data-for="{}">{}</span>')
    said = {key: cautions[keys[0]].text for key, keys in found.items() if keys}
    return Markup("").join(
        span.format(key, text) for key, text in {NEAREST: cautions[CAUTION].text, **said}.items()
    )


@router.post("/trips/{trip_id}/fish")
@shows_again(show_deck)
def land_fish(request: Request, trip_id: str, form: Form) -> Response:
    """Land a fish."""
    _land(request, trip_id, form)
    return after(form.text("key"), f"/trips/{trip_id}/deck")


@router.post("/live/trips/{trip_id}/fish")
def land_waiting(request: Request, trip_id: str, form: Form) -> Response:
    """The same for the page's own script, which keeps entries until they have arrived."""
    done = _land(request, trip_id, form)
    return JSONResponse(
        {
            "id": done.subject_id,
            "kind": done.subject_kind,
            "sentence": done.sentence,
            "question": done.question,
            "repeated": done.repeated,
        }
    )


def _land(request: Request, trip_id: str, form: FormData) -> Receipt:
    ctx = context_of(request)
    order = read_landing(ctx, view_trip(ctx, trip_id), form)
    return nearest.land(ctx, form.text("key"), order)


@router.get("/trips/{trip_id}/import")
def show_import(request: Request, trip_id: str) -> Response:
    """The form for a file of fish."""
    view = view_trip(context_of(request), trip_id)
    return page(request, "deck/import.html", view, here="deck", report=None, text="",
                columns=catch_import.COLUMNS)  # fmt: skip


@router.post("/trips/{trip_id}/import")
@shows_again(show_import)
def import_catch(request: Request, trip_id: str, form: Form) -> Response:
    """Check a file; land its good rows when the person has said so."""
    ctx = context_of(request)
    text = _file_text(form)
    form.done()
    if form.flag("accept"):
        order = catch_import.AcceptRows(trip_id, text, form.system, form.flag("again"))
        key = form.text("key")
        catch_import.accept_rows(ctx, key, order, progress_of(request).teller(key))
        return after(form.text("key"), f"/trips/{trip_id}/deck")
    report = catch_import.check_file(ctx, trip_id, text, form.system)
    view = view_trip(ctx, trip_id)
    return page(request, "deck/import.html", view, here="deck", report=report, text=text,
                columns=catch_import.COLUMNS)  # fmt: skip


def _file_text(form: FormData) -> str:
    data = form.files.get("file", b"") or form.values.get("text", [""])[0].encode()
    if len(data) > MAX_FILE:
        raise Refused({"file": "That file is larger than 1 MB; split it"})
    try:
        return text_of(data)
    except BadInput as error:
        raise Refused({"file": str(error)}) from error

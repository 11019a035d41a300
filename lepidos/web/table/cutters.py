"""Session: a cutter's own board, pauses, what was seen, where by-products go, the day's list."""

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from lepidos.core.errors import Unknown
from lepidos.devices.scale import DeviceError
from lepidos.stations.table import byproducts, cutters, findings
from lepidos.stations.table.spots import Spot
from lepidos.web.drawings import fish
from lepidos.web.shell.forms import Form, FormData
from lepidos.web.shell.orders import by_form, read_part
from lepidos.web.shell.preferences import YEAR_S, here
from lepidos.web.shell.render import context_of, page
from lepidos.web.table.fish_view import show_fish

router = APIRouter(include_in_schema=False)

MAX_LINES = 8000  # characters: some tenths of a second of a busy scale


@router.get("/boards/{board_id}")
def show_board(request: Request, board_id: str) -> Response:
    """What lies on a cutter's board, or what comes next."""
    ctx = context_of(request)
    view = cutters.view_board(ctx, board_id)
    if view.here.fish is not None:
        return RedirectResponse(f"/fish/{view.here.fish.id}", 303)
    following = view.here.next_fish
    species = ctx.guide.one(following.species) if following else None
    return page(
        request,
        "table/board.html",
        view.view,
        here="table",
        board=view,
        species=species,
        picture=fish.fish_svg(ctx.guide, species) if species else "",
    )


@router.post("/boards/{board_id}/mine")
def sign_on(request: Request, board_id: str, form: Form) -> Response:
    """This device stands at this board from now on."""
    form.done()
    board = cutters.view_board(context_of(request), board_id).board
    response = RedirectResponse(f"/boards/{board.id}", 303)
    response.set_cookie("board", str(board.id), max_age=YEAR_S, samesite="strict", httponly=True)
    return response


def _spot(request: Request, form: FormData) -> Spot | None:
    """The spot of a form that has one: its piece, the touch on the drawing, its width or weight."""
    if not form.flag("spot"):
        return None
    piece, _, side = form.text("slot").partition(".")
    x, y = form.number("x"), form.number("y")
    for hidden in ("x", "y"):
        if form.problems.pop(hidden, ""):
            form.problems["slot"] = "Touch the fish itself"  # the field that a person sees
    sizes = {size.key: size.across_m for size in context_of(request).guide.findings.spot_sizes}
    return read_part(
        form,
        Spot,
        piece=piece,
        side=side if piece else form.text("shown_side"),
        x=x,
        y=y,
        across_m=sizes.get(form.text("size")),
    )


by_form(router, "/fish/{fish_id}/pause", cutters.pause_fish, show_fish, "/fish/{fish_id}")


by_form(
    router, "/fish/{fish_id}/seen", findings.note_sight, show_fish, "/fish/{fish_id}", spot=_spot
)


by_form(router, "/fish/{fish_id}/fates", byproducts.send_piece, show_fish, "/fish/{fish_id}")


@router.get("/trips/{trip_id}/waste")
def show_waste(request: Request, trip_id: str) -> Response:
    """What goes where at the end of the day."""
    found = byproducts.waste_list(context_of(request), trip_id)
    return page(request, "table/waste.html", found.view, here="table", waste=found)


@router.post("/scale/{what}")
def set_scale(request: Request, what: str, form: Form) -> Response:
    """Tare or zero the bench scale, and back to the page one came from."""
    back, at = here(form.text("back", 600)), form.text("at", 60)
    form.done()
    _set_scale(request, what, at)
    return RedirectResponse(back, 303)


@router.post("/live/scale/{what}")
def set_scale_live(request: Request, what: str, form: Form) -> dict[str, str]:
    """The same for the page's script: a sentence when the scale would not."""
    at = form.text("at", 60)
    form.done()
    try:
        _set_scale(request, what, at)
    except DeviceError as error:
        return {"problem": str(error)}
    return {"problem": ""}


@router.post("/live/own-scale")
def hear_own_scale(request: Request, form: Form) -> dict[str, str | int | list[str]]:
    """Lines of a scale that is plugged into the device that sends them, after docs/scale-line.md.

    `tell` is what its browser is to write to the scale, `upto` what it says as `wrote` then.
    """
    at, lines = form.text("at", 60), form.text("lines", MAX_LINES).split("\n")
    said = form.text("wrote", 12)
    form.done()
    try:
        wrote = int(said) if said.isdecimal() else 0
        tell, upto = context_of(request).scales.take(at, lines, wrote)
    except DeviceError as error:
        return {"problem": str(error), "tell": [], "upto": 0}
    return {"problem": "", "tell": tell, "upto": upto}


def _set_scale(request: Request, what: str, at: str) -> None:
    scale = context_of(request).scale_at(at)
    if what not in {"zero", "tare"}:
        raise Unknown("button", what, ("tare", "zero"))
    (scale.zero if what == "zero" else scale.tare)()

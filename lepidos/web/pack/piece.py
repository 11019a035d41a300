"""One piece: where to cut it, and which bags its portions are in."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.errors import OutOfRange
from lepidos.core.pack.portions import MAX_PORTIONS, TAIL_BELOW
from lepidos.core.units import format_length
from lepidos.exchange.rulerpdf import ruler_pdf
from lepidos.stations.pack import by_hand, marking, pack, parts, portioning
from lepidos.web.drawings import fillet
from lepidos.web.pack.pack import servings_of
from lepidos.web.shell.forms import Form, FormData, system_of
from lepidos.web.shell.render import after, context_of, page, shows_again

router = APIRouter(include_in_schema=False)

_FIELDS = {
    "length": "length",
    "portions in a bag": "per_bag",
    "number of portions": "number",
    "thickness of a slice": "slice",
    "angle of the blade": "angle",
    "place of a cut": "cuts",
    "least portion": "least",
}  # of marks that cannot be


@router.get("/pieces/{weighing_id}")
def show_piece(request: Request, weighing_id: str) -> Response:
    """One piece with its marks and its portions."""
    ctx, system = context_of(request), system_of(request)
    said = parts.marks_said(ctx, weighing_id)
    try:
        view = pack.view_piece(ctx, weighing_id, said)
    except OutOfRange:
        # marks of the whole party that this piece cannot have: it is cut as usual
        view = pack.view_piece(ctx, weighing_id, portioning.Marks(per_bag=said.per_bag))
    return page(
        request,
        "pack/piece.html",
        view.view,
        here="pack",
        pack=view,
        drawing=fillet.fillet(view, system),
        servings=servings_of(system),
        part_key=parts.part_key,
        thin_below=TAIL_BELOW,
    )


@router.post("/pieces/{weighing_id}/marks")
@shows_again(show_piece)
def mark_piece(request: Request, weighing_id: str, form: Form) -> Response:
    """Where this piece is cut from now on."""
    order = _order(weighing_id, form)
    form.done()
    try:
        marking.mark_piece(context_of(request), form.text("key"), order)
    except OutOfRange as error:
        form.problems[_FIELDS.get(error.name, "serving")] = str(error)
        form.done()
    return after(form.text("key"), f"/pieces/{weighing_id}")


@router.get("/pieces/{weighing_id}/ruler.pdf")
def ruler(request: Request, weighing_id: str) -> Response:
    """A strip to lay beside the piece, at its true length."""
    ctx, system = context_of(request), system_of(request)
    view = pack.view_piece(ctx, weighing_id, parts.marks_said(ctx, weighing_id))
    marks = [(m, format_length(m, system)) for m in view.plan.marks_m]
    title = f"{view.row.fish.code} {view.row.name}"
    pdf = ruler_pdf(title, view.plan.length_m, marks, view.row.weighing.at)
    return Response(
        pdf,
        media_type="application/pdf",
        headers={"content-disposition": "inline; filename=ruler.pdf"},
    )


def _order(weighing_id: str, form: FormData) -> marking.MarkPiece:
    exact = form.number("each_kg")  # a button's figure, whatever the units on the screen
    equal = form.whole("equal", 0, 1, MAX_PORTIONS)  # a button's figure, too
    way = "count" if equal else form.text("way") or "serving"
    if way not in {"serving", "count", "slices", "hand"}:
        form.problems["way"] = "Choose how it is cut"
        way = "serving"
    return marking.MarkPiece(
        weighing_id,
        way,  # type: ignore[arg-type]
        serving_kg=exact or form.mass_kg("serving"),
        per_bag=form.whole("per_bag", portioning.PER_BAG, 1, by_hand.MAX_PER_BAG),
        tail_apart=form.text("tail") != "in",
        length_m=form.length_m("length", needed=False),
        number=equal or (form.whole("number", 0, 1, MAX_PORTIONS) if way == "count" else 0),
        slice_m=form.length_m("slice") if way == "slices" else 0.0,
        angle=(form.number("angle") or 90.0) if way == "slices" else 90.0,
        cuts=_cuts(form) if way == "hand" else (),
        square=form.flag("square"),
        least_kg=form.mass_kg("least") or 0.0,
    )


def _cuts(form: FormData) -> tuple[float, ...]:
    """Places that were dragged [m]."""
    try:
        return tuple(float(text) for text in form.text("cuts", 2000).split())
    except ValueError:
        form.problems["cuts"] = "These marks cannot be read; drag them again"
        return ()

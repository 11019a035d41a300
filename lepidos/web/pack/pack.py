"""Pack: pieces that wait, marks on one, sealing and labels."""

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from lepidos.core.errors import OutOfRange
from lepidos.core.units import OZ_KG
from lepidos.stations.base.context import what_was_done
from lepidos.stations.pack import bags, label, pack
from lepidos.web.drawings import fillet, qr
from lepidos.web.shell.forms import Form, FormData, system_of
from lepidos.web.shell.render import after, context_of, page, shows_again

router = APIRouter(include_in_schema=False)

_FIELDS = {"length": "length", "portions in a bag": "per_bag"}  # of a mark that cannot be
# Round figures to choose from, in the crew's own units.
SERVINGS_KG = {
    "metric": (0.150, 0.200, 0.250),
    "imperial": (5 * OZ_KG, 7 * OZ_KG, 9 * OZ_KG),
}


@router.get("/trips/{trip_id}/pack")
def list_pieces(request: Request, trip_id: str) -> Response:
    """What waits for a bag."""
    ctx = context_of(request)
    found = pack.list_pieces(ctx, trip_id)
    return page(request, "pack_list.html", found.view, here="pack", found=found)


@router.get("/pieces/{weighing_id}")
def show_piece(request: Request, weighing_id: str) -> Response:
    """One piece with its marks and its next label."""
    ctx = context_of(request)
    form = getattr(request.state, "form", None) or _query(request)
    form.problems = {}
    marks = _marks(form)
    request.state.problems = {**form.problems, **getattr(request.state, "problems", {})}
    if form.problems:
        marks = pack.Marks()
    fits = True
    try:
        view = pack.view_piece(ctx, weighing_id, marks)
    except OutOfRange as error:
        # marks that cannot be are said at their field, on the piece as it would usually be marked
        said = {_FIELDS.get(error.name, "serving"): str(error)}
        request.state.problems, fits = {**said, **request.state.problems}, False
        view = pack.view_piece(ctx, weighing_id, pack.Marks())
    sealed_label = None
    if last := request.query_params.get("done"):
        done = what_was_done(ctx, last)
        if done and done.subject_kind == "bag" and done.subject_id:
            sealed_label = label.label_of(ctx, done.subject_id, form.system)
    shown = page(
        request,
        "pack.html",
        view.view,
        here="pack",
        pack=view,
        drawing=fillet.fillet(view, form.system),
        servings=SERVINGS_KG[form.system],
        boneless=ctx.guide.plan_of(view.row.species).boneless,
        sealed_label=sealed_label,
        label_qr=qr.label_qr,
        printer_says=request.query_params.get("printer", "")[:200],
    )
    shown.status_code = 200 if fits else 422
    return shown


@router.post("/pieces/{weighing_id}/bags")
@shows_again(show_piece)
def seal_bag(request: Request, weighing_id: str, form: Form) -> Response:
    """Seal the next bag and print its label."""
    ctx, key = context_of(request), form.text("key")
    order = bags.SealBag(
        weighing_id,
        form.whole("index", 0, 0, 100),
        _marks(form),
        form.all("also"),
        form.mass_kg("weight"),
        form.system,
    )
    form.done()
    done = bags.seal_bag(ctx, key, order)
    said = "" if done.repeated else label.send_label(ctx, done.subject_id, form.system)
    return after(key, f"/pieces/{weighing_id}" + ("?printer=off" if said else ""))


@router.get("/bags/{bag_id}/label.pdf")
def label_pdf(request: Request, bag_id: str) -> Response:
    """A bag's label."""
    pdf = label.label_pdf(context_of(request), bag_id, system_of(request))
    return Response(
        pdf,
        media_type="application/pdf",
        headers={"content-disposition": "inline; filename=label.pdf"},
    )


@router.post("/bags/{bag_id}/print")
def print_again(request: Request, bag_id: str, form: Form) -> Response:
    """Print a label once more; nothing is written."""
    ctx = context_of(request)
    label.print_label(ctx, bag_id, form.system)
    return RedirectResponse(f"/b/{form.text('code')}?printed=1", 303)


def _query(request: Request) -> FormData:
    values = {k: request.query_params.getlist(k) for k in request.query_params}
    return FormData(values, {}, system_of(request))


def _marks(form: FormData) -> pack.Marks:
    chosen = "serving" in form.values
    serving = form.mass_kg("serving") if chosen else None
    if "serving_kg" in form.values and not chosen:
        # a button's figure is exact, whatever the units on the screen
        serving = _number(form, "serving_kg")
    return pack.Marks(
        serving_kg=serving,
        per_bag=form.whole("per_bag", pack.PER_BAG, 1, 12),
        tail_apart=form.text("tail") != "in",
        length_m=_number(form, "length_m") or form.length_m("length", needed=False),
    )


def _number(form: FormData, name: str) -> float:
    text = form.text(name)
    if not text:
        return 0.0
    try:
        return float(text)
    except ValueError:
        form.problems[name] = "Not a number"
        return 0.0

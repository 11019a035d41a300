"""Labels: of one bag as PDF, PNG and SVG, of many on sheets, and once more to the printer."""

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from lepidos.core.errors import Unknown
from lepidos.exchange.labelpdf import PAPERS, Sheet
from lepidos.stations.pack import label
from lepidos.web.pack.pack import show_pack
from lepidos.web.shell.forms import Form, FormData, system_of
from lepidos.web.shell.render import context_of, shows_again

router = APIRouter(include_in_schema=False)

KINDS = {"png": "image/png", "svg": "image/svg+xml"}


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


@router.get("/bags/{bag_id}/label.{kind}")
def label_picture(request: Request, bag_id: str, kind: str) -> Response:
    """A bag's label as a picture."""
    if kind not in KINDS:
        raise Unknown("kind of label", kind)
    made = label.label_picture(
        context_of(request), bag_id, "png" if kind == "png" else "svg", system_of(request)
    )
    return Response(made, media_type=KINDS[kind])


@router.post("/trips/{trip_id}/labels.pdf")
@shows_again(show_pack)
def label_sheets(request: Request, trip_id: str, form: Form) -> Response:
    """A trip's labels on sheets; nothing is written."""
    sheet, first = _sheet(form), form.whole("first", 1, 1, 200)
    form.done()
    pdf = label.sealed_labels(context_of(request), trip_id, form.system, sheet, first)
    return Response(
        pdf,
        media_type="application/pdf",
        headers={"content-disposition": "inline; filename=labels.pdf"},
    )


def _sheet(form: FormData) -> Sheet:
    paper = PAPERS.get(form.text("paper"))
    if paper is None:
        form.problems["sheet"] = "Choose the paper"
        paper = PAPERS["a4"]
    return Sheet(
        *paper,
        form.whole("across", 2, 1, 10),
        form.whole("down", 7, 1, 20),
        _mm(form, "left", 7.0),
        _mm(form, "top", 15.0),
        _mm(form, "gap", 2.5),
    )


def _mm(form: FormData, name: str, otherwise: float) -> float:
    value = form.number(name)
    if value is None:
        return otherwise
    if not 0 <= value <= 60:
        form.problems["sheet"] = "Margins and gaps are between 0 and 60 mm"
    return value

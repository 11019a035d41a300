"""Millimetres left by zone."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.stations.yieldbook import millimetres
from lepidos.web.drawings.gaps import gaps
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import Form
from lepidos.web.shell.render import after, context_of, page, shows_again

router = APIRouter(include_in_schema=False)


@router.get("/season/millimetres")
def show_millimetres(request: Request) -> Response:
    """Where meat stayed on the bones, cutter by cutter."""
    ctx = context_of(request)
    found = millimetres.view_millimetres(ctx)
    return page(
        request,
        "millimetres.html",
        current_view(request),
        here="yieldbook",
        found=found,
        draw=lambda cutter: (
            gaps(ctx.guide, found.drawn_on, found, cutter) if found.drawn_on else None
        ),
    )


@router.post("/season/millimetres")
@shows_again(show_millimetres)
def scrape(request: Request, form: Form) -> Response:
    """Meat that was scraped off a frame."""
    key = form.text("key")
    order = millimetres.Scrape(
        form.text("fish"), form.text("side"), form.text("zone"), form.mass_kg("weight"), form.system
    )
    form.done()
    millimetres.scrape(context_of(request), key, order)
    return after(key, "/season/millimetres")

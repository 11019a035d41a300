"""Millimetres left by zone."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.fish.anatomy import MUSCLE_DENSITY
from lepidos.stations.yieldbook import millimetres
from lepidos.web.drawings.gaps import gaps
from lepidos.web.shell.current import current_view
from lepidos.web.shell.orders import by_form
from lepidos.web.shell.render import context_of, page

router = APIRouter(include_in_schema=False)


@router.get("/season/millimetres")
def show_millimetres(request: Request) -> Response:
    """Where meat stayed on the bones, cutter by cutter."""
    ctx = context_of(request)
    found = millimetres.view_millimetres(ctx)
    return page(
        request,
        "yieldbook/millimetres.html",
        current_view(request),
        here="yieldbook",
        found=found,
        density=MUSCLE_DENSITY,
        draw=lambda cutter: (
            gaps(ctx.guide, found.drawn_on, found, cutter) if found.drawn_on else None
        ),
    )


by_form(router, "/season/millimetres", millimetres.scrape, show_millimetres, "/season/millimetres")

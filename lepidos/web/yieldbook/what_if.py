"""What a fish would give, and what another way would change."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.cutting.model import Skin
from lepidos.core.errors import BadInput, Refused
from lepidos.core.units import parse_length_m
from lepidos.stations.yieldbook import what_if
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import system_of
from lepidos.web.shell.render import context_of, page

router = APIRouter(include_in_schema=False)


@router.get("/season/what-if")
def show_what_if(request: Request) -> Response:
    """A fish that is named: what it would give, by whom that is known, and otherwise."""
    ctx, query = context_of(request), request.query_params
    asked = {name: query.get(name, "")[:60] for name in ("species", "length", "cutter")}
    skin: Skin = "off" if query.get("skin") == "off" else "on"
    found = None
    if asked["species"]:
        try:
            length_m = parse_length_m(asked["length"], system_of(request))
            found = what_if.what_if(ctx, asked["species"], length_m, skin, asked["cutter"])
        except BadInput as error:
            request.state.problems = {"length": str(error)}
        except Refused as error:
            request.state.problems = error.problems
    most = max((s.fillet.high for s in found.sources), default=0.0) if found else 0.0
    if found:
        most = max([most, *(o.fillet.high for o in found.others)])
    return page(
        request,
        "yieldbook/what_if.html",
        current_view(request),
        here="yieldbook",
        found=found,
        asked=asked,
        skin=skin,
        most=most,
        cutters=what_if.cutters_known(ctx),
        names=sorted(str(one.name) for one in ctx.guide.species.values()),
    )

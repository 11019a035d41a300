"""What belongs to no station: undo, units, theme."""

from typing import cast
from urllib.parse import parse_qsl, urlencode, urlsplit

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import RedirectResponse, Response

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.errors import Unknown
from lepidos.core.fish.species import LengthType
from lepidos.core.units import DAY_S, LB_KG, System, format_mass, format_range, parse_length_m
from lepidos.stations.base.context import AppContext, what_was_done
from lepidos.stations.table.fish_view import scale_display
from lepidos.stations.undo.undo import UndoRow, undo_row
from lepidos.web.shell.access import may_undo, role_of
from lepidos.web.shell.forms import Form, system_of
from lepidos.web.shell.render import after, context_of, told

router = APIRouter(include_in_schema=False)

YEAR_S = 365 * DAY_S


@router.post("/undo")
def undo(request: Request, form: Form) -> Response:
    """Undo an earlier row, and return to the page one came from."""
    key, order = form.text("key"), UndoRow(form.text("kind"), form.text("id"))
    form.done()
    back = here(form.text("back", 600))
    if not may_undo(request, order):
        said = f"This device is in as {role_of(request)}. That is for the crew to undo."
        raise HTTPException(403, said)
    undo_row(context_of(request), key, order)
    # a trip's own pages go with it
    return after(key, "/trips" if order.kind == "new trip" else back)


@router.get("/live/done/{key}")
def live_done(request: Request, key: str) -> Response:
    """What the request with a key did, for the page's script that sent it."""
    done = what_was_done(context_of(request), key)
    if done is None:
        raise Unknown("request", key, ())
    return told(done)


@router.post("/units")
def switch_units(request: Request, form: Form) -> Response:
    """kg and cm, or lb, oz and in."""
    other = "metric" if form.system == "imperial" else "imperial"
    response = RedirectResponse(here(form.text("back", 600)), 303)
    response.set_cookie("units", other, max_age=YEAR_S, samesite="strict", httponly=True)
    return response


@router.post("/theme")
def switch_theme(request: Request, form: Form) -> Response:
    """Day, or night for headlamps."""
    other = "day" if request.cookies.get("theme") == "night" else "night"
    response = RedirectResponse(here(form.text("back", 600)), 303)
    response.set_cookie("theme", other, max_age=YEAR_S, samesite="strict", httponly=True)
    return response


@router.get("/live/weight")
def live_weight(request: Request) -> dict[str, str]:
    """The weight to expect from a length as it is being typed, in the crew's units."""
    asked, system = request.query_params, system_of(request)
    species = context_of(request).guide.one(asked.get("species", ""))
    length_m = parse_length_m(asked.get("length", "")[:60], system)
    kind = cast(LengthType, asked.get("length_type") or species.length_type)
    if kind not in species.length_types:
        raise Unknown("length type", kind[:30], species.length_types)
    usual = weight_from_length(length_m, kind, species)
    return {
        "value": f"{format_mass(usual.value, system)} est.",
        "range": format_range(usual.low, usual.high, system),
    }


@router.get("/live/scale")
def live_scale(request: Request) -> dict[str, str | bool | float]:
    """The scale's display in the crew's units; a silent scale is a display too."""
    return shown(context_of(request), system_of(request), request.query_params.get("at", "")[:60])


def shown(ctx: AppContext, system: System, at: str = "") -> dict[str, str | bool | float]:
    """What a page's display needs: text in the crew's units, the mass, and the load's mark.

    `at` is the name of a scale, or the key of one that is plugged into the device that asks.
    """
    imperial = system == "imperial"
    reading = scale_display(ctx, at)
    if isinstance(reading, str):
        return {"shown": "–", "steady": False, "off": True, "note": reading, "kg": 0, "mark": ""}

    def show(kg: float) -> str:
        # + 0.0 turns a rounded minus zero into zero
        return f"{round(kg / LB_KG, 2) + 0.0:.2f}" if imperial else f"{round(kg, 3) + 0.0:.3f}"

    tray = f"tray {show(reading.tare_kg)} taken off" if reading.tare_kg else ""
    return {
        "shown": show(reading.kg),
        "steady": reading.steady,
        "off": False,
        "note": tray,
        "kg": round(reading.kg, 4),
        "mark": reading.mark,
    }


def here(path: str) -> str:
    """A path on this site without an earlier answer in it; anything else leads home."""
    try:
        parts = urlsplit(path)
    except ValueError:
        return "/"
    if parts.scheme or parts.netloc or not parts.path.startswith("/") or "\\" in path:
        return "/"
    query = urlencode([(k, v) for k, v in parse_qsl(parts.query) if k not in {"done", "printer"}])
    clean = "/" + parts.path.lstrip("/")
    return f"{clean}?{query}" if query else clean

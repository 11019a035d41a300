"""What a device keeps, so that the app opens on it when nothing answers: see `static/worker.js`."""

from functools import cache

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.stations.base.fish import landed
from lepidos.stations.base.pressing import WAITS
from lepidos.web.shell.access import role_of
from lepidos.web.shell.current import current_trip_id
from lepidos.web.shell.forms import system_of
from lepidos.web.shell.render import context_of
from lepidos.web.shell.static_files import STATIC, font_url, script_url, static_url

router = APIRouter(include_in_schema=False)

FONTS = STATIC / "vendor/fonts"
_OTHERS = (
    "mark.svg", "app.webmanifest", "vendor/bootstrap/bootstrap.min.css",
    "vendor/alpine/alpine-csp.min.js", "vendor/sortable/sortable.min.js",
)  # fmt: skip
WORKER = "worker.js"
MAX_FISH = 60
DRAWN_AT_ONCE = 40  # as drawings.js asks for them
_OF_A_TRIP = ("deck", "table", "plan", "pack", "ice")
_OF_THE_GUIDE = (
    "/first-aid", "/guide", "/guide/pieces", "/guide/tools", "/guide/techniques",
    "/guide/methods", "/guide/cautions", "/guide/do-not-eat",
)  # fmt: skip


@router.get("/worker.js")
def worker() -> Response:
    """The script that answers on a device when the app does not. It stands for the whole site."""
    headers = {"cache-control": "no-cache"}
    return Response((STATIC / WORKER).read_bytes(), media_type="text/javascript", headers=headers)


@router.get("/live/kept")
def list_kept(request: Request) -> dict[str, str | list[str]]:
    """What this device is to keep.

    `look` changes with units, colours, role and guide: what was kept under another look goes.
    `fresh` are fetched again now and then, `lasting` and `files` once, those of the fish aboard
    first; `start` is where "/" leads.
    """
    ctx, role = context_of(request), role_of(request)
    first: set[str] = set()
    trip = "" if role == "guest" else current_trip_id(request)
    fresh = [f"/trips/{trip}/{part}" for part in _OF_A_TRIP] if trip else []
    if trip:
        with ctx.store.reading():
            waiting = [f for f, now in landed(ctx, trip) if now.stage in WAITS][:MAX_FISH]
        fresh += [f"/fish/{f.id}" for f in waiting]
        first = {str(f.species) for f in waiting}
    if role == "guest":
        fresh = ["/guest"]
    kinds = sorted(ctx.guide.species, key=lambda key: (key not in first, key))
    theme = "night" if request.cookies.get("theme") == "night" else "day"
    return {
        "look": " ".join((system_of(request), theme, role, str(ctx.guide.edition), script_url(""))),
        "start": fresh[0] if fresh else "/guide",
        "fresh": fresh,
        "lasting": [*_OF_THE_GUIDE, *(f"/guide/{key}" for key in kinds)],
        "drawings": [
            "/live/drawings?fish=" + ",".join(kinds[n : n + DRAWN_AT_ONCE])
            for n in range(0, len(kinds), DRAWN_AT_ONCE)
        ],
        "files": _files(),
    }


@cache
def _files() -> list[str]:
    """Every shipped file that a page asks for, by its lasting address."""
    scripts = [script_url(f.name) for f in sorted((STATIC / "js").glob("*.js"))]
    styles = [static_url(f.name) for f in sorted(STATIC.glob("*.css"))]
    fonts = [font_url(f.name.removesuffix("-normal.woff2")) for f in sorted(FONTS.glob("*.woff2"))]
    return [*scripts, *styles, *fonts, *map(static_url, _OTHERS)]

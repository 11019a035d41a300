"""The page of a fish for which nothing can be calculated: the reason, and how to mend it."""

from fastapi import FastAPI, Request
from fastapi.responses import Response

from lepidos.core.errors import CannotWorkOut
from lepidos.stations.base.fish import find_fish
from lepidos.stations.trips.trips import view_trip
from lepidos.web.shell import errors
from lepidos.web.shell.render import context_of, page


def install(app: FastAPI) -> None:
    """Show it in the place of any page that needs such a fish."""
    app.add_exception_handler(CannotWorkOut, _answer)


def _answer(request: Request, error: Exception) -> Response:
    if isinstance(error, CannotWorkOut) and request.method == "GET" and not errors.is_api(request):
        return show(request, error)
    return errors.ours(request, error)


def show(request: Request, error: CannotWorkOut) -> Response:
    """In the place of any page of that fish."""
    ctx = context_of(request)
    fish, now = find_fish(ctx, error.fish_id)
    return page(
        request,
        "deck/set_aside.html",
        view_trip(ctx, str(fish.trip_id)),
        here="deck",
        fish=fish,
        now=now,
        reason=error.reason,
        own_text=("species", str(fish.species)) in ctx.own_problems,
        species=sorted(ctx.guide.species.values(), key=lambda s: s.name),
    )

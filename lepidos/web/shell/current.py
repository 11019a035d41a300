"""The trip that a device works on: the one whose pages it saw last, else the newest.

A page that belongs to no trip (the guide, rule cards, a bag of last summer) shows this trip's day
on top and leads back to it.
"""

from contextlib import suppress

from fastapi import Request

from lepidos.core.errors import Unknown
from lepidos.stations.trips import trips
from lepidos.stations.trips.trips import TripView
from lepidos.web.shell.access import role_of
from lepidos.web.shell.render import context_of


def current_trip_id(request: Request) -> str:
    """Its id, "" before there is any trip."""
    view = current_view(request)
    return str(view.trip.id) if view else ""


def current_view(request: Request) -> TripView | None:
    """The trip as every page shows it, None before there is any."""
    ctx = context_of(request)
    if role_of(request) == "guest":
        return None  # what is on top of every page is the crew's
    if kept := request.cookies.get("trip", ""):
        with suppress(Unknown):  # a cookie from another data file
            return trips.view_trip(ctx, kept)
    latest = trips.latest_trip_id(ctx)
    return trips.view_trip(ctx, latest) if latest else None

"""Trips over the API."""

from fastapi import APIRouter, Request

from lepidos.stations.header.header import view_header
from lepidos.stations.trips import trips
from lepidos.web.api.orders import by_api
from lepidos.web.api.shapes import Page
from lepidos.web.api.views import trips as trip_views
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")


@router.get("/trips", tags=["trips"])
def list_trips(request: Request, page: Page = 1) -> trip_views.TripsOut:
    """Trips, newest first, 50 per page."""
    rows, total = trips.list_trips(context_of(request), page)
    return trip_views.TripsOut(total=total, trips=[trip_views.trip(t) for t in rows])


@router.get("/trips/{trip_id}", tags=["trips"])
def get_trip(request: Request, trip_id: str) -> trip_views.TripViewOut:
    """A trip with people, parties and gauges."""
    ctx = context_of(request)
    view = trips.view_trip(ctx, trip_id)
    return trip_views.trip_view(view, view_header(ctx, view.trip))


by_api(router, "trips", "/trips", trips.start_trip, "Start a trip.", without=("timezone",))
by_api(router, "deck", "/trips/{trip_id}/ice", trips.note_ice, "Record the ice aboard now.")

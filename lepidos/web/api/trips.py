"""Trips over the API."""

from datetime import date
from typing import Annotated, Literal

from fastapi import APIRouter, Request
from pydantic import Field, FiniteFloat

from lepidos.stations.header.header import view_header
from lepidos.stations.trips import trips
from lepidos.web.api.shapes import DoneOut, In, Key, Page, Text, done_out
from lepidos.web.api.views import trips as trip_views
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")


class TripIn(In):
    """A trip to start."""

    name: Text = ""
    kind: Literal["boat", "kayak", "pier", "beach", "shore", "bought"] = "boat"
    harbour: Text = ""
    on_date: date
    people: tuple[Text, ...] = ()
    parties: tuple[Text, ...] = ()
    sea_c: FiniteFloat | None = None
    air_c: FiniteFloat | None = None
    ice_kg: FiniteFloat | None = None


class IceIn(In):
    """Ice that is seen aboard now."""

    seen_kg: Annotated[FiniteFloat, Field(ge=0, le=5000)]


@router.get("/trips", tags=["trips"])
def list_trips(request: Request, page: Page = 1) -> trip_views.TripsOut:
    """Trips, newest first, 50 per page."""
    rows, total = trips.list_trips(context_of(request), page)
    return trip_views.TripsOut(total=total, trips=[trip_views.trip(t) for t in rows])


@router.post("/trips", tags=["trips"], status_code=201)
def start_trip(request: Request, key: Key, body: TripIn) -> DoneOut:
    """Start a trip."""
    order = trips.StartTrip(
        body.name,
        body.kind,
        body.harbour,
        body.on_date,
        tuple(body.people),
        tuple(body.parties),
        body.sea_c,
        body.air_c,
        body.ice_kg,
    )
    return done_out(trips.start_trip(context_of(request), key, order))


@router.get("/trips/{trip_id}", tags=["trips"])
def get_trip(request: Request, trip_id: str) -> trip_views.TripViewOut:
    """A trip with people, parties and gauges."""
    ctx = context_of(request)
    view = trips.view_trip(ctx, trip_id)
    return trip_views.trip_view(view, view_header(ctx, view.trip))


@router.post("/trips/{trip_id}/ice", tags=["deck"], status_code=201)
def note_ice(request: Request, trip_id: str, key: Key, body: IceIn) -> DoneOut:
    """Note the ice that is seen aboard now."""
    return done_out(trips.note_ice(context_of(request), key, trips.NoteIce(trip_id, body.seen_kg)))

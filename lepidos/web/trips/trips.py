"""Trips: the way in, and starting a new one."""

from urllib.parse import unquote
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from lepidos.stations.base.waters import home_waters, nearness
from lepidos.stations.deck import fish_in_hand
from lepidos.stations.trips import trips
from lepidos.web.shell.access import role_of
from lepidos.web.shell.current import current_trip_id
from lepidos.web.shell.forms import Form
from lepidos.web.shell.orders import by_form, read_order
from lepidos.web.shell.render import after, context_of, page, shows_again

router = APIRouter(include_in_schema=False)


def zone_said(request: Request) -> str:
    """The time zone that the browser is in; "" where the app was started with one of its own."""
    if request.app.state.settings.timezone:
        return ""
    return unquote(request.cookies.get("zone", ""))[:60]


@router.get("/")
def home(request: Request) -> Response:
    """To the deck of the trip at hand, or to the ways in."""
    if role_of(request) == "guest":
        return RedirectResponse("/guest", 303)
    latest = current_trip_id(request)
    return RedirectResponse(f"/trips/{latest}/deck" if latest else "/start", 303)


@router.get("/start")
def start(request: Request) -> Response:
    """The ways in: a fish that lies there, or a trip."""
    ctx = context_of(request)
    near = nearness(ctx)
    names = dict.fromkeys(
        name
        for one in sorted(ctx.guide.species.values(), key=lambda s: (near(s), s.name.lower()))
        for name in (one.name, *one.other_names)
    )
    asked = home_waters(ctx) is not None
    return page(request, "trips/start.html", names=names, waters={} if asked else ctx.guide.waters)


@router.post("/start")
@shows_again(start)
def take_in_hand(request: Request, form: Form) -> Response:
    """One fish, to its first cut."""
    if not form.text("species"):
        form.problems["species"] = "Say which fish it is"
    order = read_order(form, fish_in_hand.TakeInHand, timezone=zone_said(request))
    done = fish_in_hand.take_in_hand(context_of(request), form.text("key"), order)
    return after(form.text("key"), f"/fish/{done.subject_id}")


@router.get("/trips/new")
def new_trip(request: Request) -> Response:
    """The form for a new trip."""
    ctx = context_of(request)
    zone = trips.zone_of(ctx, zone_said(request))
    today = ctx.clock().astimezone(ZoneInfo(zone)).date()
    return page(request, "trips/trip_new.html", today=today.isoformat(), zone=zone)


@router.get("/trips")
def list_trips(request: Request) -> Response:
    """Every trip, newest first."""
    number = request.query_params.get("page", "1")
    at = int(number) if number.isascii() and number.isdecimal() and len(number) < 7 else 1
    rows, total = trips.list_trips(context_of(request), max(1, at))
    return page(request, "trips/trips.html", rows=rows, total=total, at=at, per_page=trips.PAGE)


@router.post("/trips")
@shows_again(new_trip)
def start_trip(request: Request, form: Form) -> Response:
    """Start a trip."""
    order = read_order(
        form,
        trips.StartTrip,
        people=tuple(form.text("people", 2000).split(",")),
        parties=tuple(form.text("parties", 2000).split(",")),
        timezone=zone_said(request),
    )
    done = trips.start_trip(context_of(request), form.text("key"), order)
    return after(form.text("key"), f"/trips/{done.subject_id}/deck")


@router.get("/trips/{trip_id}/ice")
def show_ice(request: Request, trip_id: str) -> Response:
    """The ice aboard and what it must do; what the chain of cold rests on."""
    ctx = context_of(request)
    view, account = trips.view_ice(ctx, trip_id)
    return page(request, "trips/ice.html", view, here="deck", account=account)


by_form(router, "/trips/{trip_id}/ice", trips.note_ice, show_ice, "/trips/{trip_id}/ice")


@router.post("/trips/{trip_id}/conditions")
@shows_again(show_ice)
def edit_trip(request: Request, trip_id: str, form: Form) -> Response:
    """Correct sea, air, ice, box and the run home."""
    ctx, key = context_of(request), form.text("key")
    view = trips.view_trip(ctx, trip_id)
    order = read_order(form, trips.EditTrip, view.zone, trip_id=trip_id)
    trips.edit_trip(ctx, key, order)
    return after(key, f"/trips/{trip_id}/ice")


@router.get("/trips/{trip_id}")
def show_trip(trip_id: str) -> Response:
    """A trip begins at its deck."""
    return RedirectResponse(f"/trips/{trip_id}/deck", 303)

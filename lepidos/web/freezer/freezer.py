"""Freezer: places, first-expiring first, find, put in, take out."""

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from lepidos.core.errors import Refused
from lepidos.core.pack.labels import read_code
from lepidos.guide.freezing import usual_freezing
from lepidos.stations.freezer import freezer, places
from lepidos.stations.pack.label import bag_meant_for
from lepidos.stations.trips import trips
from lepidos.web.shell.current import current_trip_id, current_view
from lepidos.web.shell.forms import Form
from lepidos.web.shell.render import after, context_of, page, shows_again

router = APIRouter(include_in_schema=False)


@router.get("/trips/{trip_id}/freezer")
def show_freezer(request: Request, trip_id: str) -> Response:
    """What is in, what waits outside, and finding a bag."""
    ctx = context_of(request)
    number = request.query_params.get("page", "1")
    at = int(number) if number.isascii() and number.isdecimal() and len(number) < 7 else 1
    found = freezer.view_freezer(ctx, trip_id, request.query_params.get("place", ""), max(1, at))
    return page(
        request,
        "freezer.html",
        trips.view_trip(ctx, trip_id),
        here="freezer",
        found=found,
        bag_meant=lambda bag: bag_meant_for(ctx, bag),
        coolings=usual_freezing().cooling,
        hard_c=usual_freezing().hard_c,
        start_c=usual_freezing().start_c,
    )


@router.post("/trips/{trip_id}/freezer/{place_id}")
@shows_again(show_freezer)
def say_place(request: Request, trip_id: str, place_id: str, form: Form) -> Response:
    """What a place is like."""
    celsius = form.temperature_c("celsius")
    litres = form.number("litres") or 0.0
    if celsius is None:
        form.problems.setdefault("celsius", "Say which temperature it holds, such as -18")
    form.done()
    order = places.SayPlace(place_id, celsius or 0.0, litres, form.text("cooling"), form.system)
    places.say_place(context_of(request), form.text("key"), order)
    return after(form.text("key"), f"/trips/{trip_id}/freezer")


@router.get("/find")
def find(request: Request) -> Response:
    """Find a bag by a typed or scanned code."""
    code = request.query_params.get("code", "")[:200]
    bag = freezer.find_bag(context_of(request), code).row.bag
    return RedirectResponse(f"/b/{bag.code}", 303)


find.again = lambda request: _freezer_again(request)  # type: ignore[attr-defined]


@router.post("/trips/{trip_id}/scan")
@shows_again(show_freezer)
def scan(request: Request, trip_id: str, form: Form) -> Response:
    """Find a bag by a photo of its label."""
    photo = form.files.get("photo", b"")
    if not photo:
        raise Refused({"photo": "Take or choose a photo of the label"})
    bag = freezer.scan_photo(context_of(request), photo).row.bag
    return RedirectResponse(f"/b/{bag.code}", 303)


@router.post("/trips/{trip_id}/places")
@shows_again(show_freezer)
def add_place(request: Request, trip_id: str, form: Form) -> Response:
    """A new place."""
    key, order = form.text("key"), freezer.AddPlace(form.text("name"))
    form.done()
    freezer.add_place(context_of(request), key, order)
    return after(key, f"/trips/{trip_id}/freezer")


@router.post("/trips/{trip_id}/putaway")
@shows_again(show_freezer)
def put_away(request: Request, trip_id: str, form: Form) -> Response:
    """Several bags into a place."""
    key, order = form.text("key"), freezer.PutAway(form.all("codes"), form.text("place"))
    form.done()
    freezer.put_away(context_of(request), key, order)
    return after(key, f"/trips/{trip_id}/freezer")


@router.get("/b/{code}")
def show_bag(request: Request, code: str) -> Response:
    """One bag: label, contents, history."""
    ctx = context_of(request)
    found = freezer.find_bag(ctx, code)
    return page(
        request,
        "bag.html",
        current_view(request),
        of_trip=trips.get_trip(ctx, str(found.row.bag.trip_id)),
        here="freezer",
        found=found,
        bag_meant=bag_meant_for(ctx, found.row.bag),
        reasons=freezer.REASONS,
        printed=request.query_params.get("printed") == "1",
    )


@router.post("/b/{code}/in")
@shows_again(show_bag)
def put_in(request: Request, code: str, form: Form) -> Response:
    """One bag into a place."""
    key, order = form.text("key"), freezer.PutAway((code,), form.text("place"))
    form.done()
    freezer.put_away(context_of(request), key, order)
    return after(key, f"/b/{read_code(code)}")


@router.post("/b/{code}/out")
@shows_again(show_bag)
def take_out(request: Request, code: str, form: Form) -> Response:
    """Take a bag out."""
    key, order = form.text("key"), freezer.TakeOut(code, form.text("why"))
    form.done()
    freezer.take_out(context_of(request), key, order)
    return after(key, f"/b/{read_code(code)}")


def _freezer_again(request: Request) -> Response:
    trip_id = request.query_params.get("trip", "") or current_trip_id(request)
    return show_freezer(request, trip_id)

"""Freezer: places, first-expiring first, find, put in, take out."""

from urllib.parse import urlencode

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response

from lepidos.core.errors import Refused, Unknown
from lepidos.core.freezer.keeping_time import USUAL_C
from lepidos.core.pack.labels import read_code
from lepidos.guide.freezing import usual_freezing
from lepidos.stations.freezer import find, freezer, moves, places
from lepidos.stations.pack.label import bag_meant_for
from lepidos.stations.trips import trips
from lepidos.web.drawings.charts import spark
from lepidos.web.shell.current import current_trip_id, current_view
from lepidos.web.shell.forms import Form
from lepidos.web.shell.orders import by_form
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
        "freezer/freezer.html",
        trips.view_trip(ctx, trip_id),
        here="freezer",
        found=found,
        bag_meant=lambda bag: bag_meant_for(ctx, bag),
        spark=spark,
        guide=usual_freezing(),
    )


@router.get("/find")
def find_code(request: Request) -> Response:
    """Find a bag by a typed or scanned code, or by words."""
    text = request.query_params.get("code", "")[:200]
    ctx = context_of(request)
    if place := places.place_meant(ctx, text):
        return RedirectResponse(f"/freezer/places/{place.id}", 303)
    if find.looks_like_words(ctx, text):
        return RedirectResponse(f"/freezer/find?{urlencode({'q': text})}", 303)
    return RedirectResponse(f"/b/{find.code_of(ctx, text)}", 303)


find_code.again = lambda request: _freezer_again(request)  # type: ignore[attr-defined]


@router.get("/freezer/find")
def find_words(request: Request) -> Response:
    """Bags by words, over all trips and years."""
    ctx, text = context_of(request), request.query_params.get("q", "")[:200]
    gone = request.query_params.get("gone") == "1"
    hits, total = find.find_bags(ctx, text, gone) if text.strip() else ([], 0)
    return page(
        request,
        "freezer/find.html",
        current_view(request),
        here="freezer",
        q=text,
        gone=gone,
        hits=hits,
        total=total,
        dishes=usual_freezing().dishes,
        today=ctx.clock().date(),
    )


@router.post("/freezer/scan")
@shows_again(find_words)
def scan(request: Request, form: Form) -> Response:
    """Find a bag by a photo of its label."""
    photo = form.files.get("photo", b"")
    if not photo:
        raise Refused({"photo": "Take or choose a photo of the label"})
    return RedirectResponse(f"/b/{find.code_on_photo(context_of(request), photo)}", 303)


@router.post("/freezer/look")
def look(request: Request, form: Form) -> Response:
    """A picture of the live camera: the code of a label on it, or why there is none yet."""
    try:
        code = find.code_on_photo(context_of(request), form.files.get("photo", b""))
    except (Refused, Unknown) as error:
        none_yet = isinstance(error, Refused)
        said = "Hold a label in front of it." if none_yet else "No bag has that code."
        return JSONResponse({"code": "", "said": said})
    return JSONResponse({"code": code, "said": ""})


by_form(
    router, "/trips/{trip_id}/places", places.add_place, show_freezer, "/trips/{trip_id}/freezer"
)


by_form(
    router, "/trips/{trip_id}/putaway", moves.put_away, show_freezer, "/trips/{trip_id}/freezer"
)


@router.post("/trips/{trip_id}/hand")
@shows_again(show_freezer)
def with_hand(request: Request, trip_id: str, form: Form) -> Response:
    """What is in hand goes to a place, or out."""
    ctx, key, codes = context_of(request), form.text("key"), form.all("codes")
    place, why, note = form.text("place"), form.text("why"), form.text("note")
    if note:
        why = "spoiled"
    form.done()
    if place:
        moves.put_away(ctx, key, moves.PutAway(codes, place))
    else:
        moves.take_out(ctx, key, moves.TakeOut(codes, why, note))
    back = form.text("back")
    return after(key, back if back.startswith("/freezer/") else f"/trips/{trip_id}/freezer")


@router.get("/b/{code}")
def show_bag(request: Request, code: str) -> Response:
    """One bag: label, contents, history."""
    ctx = context_of(request)
    found = freezer.find_bag(ctx, code)
    return page(
        request,
        "freezer/bag.html",
        current_view(request),
        of_trip=trips.get_trip(ctx, str(found.row.bag.trip_id)),
        here="freezer",
        found=found,
        bag_meant=bag_meant_for(ctx, found.row.bag),
        guide=usual_freezing(),
        usual_c=USUAL_C,
        reasons=moves.REASONS,
        printed=request.query_params.get("printed") == "1",
    )


@router.post("/b/{code}/in")
@shows_again(show_bag)
def put_in(request: Request, code: str, form: Form) -> Response:
    """One bag into a place: touched, or its code scanned."""
    ctx, scanned = context_of(request), form.text("scanned")
    place = places.place_meant(ctx, scanned) if scanned else None
    if scanned and place is None:
        form.problems["scanned"] = f"No place has the code or the name “{scanned[:40]}”"
    chosen = place.id if place else form.text("place")
    key, order = form.text("key"), moves.PutAway((code,), chosen)
    form.done()
    moves.put_away(context_of(request), key, order)
    return after(key, f"/b/{read_code(code)}")


@router.post("/b/{code}/out")
@shows_again(show_bag)
def take_out(request: Request, code: str, form: Form) -> Response:
    """Take a bag out."""
    note = form.text("note")
    why = "spoiled" if note else form.text("why")
    key, order = form.text("key"), moves.TakeOut((code,), why, note)
    form.done()
    moves.take_out(context_of(request), key, order)
    return after(key, f"/b/{read_code(code)}")


def _freezer_again(request: Request) -> Response:
    trip_id = request.query_params.get("trip", "") or current_trip_id(request)
    return show_freezer(request, trip_id)

"""The API of the freezer: places, their readings, bags, and what to use next."""

from datetime import date
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request

from lepidos.stations.freezer import (
    find,
    freezer,
    meals,
    moves,
    place_view,
    places,
    stocktake,
    temperature,
)
from lepidos.web.api.shapes import (
    CountIn,
    DoneOut,
    Json,
    Key,
    MealIn,
    OutIn,
    Page,
    PlaceIn,
    PlaceLikeIn,
    PutIn,
    ReadingsIn,
    done_out,
)
from lepidos.web.api.views import freezer as freezer_views
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")


@router.get("/places", tags=["freezer"])
def list_places(request: Request) -> list[Json]:
    """Freezer places, how many bags each holds, and what it is like where somebody said."""
    found = freezer.view_freezer(context_of(request))
    return [
        {
            "id": box.place.id,
            "name": box.place.name,
            "bags": box.number,
            "celsius": box.said.celsius if box.said else None,
            "litres": box.said.litres or None if box.said else None,
            "cooling": box.said.cooling if box.said else None,
            "kind": box.said.kind if box.said else None,
            "within_id": box.said.within_id if box.said else None,
            "measured_c": box.line.now_c if box.line else None,
            "measured_at": box.line.until.isoformat() if box.line else None,
        }
        for box in found.boxes
    ]


@router.post("/places", tags=["freezer"], status_code=201)
def add_place(request: Request, key: Key, body: PlaceIn) -> DoneOut:
    """A new place."""
    return done_out(places.add_place(context_of(request), key, places.AddPlace(body.name)))


@router.get("/bags", tags=["freezer"])
def list_bags(request: Request, place_id: str = "", page: Page = 1) -> Json:
    """Bags in the freezer, first-expiring first, 40 a page. `best_by` is by the log."""
    found = freezer.view_freezer(context_of(request), "", place_id, page)
    return {"total": found.total, "bags": [freezer_views.bag(r) for r in found.rows]}


@router.get("/bags/{code}", tags=["freezer"])
def get_bag(request: Request, code: str) -> Json:
    """A bag by its code: contents and history."""
    return freezer_views.bag_view(freezer.find_bag(context_of(request), code))


@router.post("/bags/{code}/in", tags=["freezer"], status_code=201)
def put_in(request: Request, code: str, key: Key, body: PutIn) -> DoneOut:
    """Put a bag into a place."""
    return done_out(moves.put_away(context_of(request), key, moves.PutAway((code,), body.place_id)))


@router.post("/bags/{code}/out", tags=["freezer"], status_code=201)
def take_out(request: Request, code: str, key: Key, body: OutIn) -> DoneOut:
    """Take a bag out."""
    order = moves.TakeOut((code,), body.why, body.note)
    return done_out(moves.take_out(context_of(request), key, order))


@router.get("/places/{place_id}", tags=["freezer"])
def get_place(request: Request, place_id: str) -> Json:
    """One place: how cold it was, what warm spells did, how long it keeps without power."""
    return freezer_views.place_view(place_view.view_place(context_of(request), place_id))


@router.post("/places/{place_id}/like", tags=["freezer"], status_code=201)
def say_place(request: Request, place_id: str, key: Key, body: PlaceLikeIn) -> DoneOut:
    """What a place is like."""
    order = places.SayPlace(
        place_id,
        body.celsius,
        body.litres,
        body.cooling,
        "metric",
        body.kind,
        body.within_id,
        body.kg_a_day,
    )
    return done_out(places.say_place(context_of(request), key, order))


@router.post("/places/{place_id}/readings", tags=["freezer"], status_code=201)
def take_readings(request: Request, place_id: str, key: Key, body: ReadingsIn) -> DoneOut:
    """Readings of a sensor in a place, rising in time; all of them or none."""
    order = temperature.TakeReadings(
        place_id,
        body.sensor,
        tuple(int(row.at.timestamp()) for row in body.readings),
        tuple(row.celsius for row in body.readings),
    )
    return done_out(temperature.take_readings(context_of(request), key, order))


@router.post("/places/{place_id}/count", tags=["freezer"], status_code=201)
def count_place(request: Request, place_id: str, key: Key, body: CountIn) -> DoneOut:
    """The codes that were seen in a place: what is missing, and what should not be there."""
    order = stocktake.CountPlace(place_id, tuple(body.codes))
    return done_out(stocktake.count_place(context_of(request), key, order))


@router.get("/find", tags=["freezer"])
def find_bags(request: Request, words: str, gone: bool = False) -> Json:
    """Bags that fit every word, over all trips and years; at most 200."""
    hits, total = find.find_bags(context_of(request), words[:200], gone)
    return {"total": total, "bags": [freezer_views.hit(hit) for hit in hits]}


@router.get("/use-next", tags=["freezer"])
def use_next(
    request: Request, people: int, on: date, purpose: str = "", thaw: str = "refrigerator"
) -> list[Json]:
    """Which bags make a meal, and when to take them out."""
    ctx = context_of(request)
    asked = meals.Asked(people, on, purpose[:40], thaw[:40])
    found = meals.suggest(ctx, asked, ZoneInfo(ctx.timezone))
    return [freezer_views.suggestion(one) for one in found]


@router.post("/meals", tags=["freezer"], status_code=201)
def plan_meal(request: Request, key: Key, body: MealIn) -> DoneOut:
    """These bags for a day."""
    ctx = context_of(request)
    codes = tuple(code.replace("-", "").upper() for code in body.codes)
    order = meals.PlanMeal(body.on, body.people, body.purpose, body.thaw, codes, ctx.timezone)
    return done_out(meals.plan_meal(ctx, key, order))

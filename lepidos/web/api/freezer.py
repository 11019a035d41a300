"""The freezer over the API: places, their readings, bags, and what to use next."""

from datetime import date
from functools import partial
from typing import Annotated
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from pydantic import AwareDatetime, Field, FiniteFloat

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
from lepidos.web.api.orders import by_api
from lepidos.web.api.shapes import DoneOut, In, Key, Page, Text, done_out
from lepidos.web.api.views import freezer as freezer_views
from lepidos.web.shell.render import context_of

router = APIRouter(prefix="/api/v1")


class PutIn(In):
    """A bag's new place."""

    place_id: Text


class OutIn(In):
    """Why a bag is taken out."""

    why: Text = "to eat"
    note: Text = ""


class ReadingIn(In):
    """One reading of a sensor."""

    at: AwareDatetime
    celsius: FiniteFloat


class ReadingsIn(In):
    """Readings of one sensor, rising in time."""

    sensor: Text = "sensor"
    readings: Annotated[list[ReadingIn], Field(min_length=1, max_length=20_000)]


class MealIn(In):
    """A meal from the freezer."""

    on: date
    people: Annotated[int, Field(ge=1, le=60)]
    purpose: Text = ""
    thaw: Text = "refrigerator"
    codes: Annotated[list[Text], Field(min_length=1, max_length=60)]


@router.get("/places", tags=["freezer"])
def list_places(request: Request) -> list[freezer_views.PlaceRowOut]:
    """Freezer places, how many bags each holds, and what it is like where somebody said."""
    found = freezer.view_freezer(context_of(request))
    return [freezer_views.place_row(box) for box in found.boxes]


@router.get("/places/{place_id}", tags=["freezer"])
def get_place(request: Request, place_id: str) -> freezer_views.PlaceOut:
    """One place: how cold it was, what warm spells did, how long it keeps without power."""
    return freezer_views.place_view(place_view.view_place(context_of(request), place_id))


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


@router.get("/bags", tags=["freezer"])
def list_bags(request: Request, place_id: str = "", page: Page = 1) -> freezer_views.BagsOut:
    """Bags in the freezer, first-expiring first, 40 per page. `best_by` is by the log."""
    found = freezer.view_freezer(context_of(request), "", place_id, page)
    return freezer_views.BagsOut(total=found.total, bags=[freezer_views.bag(r) for r in found.rows])


@router.get("/bags/{code}", tags=["freezer"])
def get_bag(request: Request, code: str) -> freezer_views.BagViewOut:
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


@router.get("/find", tags=["freezer"])
def find_bags(request: Request, words: str, gone: bool = False) -> freezer_views.HitsOut:
    """Bags that fit every word, over all trips and years; at most 200."""
    hits, total = find.find_bags(context_of(request), words[:200], gone)
    return freezer_views.HitsOut(total=total, bags=[freezer_views.hit(hit) for hit in hits])


@router.get("/use-next", tags=["freezer"])
def use_next(
    request: Request, people: int, on: date, purpose: str = "", thaw: str = "refrigerator"
) -> list[freezer_views.SuggestionOut]:
    """Which bags make a meal, and when to take them out."""
    ctx = context_of(request)
    asked = meals.MealAsked(people, on, purpose[:40], thaw[:40])
    found = meals.suggest(ctx, asked, ZoneInfo(ctx.timezone))
    return [freezer_views.suggestion(one) for one in found]


@router.post("/meals", tags=["freezer"], status_code=201)
def plan_meal(request: Request, key: Key, body: MealIn) -> DoneOut:
    """These bags for a day."""
    ctx = context_of(request)
    codes = tuple(code.replace("-", "").upper() for code in body.codes)
    order = meals.PlanMeal(body.on, body.people, body.purpose, body.thaw, codes, ctx.timezone)
    return done_out(meals.plan_meal(ctx, key, order))


write = partial(by_api, router, "freezer")
write("/places", places.add_place, "Add a freezer place.")
write(
    "/places/{place_id}/like",
    places.say_place,
    "Set how cold a place is, its size and its cooling.",
    names={"kg_day": "kg_a_day"},
)
write("/places/{place_id}/count", stocktake.count_place, "Record which bags were seen in a place.")

"""Use next: meals from the freezer, the month, and the calendar feed."""

from datetime import date, timedelta
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.responses import Response
from starlette.datastructures import QueryParams

from lepidos.core.errors import Refused
from lepidos.guide.freezing import usual_freezing
from lepidos.guide.packing import usual_packing
from lepidos.stations.freezer import calendar, meals
from lepidos.web.shell.current import current_view
from lepidos.web.shell.orders import by_form
from lepidos.web.shell.render import context_of, page

router = APIRouter(include_in_schema=False)


def _zone(request: Request) -> ZoneInfo:
    view = current_view(request)
    return view.zone if view else ZoneInfo(context_of(request).timezone)


@router.get("/freezer/next")
def show_next(request: Request) -> Response:
    """For how many, when, and how: which bags, and when to take them out."""
    ctx, query, zone = context_of(request), request.query_params, _zone(request)
    today = ctx.clock().astimezone(zone).date()
    left = meals.what_is_left(ctx, zone)
    asked, problems = _asked(query, today, left.house.people)
    found = []
    if not problems:
        try:
            found = meals.suggest(ctx, asked, zone)
        except Refused as error:
            problems = error.problems
    if problems:
        request.state.problems = {**getattr(request.state, "problems", {}), **problems}
    events = calendar.events(ctx, zone)
    return page(
        request,
        "freezer/use_next.html",
        current_view(request),
        here="freezer",
        asked=asked,
        found=found,
        left=left,
        month=calendar.month_of(events, _day(query.get("month", ""), today)),
        today=today,
        guide=usual_freezing(),
        purposes=ctx.guide.methods.purposes,
        advisory=usual_packing().advisory,
        names=lambda meal: meals.names_of(ctx, meal),
    )


def _asked(query: QueryParams, today: date, people: int) -> tuple[meals.MealAsked, dict[str, str]]:
    problems: dict[str, str] = {}
    number = query.get("people", "")[:6]
    if number and not (number.isascii() and number.isdecimal()):
        problems["people"] = "A whole number of people"
        number = ""
    on = _day(query.get("on", ""), today + timedelta(days=1))
    if on < today:
        problems["on"] = "From today on"
        on = today
    without = tuple(query.getlist("without"))[:20]
    return (
        meals.MealAsked(
            int(number or people),
            on,
            query.get("purpose", "")[:40],
            query.get("thaw", "") or "refrigerator",
            without=without,
        ),
        problems,
    )


def _day(text: str, otherwise: date) -> date:
    try:
        found = date.fromisoformat(text[:10] if len(text) != 7 else f"{text}-01")
    except ValueError:
        return otherwise
    return found if 2000 <= found.year <= 2100 else otherwise


by_form(
    router,
    "/freezer/next",
    meals.plan_meal,
    show_next,
    "/freezer/next",
    codes=lambda _, form: tuple(form.text("codes", 2000).split()),
    zone=lambda request, _: _zone(request).key,
)


by_form(
    router,
    "/freezer/house",
    meals.say_house,
    show_next,
    "/freezer/next",
    people="house",
)


@router.get("/freezer/calendar.ics")
def show_feed(request: Request) -> Response:
    """Take-out, meals, best-by and raw holds, for a calendar to follow."""
    data = calendar.feed(context_of(request), _zone(request))
    return Response(data, media_type="text/calendar; charset=utf-8")

"""The freezer's days: meals and when to take bags out, what is due, and raw holds that end."""

import calendar
import json
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from lepidos.core.pack.labels import count, show_code
from lepidos.exchange.calendar_ics import CalendarEntry, write_calendar
from lepidos.guide.freezing import usual_freezing
from lepidos.stations.base.context import AppContext
from lepidos.stations.freezer.all_bags import bags_in
from lepidos.stations.freezer.cold_records import all_logs
from lepidos.stations.freezer.holds import raw_hold, rule_now, seen_never
from lepidos.store.freezer import meals as meal_store
from lepidos.store.pack import bags

KEPT_DAYS = 90  # meals of the past stay in the feed so long
NAMED = 4  # bags of a day that are named one by one


@dataclass(frozen=True)
class DayEvent:
    """Something on a day: `kind` out, meal, due or hold; `codes` of its bags; `at` or all day."""

    day: date
    kind: str
    title: str
    codes: tuple[str, ...]
    at: datetime | None
    uid: str


def events(ctx: AppContext, zone: ZoneInfo) -> list[DayEvent]:
    """All there are from some days ago on, by day."""
    with ctx.store.reading():
        found = [*_meals(ctx, zone), *_due(ctx), *_holds(ctx, zone)]
    return sorted(found, key=lambda e: (e.day, e.at.timestamp() if e.at else 0, e.uid))


def _meals(ctx: AppContext, zone: ZoneInfo) -> Iterator[DayEvent]:
    for meal in meal_store.meals(ctx.clock() - timedelta(days=KEPT_DAYS)):
        codes = tuple(json.loads(meal.codes))
        rows = [bags.by_code(code) for code in codes]
        kinds = " and ".join(sorted({ctx.guide.known_or_named(b.species).name for b in rows}))
        eaten, out = meal.eaten_at.astimezone(zone), meal.out_at.astimezone(zone)
        way = usual_freezing().thawing[meal.thaw]
        yield DayEvent(
            eaten.date(), "meal", f"{kinds} for {meal.people}", codes, eaten, f"meal-{meal.id}"
        )
        if out < eaten:
            title = f"Take out {_codes(codes)}: thaw {way.name}"
            yield DayEvent(out.date(), "out", title, codes, out, f"out-{meal.id}")


def _due(ctx: AppContext) -> Iterator[DayEvent]:
    days: dict[date, list[str]] = {}
    for bag, now in bags_in(ctx):
        days.setdefault(now.best_by, []).append(bag.code)
    for day, codes in days.items():
        yield DayEvent(day, "due", f"Best by: {_codes(codes)}", tuple(codes), None, f"due-{day}")


def _holds(ctx: AppContext, zone: ZoneInfo) -> Iterator[DayEvent]:
    rows = [(bag, now) for bag, now in bags_in(ctx) if bag.purpose == "raw"]
    ids = [bag.id for bag, _ in rows]
    logs, moves, seen = all_logs(), bags.moves_of_bags(ids), seen_never(ctx, ids)
    _, rule = rule_now()
    for bag, _ in rows:
        at = raw_hold(ctx, rule, logs, bag, moves[bag.id], seen).due_at
        if at is not None:
            local = at.astimezone(zone)
            title = f"Raw hold of {show_code(bag.code)} ends, if its freezer stays cold"
            yield DayEvent(local.date(), "hold", title, (bag.code,), local, f"hold-{bag.id}")


def _codes(codes: list[str] | tuple[str, ...]) -> str:
    shown = ", ".join(show_code(code) for code in codes[:NAMED])
    return shown if len(codes) <= NAMED else f"{shown} and {count(len(codes) - NAMED, 'more bag')}"


def feed(ctx: AppContext, zone: ZoneInfo) -> bytes:
    """All of them as iCalendar."""
    rows = (
        CalendarEntry(e.uid, e.at or e.day, e.title, " ".join(show_code(code) for code in e.codes))
        for e in events(ctx, zone)
    )
    return write_calendar("Freezer", rows, ctx.clock())


@dataclass(frozen=True)
class Month:
    """A month as weeks of days; `events` by day; the months before and after it."""

    first: date
    weeks: tuple[tuple[date, ...], ...]
    events: dict[date, list[DayEvent]]
    before: date
    after: date


def month_of(found: list[DayEvent], day: date) -> Month:
    """The month of a day."""
    first = day.replace(day=1)
    weeks = calendar.Calendar().monthdatescalendar(day.year, day.month)
    by_day: dict[date, list[DayEvent]] = {}
    for event in found:
        by_day.setdefault(event.day, []).append(event)
    before = (first - timedelta(days=1)).replace(day=1)
    after = (first + timedelta(days=32)).replace(day=1)
    return Month(first, tuple(tuple(week) for week in weeks), by_day, before, after)

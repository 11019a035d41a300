"""What to use next: which bags make a meal, when to take them out, and how many meals are left."""

import json
import math
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from typing import Annotated
from zoneinfo import ZoneInfo

from annotated_types import Ge, Le

from lepidos.core.errors import Conflict, OutOfRange, Refused
from lepidos.core.freezer.thawing_time import thawing_hours
from lepidos.core.freezer.use_next import MAX_PEOPLE, MealChoice, meals_for, meals_left
from lepidos.core.freezer.use_next import Meal as Suggested
from lepidos.core.pack.labels import count, show_code
from lepidos.guide.freezing import raw_holds, usual_freezing
from lepidos.guide.packing import usual_packing
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.freezer.all_bags import bags_in
from lepidos.stations.freezer.cold_records import all_logs
from lepidos.stations.freezer.places import block_of, set_to
from lepidos.store.base import entries, settings
from lepidos.store.base.earlier import Act
from lepidos.store.freezer import meals as meal_store
from lepidos.store.freezer import places as place_store
from lepidos.store.pack import bags
from lepidos.store.records import Bag, BagNow, Meal

SHOWN = 6
SUPPER = time(18, 0)  # when a meal is on the table (practice)
USUAL_PEOPLE, USUAL_A_WEEK = 4, 1.0
MAX_AHEAD = timedelta(days=366)


@dataclass(frozen=True)
class House:
    """Who eats from the freezer: how many, and how often in a week."""

    people: int
    a_week: float


@dataclass(frozen=True)
class Suggestion:
    """A meal that can be had: its bags and where they are, thawing, and whether it is as asked.

    `out_at`: when to take them out; None: they are cooked from frozen.
    """

    meal: Suggested
    name: str
    rows: tuple[tuple[Bag, BagNow, str], ...]
    hours: float
    out_at: datetime
    too_late: bool
    for_it: bool
    cautions: tuple[str, ...]

    @property
    def codes(self) -> str:
        """Codes of its bags, as a form sends them."""
        return " ".join(bag.code for bag, _, _ in self.rows)


@dataclass(frozen=True)
class MealAsked:
    """What somebody wants: `purpose` "" for any; `without`: cautions whose fish are left out."""

    people: int
    on: date
    purpose: str = ""
    thaw: str = "refrigerator"
    without: tuple[str, ...] = ()


def suggest(ctx: AppContext, asked: MealAsked, zone: ZoneInfo) -> list[Suggestion]:
    """Meals of one kind of fish and cut each: enough first, then those asked for, then due first.

    Raises Refused.
    """
    if not 1 <= asked.people <= MAX_PEOPLE:
        raise Refused({"people": f"For 1 to {MAX_PEOPLE} people"})
    if asked.thaw not in usual_freezing().thawing:
        raise Refused({"thaw": "Choose how to thaw"})
    if abs(asked.on - ctx.clock().astimezone(zone).date()) > MAX_AHEAD:
        raise Refused({"on": "A day from today on, within a year"})
    eaten_at = datetime.combine(asked.on, SUPPER, zone)
    with ctx.store.reading():
        taken = {code for meal in meal_store.meals(ctx.clock()) for code in json.loads(meal.codes)}
        names = {p.id: p.name for p, _ in place_store.places()}
        rows = [(b, n) for b, n in bags_in(ctx) if b.code not in taken and _may(ctx, b, n, asked)]
        said = all_logs().said
    by_code = {bag.code: (bag, now) for bag, now in rows}
    choices = [
        MealChoice(b.code, f"{b.species} {b.piece} {b.skin}", b.servings, n.best_by)
        for b, n in rows
    ]
    found = []
    for meal in meals_for(asked.people, choices):
        mine = [by_code[choice.code] for choice in meal.bags]
        hours = max(
            thaw_hours(ctx, bag, asked.thaw, set_to(said.get(str(now.place_id))))
            for bag, now in mine
        )
        bag = mine[0][0]
        species = ctx.guide.known_or_named(bag.species)
        out_at = eaten_at - timedelta(hours=math.ceil(hours))
        found.append(
            Suggestion(
                meal,
                f"{species.name} {ctx.guide.piece(bag.piece).name}",
                tuple((b, n, names.get(str(n.place_id), "")) for b, n in mine),
                hours,
                out_at,
                out_at < ctx.clock(),
                bool(asked.purpose) and all(b.purpose == asked.purpose for b, _ in mine),
                tuple(
                    ctx.guide.own_caution(key, species)
                    for key in usual_packing().advisory
                    if species.warns_of(key)
                ),
            )
        )
    return sorted(found, key=lambda s: (s.meal.short > 0, not s.for_it))[:SHOWN]


def _may(ctx: AppContext, bag: Bag, now: BagNow, asked: MealAsked) -> bool:
    if not _eaten(ctx, bag):
        return False
    if asked.purpose == "raw" and now.raw_from is None:
        return False  # no log proved its hold
    species = ctx.guide.known_or_named(bag.species)
    return not any(species.warns_of(key) for key in asked.without)


def thaw_hours(ctx: AppContext, bag: Bag, how: str, frozen_c: float) -> float:
    """Hours until a bag is thawed; 0 where it is cooked from frozen."""
    way = usual_freezing().thawing[how]
    if not way.h:
        return 0.0
    block = block_of(bag, bag.thick_m or raw_holds().unknown_thick_m)
    water = usual_freezing().water[ctx.guide.known_or_named(bag.species).keeping.fat]
    try:
        return thawing_hours(block, way.celsius, min(-5.0, frozen_c), way.h, water) or 0.0
    except OutOfRange:
        return 24.0  # an odd size: a day, as advice has it for a thick piece


@dataclass(frozen=True)
class PlanMeal:
    """An order: these bags for so many people on a day."""

    on: date
    people: Annotated[int, Ge(1), Le(MAX_PEOPLE)]
    purpose: str
    thaw: str
    codes: tuple[str, ...]
    zone: str


def plan_meal(ctx: AppContext, key: str, order: PlanMeal) -> Receipt:
    """Keep it, and when to take the bags out. Raises Refused, Conflict, Unknown."""

    def do(at: datetime) -> Receipt:
        zone = ZoneInfo(order.zone)
        ahead = order.on - at.astimezone(zone).date()
        if not order.codes:
            raise Refused({"codes": "Choose at least one bag"})
        if not timedelta(0) <= ahead <= MAX_AHEAD:
            raise Refused({"on": "A day from today on, within a year"})
        eaten_at = datetime.combine(order.on, SUPPER, zone)
        if not 1 <= order.people <= MAX_PEOPLE or order.thaw not in usual_freezing().thawing:
            raise Refused({"people": f"For 1 to {MAX_PEOPLE} people"})
        said, hours, names = all_logs().said, 0.0, []
        spoken_for = {c for meal in meal_store.meals(at) for c in json.loads(meal.codes)}
        for code in order.codes:
            bag = bags.by_code(code)
            now = bags.now(bag.id)
            if now.state != "in" or code in spoken_for:
                raise Conflict(f"Bag {show_code(code)} is taken, or another meal's")
            kept_c = set_to(said.get(str(now.place_id)))
            hours = max(hours, thaw_hours(ctx, bag, order.thaw, kept_c))
            names.append(ctx.guide.known_or_named(bag.species).name)
        out_at = eaten_at - timedelta(hours=math.ceil(hours))
        row = meal_store.add(
            ctx.ids,
            at,
            eaten_at=eaten_at,
            people=order.people,
            purpose=order.purpose,
            thaw=order.thaw,
            codes=json.dumps(list(order.codes)),
            out_at=out_at,
        )
        what = f"{' and '.join(sorted(set(names)))} for {order.people} on {order.on:%A %-d %B}"
        when = f": take {count(len(order.codes), 'bag')} out {out_at:%A at %H:%M}" if hours else ""
        return Receipt("meal", row.id, f"{what}{when}")

    return run_idempotent(ctx, key, "freezer.meal", order, do)


def undo_meal(ctx: AppContext, row_id: str, at: datetime) -> str:
    meal_store.get(row_id)
    entries.undo(ctx.ids, "meal", row_id, at)
    return "That meal is off; its bags are free again"


@dataclass(frozen=True)
class SayHouse:
    """An order: how many eat from the freezer, and how often a week."""

    people: Annotated[int, Ge(1), Le(MAX_PEOPLE)] = 4
    a_week: float = 0.0


def say_house(ctx: AppContext, key: str, order: SayHouse) -> Receipt:
    """Keep it. Raises Refused."""

    def do(at: datetime) -> Receipt:
        problems = {}
        if not 1 <= order.people <= MAX_PEOPLE:
            problems["people"] = f"1 to {MAX_PEOPLE} people"
        if not 0.25 <= order.a_week <= 21:
            problems["a_week"] = "From once a month (0.25) to 21 times a week"
        if problems:
            raise Refused(problems)
        act = Act(ctx.ids, at)
        settings.put(ctx.ids, at, settings.HOUSEHOLD, str(order.people), act)
        settings.put(ctx.ids, at, settings.MEALS_A_WEEK, f"{order.a_week:g}", act)
        return Receipt("change", act.id, f"{order.people} eat, {order.a_week:g} times a week")

    return run_idempotent(ctx, key, "freezer.house", order, do)


def house_now() -> House:
    """Who eats from the freezer, from an open file."""
    people, a_week = settings.value(settings.HOUSEHOLD), settings.value(settings.MEALS_A_WEEK)
    return House(int(people) if people else USUAL_PEOPLE, float(a_week) if a_week else USUAL_A_WEEK)


@dataclass(frozen=True)
class Left:
    """What the freezer still holds for a household."""

    house: House
    servings: float
    meals: int
    until: date
    planned: tuple[Meal, ...]


def what_is_left(ctx: AppContext, zone: ZoneInfo) -> Left:
    """Meals in the freezer, those already planned among them, and until when they last."""
    with ctx.store.reading():
        house = house_now()
        servings = [bag.servings for bag, _ in bags_in(ctx) if _eaten(ctx, bag)]
        planned = tuple(meal_store.meals(ctx.clock() - timedelta(hours=6)))
    meals, weeks = meals_left(servings, house.people, house.a_week)
    until = ctx.clock().astimezone(zone).date() + timedelta(days=int(weeks * 7))
    return Left(house, sum(servings), meals, until, planned)


def names_of(ctx: AppContext, meal: Meal) -> str:
    """What a planned meal is."""
    with ctx.store.reading():
        rows = [bags.by_code(code) for code in json.loads(meal.codes)]
    kinds = {
        f"{ctx.guide.known_or_named(b.species).name} {ctx.guide.piece(b.piece).name}" for b in rows
    }
    return " and ".join(sorted(kinds))


def _eaten(ctx: AppContext, bag: Bag) -> bool:
    return ctx.guide.piece(bag.piece).counts_as != "rest"

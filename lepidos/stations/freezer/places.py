"""What freezer places are like, how long bags take there, and what goes in tonight."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta

from lepidos.core.errors import OutOfRange, Refused
from lepidos.core.fish.species import Species
from lepidos.core.freezer.freezing_time import Block, fish_of_water, freezing_hours
from lepidos.core.freezer.heat_balance import Load, enthalpy, neighbours_c
from lepidos.core.pack.bag_sizes import HEAD_ROOM_M
from lepidos.core.pack.labels import one_line
from lepidos.core.units import System, format_mass, format_temperature
from lepidos.guide.freezing import usual_freezing
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.digest import BESIDE
from lepidos.store.base.earlier import Act
from lepidos.store.freezer import places as place_store
from lepidos.store.records import Bag, Place, PlaceSaid

COLDEST_C, WARMEST_C = -80.0, 15.0
MAX_LITRES = 5000.0
MAX_KG_DAY = 500.0
MIN_WIDE_M, MIN_LONG_M = 0.15, 0.17
MAX_NAME_LENGTH = 60
DAY = timedelta(hours=24)
_PLACE = re.compile(r"/freezer/places/([0-9A-Z]{26})")
FELT_C = 1.0  # neighbours that get less warm than this are not told


@dataclass(frozen=True)
class AddPlace:
    """An order for a new freezer place."""

    name: str


def add_place(ctx: AppContext, key: str, order: AddPlace) -> Receipt:
    """A new place. Raises Refused."""

    def do(at: datetime) -> Receipt:
        name = one_line(order.name, 10_000)
        if not name:
            raise Refused({"name": "Give the place a name, such as “chest, top basket”"})
        if len(name) > MAX_NAME_LENGTH:
            raise Refused({"name": f"Keep it under {MAX_NAME_LENGTH} letters"})
        if place_store.place_named(name):
            raise Refused({"name": "There is a place of that name already"})
        place = place_store.add_place(ctx.ids, at, name)
        Act(ctx.ids, at).made("place", [place.id])
        return Receipt("new place", place.id, f"Place “{name}” is ready")

    return run_idempotent(ctx, key, "freezer.place", order, do)


def all_places(ctx: AppContext) -> list[Place]:
    """Every place, in the order in which they were made."""
    with ctx.store.reading():
        return [place for place, _ in place_store.places()]


def get_place(ctx: AppContext, place_id: str) -> Place:
    """Raises Unknown."""
    with ctx.store.reading():
        return place_store.place(place_id)


def place_text(ctx: AppContext, place_id: str) -> str:
    """What stands in a place's own code."""
    return f"{ctx.link_base}/freezer/places/{place_id}"


def place_meant(ctx: AppContext, text: str) -> Place | None:
    """The place whose code was scanned, or whose name was typed; None: no place's."""
    with ctx.store.reading():
        found = _PLACE.search(text)
        key = found[1] if found else text.strip()
        for place, _ in place_store.places():
            if key in (place.id, place.name) or key.casefold() == place.name.casefold():
                return place
    return None


@dataclass(frozen=True)
class SayPlace:
    """A freezer place: how cold it is kept, its size, its cooling.

    `litres` 0: nobody knows; `within_id`: the freezer that a drawer belongs to.
    """

    place_id: str
    celsius: float
    litres: float = 0.0
    cooling: str = "still"
    system: System = field(default="metric", metadata=BESIDE)
    kind: str = "freezer"
    within_id: str = ""
    kg_day: float = 0.0


def say_place(ctx: AppContext, key: str, order: SayPlace) -> Receipt:
    """Keep it. Raises Refused with the field, Unknown."""

    def do(at: datetime) -> Receipt:
        place = place_store.place(order.place_id)
        problems = {}
        if not COLDEST_C <= order.celsius <= WARMEST_C:
            low, high = (format_temperature(c, order.system) for c in (COLDEST_C, WARMEST_C))
            problems["celsius"] = f"A freezer is between {low} and {high}"
        if not 0 <= order.litres <= MAX_LITRES:
            problems["litres"] = (
                f"Up to {MAX_LITRES:g} litres. Leave the size empty if you do not know it"
            )
        if order.cooling not in usual_freezing().cooling:
            problems["cooling"] = "Choose how it takes the heat off"
        if not 0 <= order.kg_day <= MAX_KG_DAY:
            most = format_mass(MAX_KG_DAY, order.system)
            problems["kg_day"] = f"Up to {most} a day; empty when nobody knows"
        if order.kind not in usual_freezing().kinds:
            problems["kind"] = "Choose what it is"
        if order.within_id and _inside(order.within_id, place.id):
            problems["within"] = "A place cannot be inside itself"
        if problems:
            raise Refused(problems)
        row = place_store.say_place(
            ctx.ids,
            at,
            place=place.id,
            celsius=order.celsius,
            litres=order.litres,
            cooling=order.cooling,
            kind=order.kind,
            within=order.within_id or None,
            kg_day=order.kg_day,
        )
        cold = format_temperature(order.celsius, order.system)
        return Receipt("place said", row.id, f"{place.name}: {cold}")

    return run_idempotent(ctx, key, "freezer.said", order, do)


def _inside(outer_id: str, place_id: str) -> bool:
    """Whether a place is another one, or that one is in it, however deep. Raises Unknown."""
    said, at = place_store.said_of_places(), place_store.place(outer_id).id
    seen: set[str] = set()
    while at and at not in seen:
        if at == place_id:
            return True
        seen.add(at)
        at = (said[at].within_id or "") if at in said else ""
    return False


@dataclass(frozen=True)
class Tonight:
    """What would become of bags that wait, in one place.

    `hours` until the slowest of them that go in first is hard; None: never, or nobody knows how
    thick they are (`unknown`). `days`: how many bags go in on each day, most pressing first; empty
    when nobody knows the place's litres. `takes_kg`: from, to, a day; `today_kg` went in already.
    `neighbours_c`: how warm what lies there gets when all that waits goes in; None: as it is.
    """

    hours: float | None
    unknown: bool
    days: tuple[int, ...]
    takes_kg: tuple[float, float]
    today_kg: float
    celsius: float
    said: bool
    order: tuple[str, ...]
    neighbours_c: float | None = None

    @property
    def never(self) -> bool:
        """It is not cold enough to make them hard."""
        return self.hours is None and not self.unknown


def block_of(bag: Bag, thick_m: float) -> Block:
    """A bag as it freezes and thaws; the smallest usual one where nobody knows its size."""
    long_m = max(0.05, bag.length_m - HEAD_ROOM_M) if bag.length_m else MIN_LONG_M
    return Block(thick_m, bag.width_m or MIN_WIDE_M, long_m)


def set_to(said: PlaceSaid | None) -> float:
    """What a place is set to [°C]; a usual freezer where nobody said."""
    return said.celsius if said else usual_freezing().usual_c


def hours_to_hard(species: Species, bag: Bag, celsius: float, cooling: str) -> float | None:
    """Hours until a bag in one layer is hard; None: never. Raises OutOfRange when nobody knows how
    thick it is. The smallest usual bag where nobody knows its size: thickness counts most.
    """
    usual = usual_freezing()
    block = block_of(bag, bag.thick_m)
    fish = fish_of_water(usual.water[species.keeping.fat])
    h = usual.cooling[cooling].h
    return freezing_hours(block, celsius, usual.start_c, h, fish, usual.hard_c)


def tonight(
    place: Place,
    said: Mapping[str, PlaceSaid],
    waiting: Sequence[tuple[Bag, Species]],
    today_kg: float,
    there_kg: float = 0.0,
) -> Tonight:
    """What would become of the bags that wait, in this place: how long, and how many a day.

    Fat fish and what is meant raw go first, then what keeps least long.
    """
    usual, now = usual_freezing(), said.get(place.id)
    celsius = now.celsius if now else usual.usual_c
    cooling = now.cooling if now else "still"
    ordered = sorted(waiting, key=_pressing)
    low, high = _kg_a_day(now)
    days = _days(ordered, (low + high) / 2, today_kg)
    first = ordered[: days[0]] if days else ordered
    hours, unknown = _slowest(first, celsius, cooling)
    order = tuple(bag.code for bag, _ in ordered)
    all_kg = sum(bag.kg for bag, _ in ordered)
    warmed = _neighbours(now, there_kg, hours, all_kg)
    known = now is not None
    return Tonight(hours, unknown, days, (low, high), today_kg, celsius, known, order, warmed)


def _neighbours(
    said: PlaceSaid | None, there_kg: float, hours: float | None, warm_kg: float
) -> float | None:
    """How warm what lies in a place gets when bags go in [°C]; None: not known, or no warmer.

    The machine takes what a day of its kilograms comes to, for as long as the bags need.
    """
    usual = usual_freezing()
    day_kg = sum(_kg_a_day(said)) / 2
    if said is None or not day_kg or not hours or there_kg <= 0 or warm_kg <= 0:
        return None
    try:
        frozen, warm = Load(there_kg, said.celsius), Load(warm_kg, usual.start_c)
        a_kg = enthalpy(warm.celsius, warm.water) - enthalpy(frozen.celsius, frozen.water)
        taken_w = day_kg * a_kg / DAY.total_seconds()
        found = neighbours_c(warm, frozen, taken_w, hours)
    except OutOfRange:
        return None
    return found if found > said.celsius + FELT_C else None


def _pressing(row: tuple[Bag, Species]) -> tuple[bool, bool, int, datetime]:
    bag, species = row
    return (
        species.keeping.fat != "fatty",
        bag.purpose != "raw",
        species.keeping.months,
        bag.sealed_at,
    )


def _slowest(
    rows: Sequence[tuple[Bag, Species]], celsius: float, cooling: str
) -> tuple[float | None, bool]:
    """Hours until all of them are hard, and whether nobody knows."""
    found: list[float] = []
    for bag, species in rows:
        try:
            hours = hours_to_hard(species, bag, celsius, cooling)
        except OutOfRange:
            continue  # sealed without its size
        if hours is None:
            return None, False
        found.append(hours)
    return (max(found), False) if found else (None, True)


def _kg_a_day(said: PlaceSaid | None) -> tuple[float, float]:
    """What a place takes a day [kg], from and to: by its plate, else by its litres; 0: unknown."""
    if said is None:
        return 0.0, 0.0
    if said.kg_day:
        return said.kg_day, said.kg_day
    low, high = (said.litres * each for each in usual_freezing().kg_per_litre_day)
    return low, high


def _days(ordered: Sequence[tuple[Bag, Species]], each: float, today_kg: float) -> tuple[int, ...]:
    """How many bags go in on each day, by the middle of what the place takes; empty: unknown."""
    if not each or not ordered:
        return ()
    room, days = max(0.0, each - today_kg), [0]
    for bag, _ in ordered:
        # what is more than a whole day's room goes in all the same, on a day of its own
        if bag.kg > room and room < each:
            days.append(0)
            room = each
        days[-1] += 1
        room -= bag.kg
    return tuple(days)

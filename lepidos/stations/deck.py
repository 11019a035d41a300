"""Deck: a fish comes aboard, and lies on the slab until someone cuts it."""

from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from lepidos.core import catch
from lepidos.core.errors import OutOfRange, Refused, Unknown
from lepidos.core.species import LengthType, Species
from lepidos.core.units import System, format_length, format_mass, format_range
from lepidos.stations.cold import ColdNow, cold_of_trip, ice_needed_kg
from lepidos.stations.fish import RoundWeight, round_weight, total_length_m
from lepidos.stations.house import Done, House, once
from lepidos.stations.trips import TripView, view_in_transaction
from lepidos.store import fishes, trips
from lepidos.store.models import Fish, FishNow, Trip

STATES = ("bled", "gutted", "iced")
CLOCK_SLACK = timedelta(minutes=10)


@dataclass(frozen=True)
class LandFish:
    """An order to land a fish. `weight_kg` None means: estimate it from the length.

    `weighed_as` says what was on the scale: "whole" or "gutted". `system` is only for the words
    of an answer.
    """

    trip_id: str
    species: str
    length_m: float
    length_type: LengthType
    weight_kg: float | None = None
    weighed_as: str = "whole"
    party_id: str = ""
    caught_by: str = ""
    landed_at: datetime | None = None
    states: tuple[str, ...] = ()
    skin: str = "on"
    code: str = ""
    system: System = "metric"


@dataclass(frozen=True)
class SlabFish:
    """A fish as it lies on the slab."""

    fish: Fish
    now: FishNow
    species: Species
    weight: RoundWeight
    total_length_m: float
    party: str
    caught_by: str
    states: frozenset[str]
    cold: ColdNow | None


@dataclass(frozen=True)
class Slab:
    """The deck's page: the trip, the fish that wait, and those that are further on.

    `ice_needed_kg` is None on a trip whose sea temperature was not noted.
    """

    view: TripView
    waiting: tuple[SlabFish, ...]
    further: tuple[SlabFish, ...]
    ice_needed_kg: float | None

    @property
    def last(self) -> SlabFish | None:
        """The fish that was entered last: the next one is often of its kind."""
        return max((*self.waiting, *self.further), key=lambda f: str(f.fish.id), default=None)


def land_fish(house: House, key: str, order: LandFish) -> Done:
    """Land one fish. Raises Refused with the fields that cannot be, or Unknown for the trip."""

    def do(at: datetime) -> Done:
        trip = trips.get(order.trip_id)
        fish, question = add_fish(house, trip, order, at)
        return Done("fish", fish.id, f"{fish.code} landed", question)

    return once(house, key, "deck.land", order, do)


def check_landing(house: House, trip: Trip, order: LandFish, at: datetime) -> tuple[Species, str]:
    """The species of an order that can be carried out, and the question it raises, if any.

    Raises: Refused.
    """
    problems: dict[str, str] = {}
    question = ""
    try:
        species = house.guide.one(order.species)
    except Unknown as error:
        raise Refused({"species": str(error).capitalize()}) from error
    try:
        catch.check_length(order.length_m, species)
    except OutOfRange:
        longest = format_length(species.longest_cm / 100, order.system, 0)
        problems["length"] = (
            f"{format_length(order.length_m, order.system)} for {species.name}? "
            f"The longest known is about {longest}. Check the number and the unit."
        )
    if order.length_type not in {"total", "fork"}:
        problems["length_type"] = "Say fork or total length"
    if order.weighed_as not in {"whole", "gutted"}:
        problems["weighed_as"] = "Say whether it was weighed whole or gutted"
    if order.weight_kg is not None and not problems:
        problem, question = _doubt(order, species)
        if problem:
            problems["weight"] = problem
    if order.party_id and order.party_id not in {p.id for p in trips.parties_of(trip.id)}:
        problems["party"] = "That party is not on this trip"
    if order.caught_by and order.caught_by not in {p.id for p in trips.people_of(trip.id)}:
        problems["caught_by"] = "That person is not on this trip"
    if set(order.states) - set(STATES):
        problems["states"] = "Unknown state; use bled, gutted or iced"
    if order.skin not in {"on", "off"}:
        problems["skin"] = "Say skin on or off"
    landed = order.landed_at or at
    if landed > at + CLOCK_SLACK:
        problems["landed_at"] = "That is still to come; check the clock"
    elif landed.astimezone(ZoneInfo(trip.timezone)).date() < trip.on_date - timedelta(days=1):
        problems["landed_at"] = "That is before the trip"
    if problems:
        raise Refused(problems)
    return species, question


def add_fish(house: House, trip: Trip, order: LandFish, at: datetime) -> tuple[Fish, str]:
    """Write one landed fish, inside the caller's transaction. Raises Refused."""
    species, question = check_landing(house, trip, order, at)
    landed = order.landed_at or at
    used = fishes.codes_of(trip.id)
    if order.code and order.code in used:
        raise Refused({"code": f"This trip has a fish {order.code} already"})
    fish = fishes.add(
        house.ids,
        at,
        trip=trip.id,
        code=order.code or _next_code(species.code, used),
        species=species.key,
        party=order.party_id or None,
        caught_by=order.caught_by or None,
        skin=order.skin,
        landed_at=landed,
    )
    fishes.measure(
        house.ids,
        at,
        fish=fish.id,
        quantity="length",
        value=order.length_m,
        length_type=order.length_type,
        method="typed",
    )
    if order.weight_kg is not None:
        fishes.measure(
            house.ids,
            at,
            fish=fish.id,
            quantity=order.weighed_as,
            value=order.weight_kg,
            method="typed",
        )
    for state in order.states:
        fishes.add_fact(house.ids, landed, fish.id, state)
    fishes.refresh(fish.id, house.is_fillet)
    return fish, question


@dataclass(frozen=True)
class MarkState:
    """An order to note that a fish was bled, gutted or iced."""

    fish_id: str
    state: str


def mark_state(house: House, key: str, order: MarkState) -> Done:
    """Note a state of a fish, once. Raises Refused, Unknown."""

    def do(at: datetime) -> Done:
        if order.state not in STATES:
            raise Refused({"state": "Unknown state; use bled, gutted or iced"})
        fish, now = fishes.get(order.fish_id), fishes.now(order.fish_id)
        if now.stage == "withdrawn":
            raise Refused({"": f"The landing of {fish.code} was taken back"})
        if order.state in now.facts.split():
            raise Refused({"state": f"{fish.code} is {order.state} already"})
        fact = fishes.add_fact(house.ids, at, fish.id, order.state)
        fishes.refresh(fish.id, house.is_fillet)
        return Done("fact", fact.id, f"{fish.code} {order.state}")

    return once(house, key, "deck.state", order, do)


def view_slab(house: House, trip_id: str) -> Slab:
    """Every fish of a trip that stands. Raises Unknown."""
    with house.store.reading():
        view = view_in_transaction(house, trip_id)
        people = {p.id: p.name for p in view.people}
        parties = {p.id: p.name for p in view.parties}
        landed = fishes.of_trip(trip_id)
        cold = cold_of_trip(house, view.trip, landed)
        needed = ice_needed_kg(house, landed, cold) if view.trip.sea_c is not None else None
        rows = [
            _on_slab(house, fish, now, parties, people, cold.get(fish.id)) for fish, now in landed
        ]
    waiting = [f for f in rows if f.now.stage in {"slab", "table"}]
    # what spoils first lies on top: histamine fish, then the unbled, then what has used most of
    # its life on ice, then as landed
    waiting.sort(
        key=lambda f: (
            "histamine" not in f.species.traits,
            "bled" in f.states,
            -round(f.cold.life_used, 3) if f.cold else 0.0,
            f.fish.landed_at,
            f.fish.id,
        )
    )
    return Slab(view, tuple(waiting), tuple(f for f in rows if f.now.stage == "done"), needed)


def _on_slab(
    house: House,
    fish: Fish,
    now: FishNow,
    parties: dict[str, str],
    people: dict[str, str],
    cold: ColdNow | None,
) -> SlabFish:
    species = house.guide.one(fish.species)
    return SlabFish(
        fish,
        now,
        species,
        round_weight(now, species),
        total_length_m(now, species),
        parties.get(fish.party_id or "", ""),
        people.get(fish.caught_by_id or "", ""),
        frozenset(now.facts.split()),
        cold,
    )


def _doubt(order: LandFish, species: Species) -> tuple[str, str]:
    """(refusal, question) about a weight that does not go with its length."""
    kg = order.weight_kg or 0.0
    if not kg > 0:
        return "A weight must be more than nothing; leave it empty to estimate it", ""
    round_kg = kg * species.round_per_gutted.mean if order.weighed_as == "gutted" else kg
    doubt = catch.doubt_weight(round_kg, order.length_m, order.length_type, species)
    if doubt is None:
        return "", ""
    usual = format_range(doubt.usual.low, doubt.usual.high, order.system)
    length = format_length(order.length_m, order.system)
    perhaps = "".join(
        f" Perhaps {format_mass(other, order.system)} ({slip})?"
        for slip, other in doubt.perhaps[:2]
    )
    sentence = (
        f"{format_mass(kg, order.system)} for {species.name} of {length}? Usually {usual}.{perhaps}"
    )
    return (sentence, "") if doubt.refused else ("", sentence)


def _next_code(letters: str, used: set[str]) -> str:
    numbers = [
        int(code[len(letters) :])
        for code in used
        if code.startswith(letters) and code[len(letters) :].isdecimal()
    ]
    return f"{letters}{max(numbers, default=0) + 1}"


def with_code(order: LandFish, code: str) -> LandFish:
    """The same order for a fish that has a code of its own."""
    return replace(order, code=code)

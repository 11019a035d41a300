"""Deck: a fish comes aboard, and lies on the slab until someone cuts it."""

from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from lepidos.core.catch import length_weight
from lepidos.core.catch.handling import MEDIUM_STATES, STATES
from lepidos.core.cold.ice_balance import IceAccount
from lepidos.core.errors import OutOfRange, Refused, Unknown
from lepidos.core.fish.species import LengthType, Species
from lepidos.core.limits import LEAST_FISH_KG, MOST_FISH_KG
from lepidos.core.pack.labels import sentence
from lepidos.core.units import System, format_length, format_mass, format_range
from lepidos.stations.base.context import Done, House, once, state_of_file
from lepidos.stations.base.fish import (
    EARLIEST,
    LATEST,
    LONGEST_WAIT,
    RoundWeight,
    facts_by_fish,
    landed,
    round_weight,
    total_length_m,
)
from lepidos.stations.cold.cold import ColdNow, cold_of_trip, ice_account
from lepidos.stations.deck import rule_cards
from lepidos.stations.deck.handling import KNOWN, Handled, handled
from lepidos.stations.schedule.order import BenchOrder, Place, bench_order
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store import entries, fishes, trips
from lepidos.store.models import Fish, FishNow, Trip

AT_LANDING = ("dispatched", "bled", "gills_out", "gutted", *MEDIUM_STATES[:3])
LONGEST_FIGHT = timedelta(hours=12)  # from hook to deck
BY = ("urgency", "species", "party")
CLOCK_SLACK = timedelta(minutes=10)


@dataclass(frozen=True)
class LandFish:
    """An order to land a fish. `weight_kg` None means: estimate it from the length.

    `weighed_as` says what was on the scale: "whole" or "gutted". `waited_s` is how long the entry
    waited in a browser that could not reach us; it is no part of what makes two orders the same,
    since a retry has waited longer. `system` is only for the words of an answer.
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
    hooked_at: datetime | None = None
    states: tuple[str, ...] = ()
    skin: str = "on"
    code: str = ""
    method: str = "typed"
    system: System = "metric"
    waited_s: float = field(default=0.0, repr=False)


@dataclass(frozen=True)
class SlabFish:
    """A fish as it lies on the slab; `landed_as` are the states it was landed with."""

    fish: Fish
    now: FishNow
    species: Species
    weight: RoundWeight
    total_length_m: float
    party: str
    caught_by: str
    states: frozenset[str]
    landed_as: frozenset[str]
    cold: ColdNow | None
    handled: Handled
    place: Place | None


@dataclass(frozen=True)
class Slab:
    """The deck's page: the trip, the fish that wait, and those that are further on.

    `ice` is None on a trip where no ice was noted.
    """

    view: TripView
    waiting: tuple[SlabFish, ...]
    further: tuple[SlabFish, ...]
    order: BenchOrder
    ice: IceAccount | None

    @property
    def last(self) -> SlabFish | None:
        """The fish that was entered last: the next one is often of its kind."""
        return max((*self.waiting, *self.further), key=lambda f: str(f.fish.id), default=None)


def land_fish(house: House, key: str, order: LandFish) -> Done:
    """Land one fish. Raises Refused with the fields that cannot be, or Unknown for the trip."""

    def do(at: datetime) -> Done:
        trip = trips.get(order.trip_id)
        fish, question = add_fish(house, trip, order, at)
        said = (question, _rules_question(house, trip, fish, order.system))
        return Done("fish", fish.id, f"{fish.code} landed", " ".join(filter(None, said)))

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
        raise Refused({"species": sentence(str(error))}) from error
    try:
        length_weight.check_length(order.length_m, species)
    except OutOfRange:
        problems["length"] = _impossible_length(order, species)
    if order.length_type not in {"total", "fork"}:
        problems["length_type"] = "Say fork or total length"
    if order.weighed_as not in {"whole", "gutted"}:
        problems["weighed_as"] = "Say whether it was weighed whole or gutted"
    if not problems:
        question = _length_doubt(order, species)
    if order.weight_kg is not None and not problems:
        problem, of_weight = _weight_doubt(order, species)
        question = question or of_weight
        if problem:
            # a slip in the length makes a true weight look wrong
            problems["weight"] = f"{problem} {question}".strip()
    if order.party_id and order.party_id not in {p.id for p in trips.parties_of(trip.id)}:
        problems["party"] = "That party is not on this trip"
    if order.caught_by and order.caught_by not in {p.id for p in trips.people_of(trip.id)}:
        problems["caught_by"] = "That person is not on this trip"
    if set(order.states) - set(STATES):
        problems["states"] = f"Unknown state; use {KNOWN}"
    if order.skin not in {"on", "off"}:
        problems["skin"] = "Say skin on or off"
    if order.method not in {"typed", "scale", "file"}:
        problems["method"] = "Say typed, scale or file"
    problems |= _time_problems(trip, order, at)
    if problems:
        raise Refused(problems)
    return species, question


def landed_at(order: LandFish, at: datetime) -> datetime:
    """When the fish came aboard: as given, or now less what the entry waited."""
    waited = min(LONGEST_WAIT, timedelta(seconds=max(0.0, order.waited_s)))
    return order.landed_at or at - waited


def _time_problems(trip: Trip, order: LandFish, at: datetime) -> dict[str, str]:
    landed = landed_at(order, at)
    for name, moment in (("landed_at", landed), ("hooked_at", order.hooked_at)):
        if moment is not None and not EARLIEST <= moment <= LATEST:
            return {name: "Check the date: it is out of reach"}
    if order.landed_at is not None:
        # what nobody typed is the clock's own time, and a clock that is wrong must not stop a
        # landing; one that went back is behind the file
        known = entries.latest()
        latest = max(at, known.time) if known else at
        if landed > latest + CLOCK_SLACK:
            return {"landed_at": "That is still to come; check the clock"}
        if landed.astimezone(ZoneInfo(trip.timezone)).date() < trip.on_date - timedelta(days=1):
            return {"landed_at": "That is before the trip"}
    if order.hooked_at is None:
        return {}
    if order.hooked_at > landed + CLOCK_SLACK:
        return {"hooked_at": "Hooked after it was landed? Check the times"}
    if landed - order.hooked_at > LONGEST_FIGHT:
        return {"hooked_at": "That is more than half a day before it was landed"}
    return {}


def _rules_question(house: House, trip: Trip, fish: Fish, system: System) -> str:
    """What the crew's own cards say of a fish that was just landed."""
    said = [
        v.text for v in rule_cards.verdicts(house, fish, fishes.now(fish.id), system) if v.presses
    ]
    person = next((p.name for p in trips.people_of(trip.id) if p.id == fish.caught_by_id), "")
    said += rule_cards.full_cards(house, trip, fish.species, person)
    return " ".join(text if text.endswith(".") else f"{text}." for text in said)


def add_fish(house: House, trip: Trip, order: LandFish, at: datetime) -> tuple[Fish, str]:
    """Write one landed fish, inside the caller's transaction. Raises Refused."""
    species, question = check_landing(house, trip, order, at)
    landed = landed_at(order, at)
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
        hooked_at=order.hooked_at,
    )
    _measure_length(house, fish, order, at)
    if order.weight_kg is not None:
        _measure_weight(house, fish, order, at)
    for state in order.states:
        fishes.add_fact(house.ids, landed, fish.id, state)
    fishes.refresh(fish.id, house.is_fillet)
    return fish, question


def _measure_length(house: House, fish: Fish, order: LandFish, at: datetime) -> None:
    fishes.measure(
        house.ids,
        at,
        fish=fish.id,
        quantity="length",
        value=order.length_m,
        length_type=order.length_type,
        method="typed",
    )


def _measure_weight(house: House, fish: Fish, order: LandFish, at: datetime) -> None:
    fishes.measure(
        house.ids,
        at,
        fish=fish.id,
        quantity=order.weighed_as,
        value=order.weight_kg,
        method=order.method,
    )


@dataclass(frozen=True)
class CorrectFish:
    """An order to correct a landed fish: `noted` is what should have been noted.

    Its states, code and skin are left as they are; a weight of None leaves the weight.
    """

    fish_id: str
    noted: LandFish


def correct_fish(house: House, key: str, order: CorrectFish) -> Done:
    """Correct a fish. A new length or weight is a later row; nothing measured is overwritten.

    The species cannot change once pieces are weighed. Raises Refused, Unknown.
    """

    def do(at: datetime) -> Done:
        fish, now = fishes.get(order.fish_id), fishes.now(order.fish_id)
        if now.stage in {"withdrawn", "done"}:
            raise Refused({"": f"{fish.code} is not on the slab any more"})
        noted = replace(order.noted, landed_at=order.noted.landed_at or fish.landed_at)
        if noted.species != fish.species and fishes.weighings_of(fish.id):
            raise Refused({"species": f"{fish.code} has pieces weighed; undo those first"})
        trip = trips.get(fish.trip_id)
        species, question = check_landing(house, trip, noted, at)
        fish.species = species.key
        fish.party_id, fish.caught_by_id = noted.party_id or None, noted.caught_by or None
        fish.landed_at, fish.hooked_at = noted.landed_at, noted.hooked_at
        fish.save()
        if (noted.length_m, noted.length_type) != (now.length_m, now.length_type):
            _measure_length(house, fish, noted, at)
        known = now.whole_kg if noted.weighed_as == "whole" else now.gutted_kg
        if noted.weight_kg is not None and noted.weight_kg != known:
            _measure_weight(house, fish, noted, at)
        fishes.refresh(fish.id, house.is_fillet)
        said = (question, _rules_question(house, trip, fish, noted.system))
        return Done("choice", fish.id, f"{fish.code} corrected", " ".join(filter(None, said)))

    return once(house, key, "deck.correct", order, do)


def view_slab(house: House, trip_id: str, by: str = "urgency") -> Slab:
    """Every fish of a trip that stands, in an order of `BY`. Raises Unknown."""
    with house.store.reading():
        # several devices look at the deck after every landing: it is put together once
        key = ("slab", trip_id, by, house.search.found, house.changes.count, *state_of_file(house))
        return house.memo.get(key, lambda: _slab(house, trip_id, by))


def _slab(house: House, trip_id: str, by: str) -> Slab:
    view = view_in_transaction(house, trip_id)
    order = bench_order(house, view.trip)
    ice = ice_account(house, view.trip)
    make = SlabRows(house, view, order)
    rows = [make.row(fish, now) for fish, now in landed(house, trip_id)]
    rank = {place.fish_id: index for index, place in enumerate(order.places)}
    waiting = [f for f in rows if f.now.stage in {"slab", "table"}]
    waiting.sort(
        key=lambda f: (
            f.species.name if by == "species" else f.party if by == "party" else "",
            rank.get(str(f.fish.id), 0),
        )
    )
    further = tuple(f for f in rows if f.now.stage == "done")
    return Slab(view, tuple(waiting), further, order, ice)


class SlabRows:
    """Makes the rows of a trip's slab from what is read once. Inside an open transaction."""

    def __init__(self, house: House, view: TripView, order: BenchOrder) -> None:
        self.house = house
        self.people = {p.id: p.name for p in view.people}
        self.parties = {p.id: p.name for p in view.parties}
        self.cold = cold_of_trip(house, view.trip)
        self.facts = facts_by_fish(house, view.trip.id)
        self.looks = fishes.looks_of_trip(view.trip.id)
        self.places = {p.fish_id: p for p in order.places}

    def row(self, fish: Fish, now: FishNow) -> SlabFish:
        """One fish."""
        species = self.house.guide.one(fish.species)
        cold = self.cold.get(fish.id)
        return SlabFish(
            fish,
            now,
            species,
            round_weight(now, species),
            total_length_m(now, species),
            self.parties.get(fish.party_id or "", ""),
            self.people.get(fish.caught_by_id or "", ""),
            frozenset(now.facts.split()) & frozenset(STATES),
            frozenset(
                f.name for f in self.facts.get(fish.id, ())
                if f.at == fish.landed_at and f.name in AT_LANDING
            ),
            cold,
            handled(
                self.house, fish, species, self.facts.get(fish.id, []),
                self.looks.get(fish.id, {}), cold,
            ),
            self.places.get(fish.id),
        )  # fmt: skip


def _length_doubt(order: LandFish, species: Species) -> str:
    """The question about a length that such a fish seldom has; "" for a usual one."""
    doubt = length_weight.doubt_length(order.length_m, order.length_type, species)
    if doubt is None:
        return ""
    low, high = (format_length(m, order.system, 0) for m in doubt.usual_m)
    length = format_length(order.length_m, order.system)
    perhaps = _perhaps(doubt, order.system)
    return f"{length} for {species.name}? Usually {low} to {high}.{perhaps}"


def _impossible_length(order: LandFish, species: Species) -> str:
    length = format_length(order.length_m, order.system)
    longest = format_length(species.longest_cm / 100, order.system, 0)
    doubt = length_weight.doubt_length(order.length_m, order.length_type, species)
    perhaps = _perhaps(doubt, order.system) if doubt else ""
    return (
        f"{length} for {species.name}? The longest known is about {longest}. "
        f"Check the number and the unit.{perhaps}"
    )


def _perhaps(doubt: length_weight.LengthDoubt, system: System) -> str:
    """What the length may have been, as questions."""
    return "".join(
        f" Perhaps {format_length(m, system)} ({slip})?" for slip, m in doubt.perhaps[:2]
    )


def _weight_doubt(order: LandFish, species: Species) -> tuple[str, str]:
    """(refusal, question) about a weight that does not go with its length."""
    kg = order.weight_kg or 0.0
    if not kg > 0:
        return "A weight must be more than nothing; leave it empty to estimate it", ""
    if not LEAST_FISH_KG <= kg <= MOST_FISH_KG:
        return "That is no weight of a fish; check the number and the unit", ""
    round_kg = kg * species.round_per_gutted.mean if order.weighed_as == "gutted" else kg
    doubt = length_weight.doubt_weight(round_kg, order.length_m, order.length_type, species)
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

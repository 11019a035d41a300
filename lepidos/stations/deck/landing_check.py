"""What a landing says, and whether that can be: refused at its field, or asked about."""

from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from typing import Annotated, Literal, get_args
from zoneinfo import ZoneInfo

from annotated_types import Ge, Le, MaxLen

from lepidos.core.catch import length_weight, round_weight
from lepidos.core.catch.alike import MAX_ALIKE
from lepidos.core.catch.handling import STATES
from lepidos.core.errors import OutOfRange, Refused, Unknown
from lepidos.core.fish.lengths import KINDS_OF_LENGTH, LENGTHS, length_name, to_length_type
from lepidos.core.fish.species import LengthType, Species
from lepidos.core.limits import MAX_FISH_KG, MIN_FISH_KG
from lepidos.core.pack.labels import sentence
from lepidos.core.units import System, format_length, format_mass, format_range
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.digest import BESIDE, COUNTED
from lepidos.stations.base.fish import (
    EARLIEST,
    LATEST,
    MAX_WAIT,
)
from lepidos.stations.deck.handling import KNOWN
from lepidos.store.base import entries
from lepidos.store.records import Trip
from lepidos.store.trips import trips

MAX_FIGHT = timedelta(hours=12)  # from hook to deck
CLOCK_SLACK = timedelta(minutes=10)  # a device's clock may be so far off (practice)
MAX_CODE_LENGTH = 12

WeighedAs = Literal["whole", "gutted", "headed", "lies"]


@dataclass(frozen=True)
class LandFish:
    """A fish to land, by its length or its weight: what was not taken is estimated from the other.

    `weighed_as` says what was on the scale; "lies": the fish as it lies there, by its `states`.
    `called`: a fish that the guide lacks, by this name or "" for none, of which `species` is the
    kind nearest to it. `count` of them alike: `length_m` is the shortest's, `longest_m` the
    longest's, `weight_kg` of all together. `waited_s` is how long the entry waited in a browser
    that could not reach us: a retry has waited longer.
    """

    trip_id: str
    species: str
    length_m: float | None = field(default=None, metadata=COUNTED)
    length_type: LengthType = field(default="total", metadata=COUNTED)
    weight_kg: float | None = None
    weighed_as: WeighedAs = "whole"
    party_id: str = ""
    caught_by: str = ""
    landed_at: datetime | None = None
    hooked_at: datetime | None = None
    states: tuple[str, ...] = ()
    skin: Literal["on", "off"] = "on"
    code: Annotated[str, MaxLen(12)] = ""
    count: Annotated[int, Ge(1), Le(MAX_ALIKE)] = field(default=1, repr=False)
    longest_m: float | None = field(default=None, repr=False)
    called: Annotated[str, MaxLen(30)] | None = field(default=None, repr=False)
    method: str = "typed"
    system: System = field(default="metric", metadata=BESIDE)
    waited_s: float = field(default=0.0, repr=False, metadata=BESIDE)


def check_landing(
    ctx: AppContext, trip: Trip, order: LandFish, at: datetime
) -> tuple[Species, str]:
    """The species of an order that can be carried out, and the question it raises, if any.

    Raises: Refused.
    """
    problems: dict[str, str] = {}
    question = ""
    species = _species(ctx, order)
    _require_length_type(order.length_type, species)
    length_m = length_of(order)
    try:
        length_weight.check_length(length_m, order.length_type, species)
    except OutOfRange:
        problems["length"] = _impossible_length(order, species)
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
    if order.code and not _can_be_written(order.code):
        problems["code"] = "A fish's code is 1 to 12 letters, digits or other visible characters"
    problems |= _time_problems(trip, order, at)
    if problems:
        raise Refused(problems)
    return species, question


def _species(ctx: AppContext, order: LandFish) -> Species:
    try:
        return ctx.guide.one(order.species)
    except Unknown as error:
        raise Refused({"species": sentence(str(error))}) from error


def as_it_lies(ctx: AppContext, order: LandFish) -> LandFish:
    """The same landing with a length, and with what was weighed named. Raises Refused.

    A fish that was only weighed is as long as one of its weight usually is.
    """
    if order.weighed_as not in get_args(WeighedAs):
        raise Refused({"weighed_as": "Say what you weighed: the fish whole, gutted or headed"})
    order = replace(order, weighed_as=_weighed_as(order))
    if order.weight_kg is not None and order.weighed_as == "whole" and "headed" in order.states:
        raise Refused({"weighed_as": "This fish has no head: say that it was weighed headed"})
    if order.length_m is not None:
        return order
    if order.weight_kg is None:
        raise Refused({"length": "Measure it, or weigh it"})
    species = _species(ctx, order)
    _require_length_type(order.length_type, species)
    if problem := _impossible_weight(order.weight_kg):
        raise Refused({"weight": problem})
    round_kg = round_kg_of(order, species)
    try:
        length_m = length_weight.length_from_weight(round_kg, order.length_type, species)
    except OutOfRange as error:
        kg = format_mass(order.weight_kg, order.system)
        words = f"{kg} for {species.name}? No such fish weighs that. Check the number and the unit"
        raise Refused({"weight": words}) from error
    return replace(order, length_m=length_m)


def _weighed_as(order: LandFish) -> WeighedAs:
    if order.weighed_as != "lies":
        return order.weighed_as
    return (
        "headed" if "headed" in order.states else "gutted" if "gutted" in order.states else "whole"
    )


def length_of(order: LandFish) -> float:
    """The length that a landing says. Raises Refused where it says none."""
    if order.length_m is None:
        raise Refused({"length": "Measure it, or weigh it"})
    return order.length_m


def round_kg_of(order: LandFish, species: Species) -> float:
    """What a fish that was weighed is whole [kg], about."""
    kg = order.weight_kg or 0.0
    if order.weighed_as == "gutted":
        return round_weight.round_from_gutted(kg, species).value
    if order.weighed_as == "headed":
        return round_weight.round_from_headed(kg, species).value
    return kg


def _require_length_type(kind: str, species: Species) -> None:
    if kind not in LENGTHS:
        raise Refused({"length_type": f"Say {KINDS_OF_LENGTH}"})
    if kind not in species.length_types:
        known = ", ".join(length_name(one, short=True) for one in species.length_types)
        text = f"No {length_name(kind)} is taken of {species.name}; use {known}"
        raise Refused({"length_type": text})


def _can_be_written(code: str) -> bool:
    """Whether a label can show it: no control character, nor a mark that turns the line round."""
    return len(code) <= MAX_CODE_LENGTH and code.isprintable() and not code.isspace()


def landed_at(order: LandFish, at: datetime) -> datetime:
    """When the fish came aboard: as given, or now less what the entry waited."""
    waited = min(MAX_WAIT, timedelta(seconds=max(0.0, order.waited_s)))
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
    if landed - order.hooked_at > MAX_FIGHT:
        return {"hooked_at": "That is more than half a day before it was landed"}
    return {}


def _length_doubt(order: LandFish, species: Species) -> str:
    """The question about a length that such a fish seldom has; "" for a usual one."""
    length_m = length_of(order)
    doubt = length_weight.doubt_length(length_m, order.length_type, species)
    if doubt is None:
        return ""
    low, high = (format_length(m, order.system, 0) for m in doubt.usual_m)
    length = format_length(length_m, order.system)
    perhaps = _perhaps(doubt, order.system)
    return f"{length} for {species.name}? Usually {low} to {high}.{perhaps}"


def _impossible_length(order: LandFish, species: Species) -> str:
    length_m = length_of(order)
    length = format_length(length_m, order.system)
    known = to_length_type(
        length_weight.longest_m(species), species.length_type, order.length_type, species.total_per
    )
    longest = format_length(known, order.system, 0)
    doubt = length_weight.doubt_length(length_m, order.length_type, species)
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


def _impossible_weight(kg: float) -> str:
    """Why no fish can weigh that, "" when one can."""
    if not kg > 0:
        return "A weight must be more than nothing; leave it empty to estimate it"
    if not MIN_FISH_KG <= kg <= MAX_FISH_KG:
        return "No fish weighs that; check the number and the unit"
    return ""


def _weight_doubt(order: LandFish, species: Species) -> tuple[str, str]:
    """(refusal, question) about a weight that does not go with its length."""
    kg, length_m = order.weight_kg or 0.0, length_of(order)
    if problem := _impossible_weight(kg):
        return problem, ""
    round_kg = round_kg_of(order, species)
    doubt = length_weight.doubt_weight(round_kg, length_m, order.length_type, species)
    if doubt is None:
        return "", ""
    usual = format_range(doubt.usual.low, doubt.usual.high, order.system)
    length = format_length(length_m, order.system)
    perhaps = "".join(
        f" Perhaps {format_mass(other, order.system)} ({slip})?"
        for slip, other in doubt.perhaps[:2]
    )
    sentence = (
        f"{format_mass(kg, order.system)} for {species.name} of {length}? Usually {usual}.{perhaps}"
    )
    return (sentence, "") if doubt.refused else ("", sentence)

"""Deck: a fish comes aboard, and lies on the slab until someone cuts it."""

from dataclasses import dataclass, replace
from datetime import datetime

from lepidos.core.errors import Refused
from lepidos.core.units import System, format_length
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.deck import rule_cards
from lepidos.stations.deck.landing_check import (
    LandFish,
    as_it_lies,
    check_landing,
    landed_at,
    length_of,
)
from lepidos.store.base.earlier import Act
from lepidos.store.deck import fish_now, fishes
from lepidos.store.records import Fish, FishNow, Trip
from lepidos.store.schedule import work
from lepidos.store.trips import trips


def land_fish(ctx: AppContext, key: str, order: LandFish) -> Receipt:
    """Land one fish. Raises Refused with the fields that cannot be, or Unknown for the trip."""

    def do(at: datetime) -> Receipt:
        trip = trips.get(order.trip_id)
        fish, question = add_fish(ctx, trip, order, at)
        return landed_receipt(ctx, trip, fish, question, order.system)

    return run_idempotent(ctx, key, "deck.land", order, do)


def landed_receipt(
    ctx: AppContext, trip: Trip, fish: Fish, question: str, system: System
) -> Receipt:
    """What is said of a fish that was just landed, with what the crew's rule cards ask."""
    said = (question, rules_question(ctx, trip, fish, system))
    return Receipt("fish", fish.id, f"{fish.code} landed", " ".join(filter(None, said)))


def rules_question(ctx: AppContext, trip: Trip, fish: Fish, system: System) -> str:
    """What the crew's own cards say of a fish that was just landed."""
    said = [
        v.text for v in rule_cards.verdicts(ctx, fish, fishes.now(fish.id), system) if v.presses
    ]
    person = next((p.name for p in trips.people_of(trip.id) if p.id == fish.caught_by_id), "")
    said += rule_cards.full_cards(ctx, trip, fish.species, person)
    return " ".join(text if text.endswith(".") else f"{text}." for text in said)


def add_fish(
    ctx: AppContext,
    trip: Trip,
    said: LandFish,
    at: datetime,
    used: set[str] | None = None,
    length_by: str = "",
) -> tuple[Fish, str]:
    """Write one landed fish, inside the caller's transaction. Raises Refused.

    `used`: the codes of the trip, when the caller knows them already; this one's is added.
    `length_by`: how its length is known, where it was not measured on this fish.
    """
    order = as_it_lies(ctx, said)
    species, question = check_landing(ctx, trip, order, at)
    landed = landed_at(order, at)
    used = fishes.codes_of(trip.id) if used is None else used
    if order.code and order.code in used:
        raise Refused({"code": f"This trip has a fish {order.code} already"})
    fish = fishes.add(
        ctx.ids,
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
    used.add(fish.code)
    usual = "typed" if said.length_m else fishes.BY_WEIGHT
    _measure_length(ctx, fish, order, at, length_by or usual)
    if order.weight_kg is not None:
        _measure_weight(ctx, fish, order, at)
    for state in order.states:
        fishes.add_fact(ctx.ids, landed, fish.id, work.STATE, state)
    fish_now.refresh(fish.id, ctx.is_fillet)
    return fish, question


def _measure_length(ctx: AppContext, fish: Fish, order: LandFish, at: datetime, method: str) -> str:
    row = fishes.measure(
        ctx.ids,
        at,
        fish=fish.id,
        quantity="length",
        value=length_of(order),
        length_type=order.length_type,
        method=method,
    )
    return row.id


def _measure_weight(ctx: AppContext, fish: Fish, order: LandFish, at: datetime) -> str:
    row = fishes.measure(
        ctx.ids,
        at,
        fish=fish.id,
        quantity=order.weighed_as,
        value=order.weight_kg,
        method=order.method,
    )
    return row.id


@dataclass(frozen=True)
class CorrectFish:
    """An order to correct a landed fish: `noted` is what should have been noted.

    Its states, code and skin are left as they are; a weight of None leaves the weight.
    """

    fish_id: str
    noted: LandFish


def correct_fish(ctx: AppContext, key: str, order: CorrectFish) -> Receipt:
    """Correct a fish. A new length or weight is a later row; nothing measured is overwritten.

    The species cannot change once pieces are weighed. Raises Refused, Unknown.
    """

    def do(at: datetime) -> Receipt:
        fish, now = fishes.get(order.fish_id), fishes.now(order.fish_id)
        if now.stage in {"withdrawn", "done"}:
            raise Refused({"": f"{fish.code} is not on the slab any more"})
        noted = as_it_lies(ctx, order.noted)
        noted = replace(noted, landed_at=noted.landed_at or fish.landed_at)
        if noted.species != fish.species and fishes.weighings_of(fish.id):
            raise Refused({"species": f"{fish.code} has pieces weighed; undo those first"})
        trip = trips.get(fish.trip_id)
        species, question = check_landing(ctx, trip, noted, at)
        act = Act(ctx.ids, at)
        act.keep("fish", [fish.id])
        fish = fishes.change(
            fish,
            species=species.key,
            party_id=noted.party_id or None,
            caught_by_id=noted.caught_by or None,
            landed_at=noted.landed_at,
            hooked_at=noted.hooked_at,
        )
        if _is_other_length(noted, now):
            by = "typed" if order.noted.length_m else fishes.BY_WEIGHT
            act.made("measurement", [_measure_length(ctx, fish, noted, at, by)])
        known = getattr(now, f"{noted.weighed_as}_kg")
        if noted.weight_kg is not None and noted.weight_kg != known:
            act.made("measurement", [_measure_weight(ctx, fish, noted, at)])
        fish_now.refresh(fish.id, ctx.is_fillet)
        said = (question, rules_question(ctx, trip, fish, noted.system))
        return Receipt("change", act.id, f"{fish.code} corrected", " ".join(filter(None, said)))

    return run_idempotent(ctx, key, "deck.correct", order, do)


def _is_other_length(noted: LandFish, now: FishNow) -> bool:
    """Whether it reads otherwise than the length that the form showed."""
    told = [format_length(m, noted.system) for m in (length_of(noted), now.length_m)]
    return (told[0], noted.length_type) != (told[1], now.length_type)


CODE_DIGITS = 5  # more fish than a trip can have


def _next_code(letters: str, used: set[str]) -> str:
    # a number of more digits than a day has fish came from elsewhere, and is not counted on from
    numbers = [
        int(code[len(letters) :])
        for code in used
        if code.startswith(letters)
        and len(code) <= len(letters) + CODE_DIGITS
        and code[len(letters) :].isdecimal()
    ]
    return f"{letters}{max(numbers, default=0) + 1}"


def with_code(order: LandFish, code: str) -> LandFish:
    """The same order for a fish that has a code of its own."""
    return replace(order, code=code)

"""Many fish alike, landed in one entry: counted, measured from the shortest to the longest."""

from dataclasses import replace
from datetime import datetime

from lepidos.core.catch.alike import MAX_ALIKE, lengths_alike, shares_of_weight
from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.errors import OutOfRange, Refused
from lepidos.core.pack.labels import sentence
from lepidos.core.units import format_mass, format_range
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.deck.landing import add_fish, rules_question
from lepidos.stations.deck.landing_check import LandFish, as_it_lies, length_of, round_kg_of
from lepidos.store.deck import fish_now, fishes
from lepidos.store.records import Fish
from lepidos.store.schedule import work
from lepidos.store.trips import trips

MAX_ASKED = 3  # sentences about a dozen fish
MAX_OFF = 3.0  # a weight of all so many times off what their lengths foretell is a slip (practice)


def land_alike(ctx: AppContext, key: str, order: LandFish) -> Receipt:
    """Land several, each a fish of its own. Raises Refused with the fields, or Unknown."""

    def do(at: datetime) -> Receipt:
        trip = trips.get(order.trip_id)
        lengths, shares = _sizes(ctx, order)
        used, lot = fishes.codes_of(trip.id), ctx.ids.new(at)
        made, asked = list[Fish](), dict[str, None]()
        for number, length_m in enumerate(lengths):
            one = replace(order, length_m=length_m, weight_kg=None)
            fish, question = add_fish(ctx, trip, one, at, used, _length_by(order, number))
            if shares:
                fishes.measure(
                    ctx.ids, at, fish=fish.id, quantity="shared", value=shares[number],
                    method=order.method,
                )  # fmt: skip
            fishes.add_fact(ctx.ids, fish.landed_at, fish.id, work.LOT, lot)
            made.append(fish)
            asked |= {question: None} if question else {}
        if shares:
            fish_now.refresh_many([fish.id for fish in made], ctx.is_fillet)
        asked |= {rules_question(ctx, trip, made[0], order.system): None}
        words = f"{made[0].code} to {made[-1].code} landed"
        return Receipt("lot", lot, words, " ".join(filter(None, [*asked][-MAX_ASKED:])))

    return run_idempotent(ctx, key, "deck.land", order, do)


def _length_by(order: LandFish, number: int) -> str:
    """How the length of one is known: the first and the last are the ends that were said."""
    if order.length_m is None:
        return fishes.BY_WEIGHT
    is_end = number == 0 or (number == order.count - 1 and order.longest_m is not None)
    return "typed" if is_end else fishes.BETWEEN


def _sizes(ctx: AppContext, order: LandFish) -> tuple[list[float], list[float]]:
    """The length of each [m], and its share of the weight [kg]; no shares where nobody weighed."""
    if order.code:
        raise Refused({"code": "Leave the code empty: each gets its own"})
    if order.count > MAX_ALIKE:
        raise Refused({"count": f"At most {MAX_ALIKE} in one entry; land the rest in another"})
    kg = None if order.weight_kg is None else order.weight_kg / order.count
    one = as_it_lies(ctx, replace(order, weight_kg=kg))
    species, shortest = ctx.guide.one(order.species), length_of(one)
    if order.longest_m is not None and order.longest_m < shortest:
        raise Refused({"longest": "The longest is shorter than the shortest"})
    try:
        lengths = lengths_alike(order.count, shortest, order.longest_m)
        usual = [weight_from_length(m, order.length_type, species) for m in lengths]
    except OutOfRange as error:
        raise Refused({"length": sentence(str(error))}) from error
    if kg is None:
        return lengths, []
    whole_kg = round_kg_of(one, species) * order.count
    low, high = sum(w.low for w in usual), sum(w.high for w in usual)
    if not low / MAX_OFF <= whole_kg <= high * MAX_OFF:
        all_kg = format_mass(order.weight_kg or 0.0, order.system)
        known = format_range(low, high, order.system)
        raise Refused({"weight": f"{all_kg} for {order.count} of these? Usually {known} together"})
    return lengths, shares_of_weight(whole_kg, lengths, order.length_type, species)

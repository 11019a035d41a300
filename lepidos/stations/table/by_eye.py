"""Pieces that were taken and not weighed: what the plan expects of them, about."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Annotated

from annotated_types import Ge, Le, MaxLen

from lepidos.core.errors import Conflict, OutOfRange, Refused
from lepidos.core.estimate import Estimate
from lepidos.core.fish.species import Species
from lepidos.core.units import System, format_mass
from lepidos.core.yields.hand_measures import MAX_TIMES, MIN_TIMES, both, judged_by_hand
from lepidos.guide.hand_measures import hand_measures
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.digest import BESIDE
from lepidos.stations.base.fish import when_done
from lepidos.stations.table import spots
from lepidos.stations.table.models import at_table, expected_of
from lepidos.stations.table.pieces import chosen_piece
from lepidos.stations.table.questions import expected_now
from lepidos.stations.table.wishes import open_fish, settle
from lepidos.store.deck import fish_now, fishes
from lepidos.store.records import Fish, FishNow, Weighing
from lepidos.store.schedule.work import BY_EYE
from lepidos.store.table import sessions

MAX_OFF = 3.0  # a weight so many times off what is usual is a slip of the hand (practice)


@dataclass(frozen=True)
class TakePiece:
    """A piece that was taken and is not weighed, as a slot such as "fillet.A".

    It is booked at what the plan expects of it beside what was weighed of this fish. `looks_like`:
    a measure of the hand (`guide/hand_measures`), so many `times`, which narrows that.
    """

    fish_id: str
    slot: str
    looks_like: Annotated[str, MaxLen(20)] = ""
    times: Annotated[float, Ge(MIN_TIMES), Le(MAX_TIMES)] = 1.0
    system: System = field(default="metric", metadata=BESIDE)
    waited_s: float = field(default=0.0, repr=False, metadata=BESIDE)


def take_piece(ctx: AppContext, key: str, order: TakePiece) -> Receipt:
    """Book a piece as taken, judged by eye. Raises Refused, Conflict, Unknown."""

    def do(now_at: datetime) -> Receipt:
        fish, now = open_fish(ctx, order.fish_id)
        at = when_done(now_at, fish, order.waited_s)
        weighings, model = fishes.weighings_of(fish.id), at_table(ctx, fish, now)
        piece, _, side = order.slot.partition(".")
        chosen = chosen_piece(ctx, fish, piece, side)
        name = ctx.guide.plan_of(ctx.guide.one(fish.species)).call(chosen.name, side)
        if chosen.counts_as == "rest":
            raise Refused({"piece": f"The {name} goes into no bag: weigh it, or leave it out"})
        if earlier := [w for w in weighings if (w.piece, w.side) == (piece, side)]:
            before = format_mass(sum(w.kg for w in earlier), order.system)
            raise Conflict(f"{fish.code} {name} was taken already: {before}")
        away = spots.away_by_slot(sessions.sights_of(fish.id), weighings)
        known = expected_now(model.expected, weighings, away).get(order.slot)
        found = _known_by(order, known if known and known.value > 0 else None, name)
        if ctx.is_fillet(piece):
            settle(ctx, at, fish, now)
        row = book(ctx, at, fish, {order.slot: found})[0]
        fish_now.refresh(fish.id, ctx.is_fillet)
        about = f"about {format_mass(row.kg, order.system)}"
        return Receipt("weighing", row.id, f"{fish.code} {name} taken: {about}")

    return run_idempotent(ctx, key, "table.take", order, do)


def _known_by(order: TakePiece, usual: Estimate | None, name: str) -> Estimate:
    """What a piece weighs, as such a fish usually gives, as it looks, or as both say together."""
    seen = _as_it_looks(order) if order.looks_like else None
    if usual and seen:
        return both(usual, seen)
    if found := usual or seen:
        return found
    raise Refused({"looks_like": f"Nothing is known of the {name} yet. What does it look like?"})


def _not_eaten(ctx: AppContext, species: Species, piece: str) -> bool:
    """Whether a piece never goes into a bag: gut, head, frame, anything poisonous."""
    return ctx.guide.piece(piece).counts_as == "rest" or piece in ctx.guide.never_used(species)


def _as_it_looks(order: TakePiece) -> Estimate:
    measure = hand_measures().get(order.looks_like)
    if measure is None:
        raise Refused({"looks_like": f"Choose one of {', '.join(hand_measures())}"})
    try:
        return judged_by_hand(order.times, measure)
    except OutOfRange as error:
        raise Refused({"times": f"Say how many {measure.plural}, up to {MAX_TIMES:g}"}) from error


def judged(
    ctx: AppContext, species: Species, expected: Mapping[str, Estimate]
) -> dict[str, Estimate]:
    """Of what a fish's pieces should weigh, those that are eaten: they can be said to be taken.

    Gut, head and frame are nobody's bag: unweighed they stay unaccounted for.
    """
    return {
        key: estimate
        for key, estimate in expected.items()
        if estimate.value > 0 and not _not_eaten(ctx, species, key.partition(".")[0])
    }


def taken_of(
    ctx: AppContext, fish: Fish, now: FishNow, taken: Collection[str], alike: bool = False
) -> dict[str, Estimate]:
    """What the plan expects of the slots that were taken. Raises Refused for one that it lacks.

    `alike`: said of another fish, whose plan may have a piece more than this one's.
    """
    known = judged(ctx, ctx.guide.one(fish.species), expected_of(fish, at_table(ctx, fish, now)))
    if not alike and (unknown := [slot for slot in taken if slot not in known]):
        raise Refused({"taken": f"There is no “{unknown[0][:40]}” in the plan of {fish.code}"})
    return {key: usual for key, usual in known.items() if key in taken}


def weighed_together(
    found: Sequence[Mapping[str, Estimate]], all_kg: float, system: System
) -> list[dict[str, Estimate]]:
    """The same pieces of one or several fish where all of them together were weighed.

    Each is its share of that weight; its interval stays as wide as before, in parts of it. Raises
    Refused for a weight that cannot be theirs.
    """
    usual = sum(e.value for pieces in found for e in pieces.values())
    if not usual / MAX_OFF <= all_kg <= usual * MAX_OFF:
        known = format_mass(usual, system)
        raise Refused({"all": f"{format_mass(all_kg, system)} together? About {known} is usual"})
    return [{key: e.scaled(all_kg / usual) for key, e in pieces.items()} for pieces in found]


def book(
    ctx: AppContext, at: datetime, fish: Fish, taken: Mapping[str, Estimate]
) -> list[Weighing]:
    """Write down pieces that were taken and not weighed one by one."""
    rows = []
    for key, usual in taken.items():
        piece, _, side = key.partition(".")
        row = fishes.weigh(
            ctx.ids, at, fish=fish.id, piece=piece, side=side, kg=usual.value,
            method=BY_EYE, low_kg=usual.low, high_kg=usual.high,
        )  # fmt: skip
        rows.append(row)
    return rows

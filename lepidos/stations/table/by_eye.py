"""Pieces that were taken and not weighed: what the plan expects of them, about."""

from collections.abc import Collection, Mapping, Sequence
from datetime import datetime

from lepidos.core.errors import Refused
from lepidos.core.estimate import Estimate
from lepidos.core.fish.species import Species
from lepidos.core.units import System, format_mass
from lepidos.stations.base.context import AppContext
from lepidos.stations.table.models import at_table, expected_of
from lepidos.store.deck import fishes
from lepidos.store.records import Fish, FishNow
from lepidos.store.schedule.work import BY_EYE

MAX_OFF = 3.0  # a weight so many times off what is usual is a slip of the hand (practice)


def judged(
    ctx: AppContext, species: Species, expected: Mapping[str, Estimate]
) -> dict[str, Estimate]:
    """Of what a fish's pieces should weigh, those that are eaten: they can be said to be taken.

    Gut, head and frame are nobody's bag: unweighed they stay unaccounted for.
    """
    never = ctx.guide.never_used(species)
    return {
        key: estimate
        for key, estimate in expected.items()
        if (piece := ctx.guide.piece(key.partition(".")[0])).counts_as != "rest"
        and piece.key not in never
        and estimate.value > 0
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


def book(ctx: AppContext, at: datetime, fish: Fish, taken: Mapping[str, Estimate]) -> None:
    """Write down pieces that were taken and not weighed one by one."""
    for key, usual in taken.items():
        piece, _, side = key.partition(".")
        fishes.weigh(
            ctx.ids, at, fish=fish.id, piece=piece, side=side, kg=usual.value,
            method=BY_EYE, low_kg=usual.low, high_kg=usual.high,
        )  # fmt: skip

"""Pieces that were taken and not weighed: what the plan expects of them, about."""

from collections.abc import Collection, Mapping
from datetime import datetime

from lepidos.core.errors import Refused
from lepidos.core.estimate import Estimate
from lepidos.core.fish.species import Species
from lepidos.stations.base.context import AppContext
from lepidos.stations.table.models import at_table, expected_of
from lepidos.store.deck import fishes
from lepidos.store.records import Fish, FishNow
from lepidos.store.schedule.work import BY_EYE


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


def take_by_eye(
    ctx: AppContext,
    at: datetime,
    fish: Fish,
    now: FishNow,
    taken: Collection[str],
    alike: bool = False,
) -> None:
    """Book these slots at what the plan expects. Raises Refused for one that it does not have.

    `alike`: said of another fish, whose plan may have a piece more than this one's.
    """
    known = judged(ctx, ctx.guide.one(fish.species), expected_of(fish, at_table(ctx, fish, now)))
    if not alike and (unknown := [slot for slot in taken if slot not in known]):
        raise Refused({"taken": f"There is no “{unknown[0][:40]}” in the plan of {fish.code}"})
    for key, usual in known.items():
        if key not in taken:
            continue
        piece, _, side = key.partition(".")
        fishes.weigh(
            ctx.ids, at, fish=fish.id, piece=piece, side=side, kg=usual.value,
            method=BY_EYE, low_kg=usual.low, high_kg=usual.high,
        )  # fmt: skip

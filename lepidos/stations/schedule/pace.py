"""How long a fish takes on the board: what its plan says, and what this crew's own times say."""

import contextlib

from lepidos.core.errors import OutOfRange
from lepidos.core.fish.species import Species
from lepidos.core.schedule.cutting_time import CutBefore, Pace, learn
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import plan_of
from lepidos.stations.base.wishes import said_to
from lepidos.store.deck import fishes
from lepidos.store.records import Fish, FishNow
from lepidos.store.schedule import boards, work
from lepidos.store.table import sessions

LEARN_FROM = 300  # finished fish
MAX_KEPT = 1200
MIN_S = 60.0  # a fish on the board takes at least this much longer


def learned_pace(ctx: AppContext) -> Pace:
    """What finished fish have taught about time at the board. Called in an open transaction."""
    names = tuple(sorted(boards.names().items()))
    key = ("pace", sessions.finished_mark(), names, ctx.guide.edition)
    return ctx.memo.get(key, lambda: _learn(ctx))


def _learn(ctx: AppContext) -> Pace:
    names = boards.names()
    cuts = []
    for board_id, state, seconds in work.bench_times(LEARN_FROM):
        species = ctx.guide.species.get(state.species)
        if species is not None and board_id in names:
            # what cannot be calculated teaches nothing
            with contextlib.suppress(OutOfRange):
                prior = plan_seconds(ctx, fishes.get(state.fish_id), state, species)
                cuts.append(CutBefore(names[board_id], species.key, seconds, prior))
    return learn(cuts)


def usual_seconds(ctx: AppContext, fish: Fish, now: FishNow, cutter: str) -> float:
    """Time that this fish takes this cutter [s]. Called in an open transaction."""
    prior = plan_seconds(ctx, fish, now, ctx.guide.one(fish.species))
    return prior * learned_pace(ctx).factor(cutter, fish.species)


def plan_seconds(ctx: AppContext, fish: Fish, now: FishNow, species: Species) -> float:
    """Time that its own plan takes [s], before anything was learned. As `usual_seconds`.

    Kept fish by fish: what is done to one leaves the others as they were.
    """
    return ctx.memo.get(
        ("plan seconds", fish, now, said_to(ctx, fish), species.key, ctx.guide.edition),
        lambda: plan_of(ctx, fish, now, species).minutes * 60,
        most=MAX_KEPT,
    )


def kind_of(ctx: AppContext, species: Species) -> str:
    """How a fish leaves the board: white, dark, slimy, muddy."""
    classes = ctx.guide.bench.classes
    return next(
        (kind for trait, kind in classes.by_trait.items() if trait in species.traits),
        classes.otherwise,
    )

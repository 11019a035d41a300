"""How long a fish takes on the board: what is usual, and what this crew's own times say."""

import contextlib

from lepidos.core.errors import OutOfRange
from lepidos.core.fish.species import Species
from lepidos.core.schedule.cutting_time import Cut, Pace, learn, prior_seconds
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import round_weight
from lepidos.store import boards, fishes, sessions

LEARN_FROM = 300  # finished fish
LEAST_S = 60.0  # a fish on the board takes at least this much longer


def learned_pace(ctx: AppContext) -> Pace:
    """What finished fish have taught about time at the board. Called in an open transaction."""
    names = tuple(sorted(boards.names().items()))
    key = ("pace", sessions.finished_mark(), names, ctx.guide.edition)
    return ctx.memo.get(key, lambda: _learn(ctx))


def _learn(ctx: AppContext) -> Pace:
    names = boards.names()
    cuts = []
    for board_id, state, seconds in fishes.bench_times(LEARN_FROM):
        species = ctx.guide.species.get(state.species)
        if species is not None and board_id in names:
            # what cannot be worked out teaches nothing
            with contextlib.suppress(OutOfRange):
                prior = prior_s(ctx, species, round_weight(state, species).kg)
                cuts.append(Cut(names[board_id], species.key, seconds, prior))
    return learn(cuts)


def usual_seconds(ctx: AppContext, species: Species, kg: float, cutter: str) -> float:
    """Time that such a fish takes this cutter [s]. Called in an open transaction."""
    return prior_s(ctx, species, kg) * learned_pace(ctx).factor(cutter, species.key)


def kind_of(ctx: AppContext, species: Species) -> str:
    """How a fish leaves the board: white, dark, slimy, muddy."""
    classes = ctx.guide.bench.classes
    return next(
        (kind for trait, kind in classes.by_trait.items() if trait in species.traits),
        classes.otherwise,
    )


def prior_s(ctx: AppContext, species: Species, kg: float) -> float:
    # a body plan of the crew's own takes a round fish's time until its fish have taught better
    paces = ctx.guide.bench.plans
    pace = paces.get(species.body_plan, paces["round"])
    return prior_seconds(pace, kg)

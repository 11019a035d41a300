"""A fish that comes into a trial of two ways: which side gets which is drawn as it comes."""

from datetime import datetime
from random import Random

from lepidos.core.yields.trial import Draw, draw_sides
from lepidos.stations.base.context import AppContext
from lepidos.store.deck import fishes
from lepidos.store.records import Fish, Trial, TrialFish
from lepidos.store.yieldbook import trials

SPARE = 4  # drawn for so many times the fish that are planned: some give no result


def open_trial(ctx: AppContext, species: str) -> Trial | None:
    """The newest trial that still wants such a fish. In an open transaction."""
    for trial in trials.every():
        if trial.species in {"", species} and len(counting(ctx, trial)) < trial.fish:
            return trial
    return None


def counting(ctx: AppContext, trial: Trial) -> list[TrialFish]:
    """The fish of a trial that gave a result, or still may."""
    rows = trials.fish_of(trial.id)
    sides = trials.side_sums([row.fish_id for row in rows], fillets(ctx))
    return [
        row
        for row in rows
        if len(sides.get(row.fish_id, {})) == 2
        or fishes.now(row.fish_id).stage not in {"done", "withdrawn"}
    ]


def fillets(ctx: AppContext) -> list[str]:
    """The pieces that count: all fillets, a belly with its side."""
    return [key for key in ctx.guide.pieces if ctx.is_fillet(key)]


def enter(ctx: AppContext, at: datetime, fish: Fish) -> TrialFish | None:
    """Draw the sides of a fish that comes to a board, if a trial wants it and no fillet is off.

    In the transaction that puts it there.
    """
    if trials.of_fish(fish.id) or fishes.now(fish.id).fillet_kg > 0:
        return None
    trial = open_trial(ctx, fish.species)
    if trial is None:
        return None
    number = len(trials.fish_of(trial.id))
    if number >= trial.fish * SPARE:
        return None
    drawn = draw_of(trial, number)
    return trials.enter(
        ctx.ids, at, trial=trial.id, fish=fish.id, number=number + 1, x_side=drawn.x_side,
        first_side=drawn.first_side,
    )  # fmt: skip


def draw_of(trial: Trial, number: int) -> Draw:
    """What is drawn for a fish of a trial, counted from 0: fixed with the trial's key."""
    rng = Random(trial.id)  # noqa: S311 - no secret
    return draw_sides(rng, trial.fish)[number] if number < trial.fish else _more(trial, number)


def _more(trial: Trial, number: int) -> Draw:
    rng = Random(f"{trial.id} {number // 4}")  # noqa: S311 - no secret
    return draw_sides(rng, 4)[number % 4]

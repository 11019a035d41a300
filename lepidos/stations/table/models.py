"""What the models say of a fish at the board: its plan, what to expect, what is asked of it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lepidos.core.catch.size_class import Size, size_of
from lepidos.core.cutting.differences import Difference, differences
from lepidos.core.cutting.model import CuttingPlan, Slot
from lepidos.core.cutting.stand_ins import StepTool, step_tool
from lepidos.core.cutting.wishes import Choice
from lepidos.core.estimate import Estimate
from lepidos.core.fish.species import Species
from lepidos.core.schedule.boards import MAX_FISH
from lepidos.core.yields.balance import (
    Balance,
    BalancePart,
    balance,
    expected_fillet,
    expected_slots,
    odd_skins,
)
from lepidos.core.yields.cut_away import without
from lepidos.core.yields.forecast import Learned
from lepidos.stations.base.context import AppContext, state_of_order
from lepidos.stations.base.fish import (
    RoundWeight,
    facts_by_fish,
    plan_of,
    round_weight,
    to_cut,
    total_length_m,
)
from lepidos.stations.base.wishes import choice_of
from lepidos.stations.table import forecasts, questions, spots
from lepidos.store.deck import fishes
from lepidos.store.records import Fact, Fish, FishNow, Trial, TrialFish, Weighing
from lepidos.store.schedule import boards, work
from lepidos.store.table import sessions
from lepidos.store.yieldbook import trials


@dataclass(frozen=True)
class AtTable:
    """What the cutting models say of a fish before anything of it is weighed.

    `species` is the species as this cutter's fish have shown it to be.
    """

    cutter: str
    species: Species
    weight: RoundWeight
    plan: CuttingPlan
    expected: dict[str, Estimate]
    expected_fillet: Estimate
    learned: Learned
    choice: Choice


def at_table(ctx: AppContext, fish: Fish, now: FishNow) -> AtTable:
    """Called in an open transaction."""
    species = ctx.guide.one(fish.species)
    weight = round_weight(now, species)
    cutter = _cutter(ctx, facts_by_fish(ctx, fish.trip_id).get(fish.id, ()))
    learned = forecasts.learned(ctx, species)
    own = ctx.memo.get(
        (
            "own yields",
            species,
            cutter,
            weight.kg,
            forecasts.finished_mark(ctx),
        ),
        lambda: learned.species_for(cutter, weight.kg),
        most=MAX_FISH,
    )
    plan = plan_of(ctx, fish, now, species)
    body_plan = ctx.guide.plan_of(species)
    expected = expected_slots(weight.as_estimate, own, body_plan, plan, ctx.guide.pieces)
    otherwise = odd_skins(plan, body_plan, ctx.guide.pieces)
    usual = expected_fillet(weight.as_estimate, own, plan.skin, otherwise=otherwise)
    choice = choice_of(ctx, fish, lambda: weight.kg, species)
    return AtTable(cutter, own, weight, plan, expected, usual, learned, choice)


def expected_of(fish: Fish, model: AtTable) -> dict[str, Estimate]:
    """What each piece should weigh without what was cut out of it. In an open transaction."""
    usual = model.expected
    away = spots.away_by_slot(sessions.sights_of(fish.id), fishes.weighings_of(fish.id))
    return {slot: without(estimate, away.get(slot, 0.0)) for slot, estimate in usual.items()}


def facts_of(ctx: AppContext, fish: Fish, model: AtTable) -> questions.Facts:
    """The facts that the questions at the board are about. Called in an open transaction."""
    now = fishes.now(fish.id)
    weighings = fishes.weighings_of(fish.id)
    away = spots.away_by_slot(sessions.sights_of(fish.id), weighings)
    return facts_at(ctx, fish, now, model, weighings, away)


def facts_at(
    ctx: AppContext,
    fish: Fish,
    now: FishNow,
    model: AtTable,
    weighings: list[Weighing],
    away: Mapping[str, float],
) -> questions.Facts:
    """As `facts_of`, of what is known already; `away` was cut out of each slot [kg]."""
    species = ctx.guide.one(fish.species)
    return questions.Facts(
        species,
        model.plan,
        total_length_m(now, species),
        weighings,
        model.expected,
        balance_of(model.weight, weighings, away),
        answered(fish.id),
        away,
    )


def answered(fish_id: str) -> frozenset[str]:
    """Questions of a fish that were answered with: it is so."""
    return frozenset(f.name for f in fishes.facts_of(fish_id, work.ANSWER))


def _cutter(ctx: AppContext, facts: Sequence[Fact]) -> str:
    """Who has the fish on the board; "" when nobody said."""
    last = work.last_board(facts)
    return board_names(ctx).get(last.name, "") if last else ""


def board_names(ctx: AppContext) -> Mapping[str, str]:
    """Every board's cutter, by id. Called in an open transaction."""
    return ctx.memo.get(("boards", state_of_order(ctx)[0]), boards.names)


@dataclass(frozen=True)
class HowCut:
    """How a fish is to be cut: what was said of it, its size class, what another way of a method
    would change, with what each step is done, by its key, and the trial that it is in.
    """

    choice: Choice
    size: Size
    differences: tuple[Difference, ...]
    tools: Mapping[str, StepTool]
    trial: tuple[Trial, TrialFish] | None


def how_cut(ctx: AppContext, fish: Fish, now: FishNow, model: AtTable) -> HowCut:
    """Called in an open transaction."""
    species, to_hand = ctx.guide.one(fish.species), model.choice.tools
    return HowCut(
        model.choice,
        size_of(model.weight.kg, species),
        () if now.stage == "done" else differences_at(ctx, fish, now, species),
        {s.key: step_tool(s.tool, ctx.guide.tools, to_hand) for s in model.plan.steps},
        trials.of_fish(fish.id),
    )


def differences_at(
    ctx: AppContext, fish: Fish, now: FishNow, species: Species
) -> tuple[Difference, ...]:
    """What another way of each method would change here; the same fish is looked at many times."""
    asked = to_cut(ctx, fish, now, species)
    methods = tuple(sorted(asked.methods.items()))
    size = (asked.round_kg, asked.length_m, asked.skin, asked.facts, asked.purpose)
    return ctx.memo.get(
        ("differences", species, ctx.guide.edition, *size, methods),
        lambda: differences(
            asked, species, ctx.guide.plan_of(species), ctx.guide.pieces, ctx.guide.methods
        ),
        most=MAX_FISH,
    )


def balance_of(
    weight: RoundWeight, weighings: list[Weighing], away: Mapping[str, float]
) -> Balance:
    """Where the fish went: what was weighed of it, and what was cut out before (by slot, in kg)."""
    parts = [BalancePart(Slot(w.piece, w.side), w.kg) for w in weighings]
    if away:
        parts.append(BalancePart(spots.CUT_OUT, sum(away.values())))
    return balance(weight.kg, parts, weight.interval)

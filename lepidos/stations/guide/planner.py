"""Guide: a plan for any fish, calculated before one is landed."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.cutting.differences import Difference, differences
from lepidos.core.cutting.hazards import cautions_by_step
from lepidos.core.cutting.model import CuttingPlan, FishToCut, Skin
from lepidos.core.cutting.plan import plan_cut
from lepidos.core.cutting.stand_ins import StepTool, step_tool
from lepidos.core.cutting.worth_filleting import (
    THIN_M,
    WORTH_SIDE_KG,
    NotWorth,
    fillet_thickness,
    not_worth,
)
from lepidos.core.estimate import Estimate
from lepidos.core.fish.bodyplan import BodyPlan, Step
from lepidos.core.fish.lengths import to_length_type
from lepidos.core.fish.species import LengthType, Species
from lepidos.core.yields.balance import expected_slots
from lepidos.guide.library import Guide

STATES = {"whole": frozenset[str](), "gutted": frozenset({"bled", "gutted"}),
          "headed": frozenset({"bled", "gutted", "headed"})}  # fmt: skip


@dataclass(frozen=True)
class AskPlan:
    """What is asked of the planner. A weight of None is estimated from the length."""

    species: str
    length_m: float
    length_type: LengthType = "total"
    round_kg: float | None = None
    purpose: str = "freezer"
    state: str = "whole"
    skin: Skin = "on"
    methods: Mapping[str, str] = field(default_factory=dict)
    tools: frozenset[str] = frozenset()
    count: int = 1


@dataclass(frozen=True)
class Planned:
    """A plan with all that a page or a script shows of it; `cautions` by step."""

    guide: Guide
    species: Species
    fish: FishToCut
    weight: Estimate | float
    cut: CuttingPlan
    cautions: Mapping[str, tuple[str, ...]]
    tools: tuple[StepTool, ...]
    expected: Mapping[str, Estimate]
    not_worth: tuple[NotWorth, ...]
    thickness_m: float
    whole: bool
    count: int

    @cached_property
    def differences(self) -> tuple[Difference, ...]:
        """What each other way changes: as many plans more, made only where they are shown."""
        guide = self.guide
        plan = guide.plan_of(self.species)
        return differences(self.fish, self.species, plan, guide.pieces, guide.methods)

    @property
    def better_whole(self) -> bool:
        """Whether its fillets would be thinner than they are worth."""
        sided = any(slot.side for slot in self.cut.slots)  # a squid gives a tube, and no sides
        if self.thickness_m >= THIN_M or self.whole or not sided:
            return False
        sides = self.species.yields.fillet_skin_on.mean * self.fish.round_kg
        return sides / 2 < WORTH_SIDE_KG

    @property
    def unfit_for(self) -> str:
        """The purpose that was asked for and is not its plan's; "" when it is."""
        return self.fish.purpose if self.fish.purpose != self.cut.purpose else ""


def plan_fish(guide: Guide, ask: AskPlan) -> Planned:
    """A plan for one fish, or for several alike.

    Raises: Unknown, OutOfRange, BadInput for what cannot be.
    """
    species = guide.one(ask.species)
    plan = guide.plan_of(species)
    weight: Estimate | float
    if ask.round_kg is None:
        weight = weight_from_length(ask.length_m, ask.length_type, species)
        kg = weight.value
    else:
        weight = kg = ask.round_kg
    total_m = to_length_type(ask.length_m, ask.length_type, "total", species.total_per)
    facts = STATES.get(ask.state, frozenset())
    fish = FishToCut(kg, total_m, ask.skin, facts, ask.purpose, ask.methods)
    cut = plan_cut(fish, species, plan, guide.pieces, guide.methods)
    return Planned(
        guide,
        species,
        fish,
        weight,
        cut,
        cautions_by_step(cut, species, guide.cautions),
        tuple(step_tool(step.tool, guide.tools, ask.tools) for step in cut.steps),
        expected_slots(weight, species, plan, cut, guide.pieces),
        not_worth(fish, species, plan, cut, guide.pieces),
        fillet_thickness(guide.body_of(species), plan, total_m, kg),
        guide.methods.is_whole(cut.purpose, plan, kg),
        ask.count,
    )


def techniques(plan: BodyPlan) -> tuple[Step, ...]:
    """The steps of a body plan that can be shown on a drawing, those of every method, in order."""
    return tuple(step for step in plan.steps if step.cut or step.zone or step.disarms)

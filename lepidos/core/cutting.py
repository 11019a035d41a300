"""The plan for cutting *this* fish: which pieces, in which order, each step with its reason."""

from collections.abc import Set as AbstractSet
from dataclasses import dataclass
from typing import Literal

from lepidos.core.bodyplan import BodyPlan, Piece, PlannedPiece, Step
from lepidos.core.errors import require
from lepidos.core.species import Species

Skin = Literal["on", "off"]


@dataclass(frozen=True)
class FishToCut:
    """What the planner needs to know: size, skin wanted, and what has been done already."""

    round_kg: float
    length_m: float
    skin: Skin = "on"
    facts: AbstractSet[str] = frozenset()


@dataclass(frozen=True)
class Slot:
    """One thing to be weighed: a piece and its side ("" when it has none)."""

    piece: str
    side: str

    @property
    def key(self) -> str:
        """Short text form, such as "fillet.A" or "gut"."""
        return f"{self.piece}.{self.side}" if self.side else self.piece


@dataclass(frozen=True)
class CuttingPlan:
    """Ordered steps and the slots that they fill, in the order they come off the fish."""

    steps: tuple[Step, ...]
    pieces: tuple[PlannedPiece, ...]
    slots: tuple[Slot, ...]

    def zone_of(self, piece: str) -> str:
        """The zone that a planned piece is cut from, "" when it has none."""
        return next((p.zone for p in self.pieces if p.piece == piece), "")

    def slots_of(self, step: Step) -> tuple[Slot, ...]:
        """What a step puts on the scale."""
        return tuple(s for s in self.slots if s.piece in step.gives)


def plan_cut(
    fish: FishToCut, species: Species, plan: BodyPlan, catalogue: dict[str, Piece]
) -> CuttingPlan:
    """The same inputs give the same plan.

    A step is in when all its conditions hold: size, the species' traits, skin on or off, and
    facts not yet true of the fish (a bled fish is not bled again).

    Args:
        fish: Round mass 0.005 to 1000 kg, total length 0.02 to 10 m.
    Raises:
        OutOfRange: the size cannot be.
    """
    require("round weight", fish.round_kg, 0.005, 1000, "kg")
    require("length", fish.length_m, 0.02, 10, "m")
    traits = {*species.traits, *species.cautions}
    # plans write for skin that is eaten; skin that is not comes off whatever was asked
    skin: Skin = fish.skin if species.skin_eaten else "off"

    def sized(row: Step | PlannedPiece) -> bool:
        cm = fish.length_m * 100
        return row.from_kg <= fish.round_kg < row.below_kg and row.from_cm <= cm < row.below_cm

    def holds(step: Step) -> bool:
        return (
            sized(step)
            and (not step.unless_fact or step.unless_fact not in fish.facts)
            and (not step.trait or step.trait in traits)
            and (not step.unless_trait or step.unless_trait not in traits)
            and (not step.skin or step.skin == skin)
        )

    pieces = tuple(p for p in plan.pieces if sized(p))
    planned = {p.piece for p in pieces}
    steps = tuple(s for s in plan.steps if holds(s))
    slots: list[Slot] = []
    for step in steps:
        for piece in step.gives:
            if piece not in planned and catalogue[piece].counts_as != "rest":
                continue
            sides = ("A", "B") if catalogue[piece].sided else ("",)
            slots += [slot for side in sides if (slot := Slot(piece, side)) not in slots]
    return CuttingPlan(steps, pieces, tuple(slots))


def next_slot(plan: CuttingPlan, weighed: AbstractSet[str]) -> Slot | None:
    """The first slot of the plan that has no weight yet; None when all have."""
    return next((s for s in plan.slots if s.key not in weighed), None)


def present_step(
    plan: CuttingPlan, ticked: AbstractSet[str], weighed: AbstractSet[str]
) -> Step | None:
    """The step to do now: the first that is neither ticked nor finished by its weighings.

    Weighing a piece finishes every step before it too: it could not have come off otherwise.
    """
    reached = -1
    for index, step in enumerate(plan.steps):
        slots = plan.slots_of(step)
        if slots and any(s.key in weighed for s in slots):
            reached = index if all(s.key in weighed for s in slots) else index - 1
        elif step.key in ticked:
            reached = max(reached, index)
    following = plan.steps[reached + 1 :]
    return following[0] if following else None

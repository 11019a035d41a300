"""What a cutting plan is made from and what it is: the fish, the slots to weigh, the steps."""

import math
from collections.abc import Mapping
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, field
from typing import Literal

from lepidos.core.cutting.methods import TakenWay
from lepidos.core.fish.bodyplan import PlannedPiece, Step

Skin = Literal["on", "off"]
# what a fish came without, by what is true of it; parts, and pieces where they are weighed
GONE = {"gutted": ("gut",), "headed": ("head", "cheeks", "cheek")}


@dataclass(frozen=True)
class FishToCut:
    """What the planner needs to know: size, skin wanted, what is done already, what it is for.

    `methods` are the crew's own ways, by question; `facts` such as "gutted" and "headed"; `pieces`
    by slot, such as "fillet.B", what that piece alone is for.
    """

    round_kg: float
    length_m: float
    skin: Skin = "on"
    facts: AbstractSet[str] = frozenset()
    purpose: str = "freezer"
    methods: Mapping[str, str] = field(default_factory=dict)
    pieces: Mapping[str, str] = field(default_factory=dict)


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
    """Ordered steps and the slots that they fill, in the order they come off the fish.

    `purpose` is what it is cut for, which for a fish too large for its pan is not what was asked;
    `minutes_of` each step, by its key; `taken` is the way of each method that this body plan asks
    about; `fillet_factor` what those ways change of the fillet against the species' usual way;
    `skins` by slot where a piece's own purpose leaves its skin otherwise than `skin`;
    `came_without` the parts that were off it before, as in `GONE`.
    """

    steps: tuple[Step, ...]
    pieces: tuple[PlannedPiece, ...]
    slots: tuple[Slot, ...]
    skin: Skin
    taken: Mapping[str, TakenWay]
    minutes_of: Mapping[str, float]
    fillet_factor: float
    purpose: str
    skins: Mapping[str, Skin] = field(default_factory=dict)
    came_without: frozenset[str] = frozenset()

    @property
    def minutes(self) -> float:
        """For the whole fish."""
        return math.fsum(self.minutes_of[step.key] for step in self.steps)

    def skin_of(self, slot: str) -> Skin:
        """Whether a slot's piece keeps its skin."""
        return self.skins.get(slot, self.skin)

    def zone_of(self, piece: str) -> str:
        """The zone that a planned piece is cut from, "" when it has none."""
        return next((p.zone for p in self.pieces if p.piece == piece), "")

    def slots_of(self, step: Step) -> tuple[Slot, ...]:
        """What a step puts on the scale."""
        return tuple(s for s in self.slots if s.piece in step.gives)

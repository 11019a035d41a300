"""Whether a fish is worth filleting, and which of its pieces are worth taking."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from lepidos.core.cutting.model import CuttingPlan, FishToCut
from lepidos.core.fish.anatomy import FISH_DENSITY, Body
from lepidos.core.fish.bodyplan import BodyPlan, Piece
from lepidos.core.fish.species import Species

# A fillet thinner than this cooks dry before it is brown: the fish is better whole (practice; a
# flounder of 14 to 16 in, "hardly worth filleting", has about this).
THIN_M = 0.011
# However thin, a side of a serving's weight is worth cutting off (practice).
WORTH_SIDE_KG = 0.15


def fillet_thickness(body: Body, plan: BodyPlan, length_m: float, round_kg: float) -> float:
    """Thickest part of a side's meat [m], of *this* fish, plumper or leaner by its weight.

    Half the greatest width of the body behind the head, times the plan's share that is meat.
    """
    x = np.linspace(body.shape.head, body.root, 120)
    plump = math.sqrt(round_kg / (body.volume() * length_m**3 * FISH_DENSITY))
    half = float(np.max(body.width(x))) / 2
    return half * plan.meat_per_half_width * length_m * plump


@dataclass(frozen=True)
class NotWorth:
    """A piece that is not taken of this fish: its mass [kg], one side; and from when it is."""

    piece: Piece
    kg: float
    from_kg: float
    from_cm: float


def not_worth(
    fish: FishToCut,
    species: Species,
    plan: BodyPlan,
    cut: CuttingPlan,
    catalogue: Mapping[str, Piece],
) -> tuple[NotWorth, ...]:
    """Pieces that the body plan takes from larger fish only."""
    taken = {p.piece for p in cut.pieces}
    found: dict[str, NotWorth] = {}
    for row in plan.pieces:
        piece = catalogue[row.piece]
        fraction = getattr(species.yields, piece.yield_key or "-", None)
        too_small = fish.round_kg < row.from_kg or fish.length_m * 100 < row.from_cm
        if too_small and row.piece not in taken and fraction is not None:
            part = fraction.mean / (2 if piece.sided else 1)
            found[row.piece] = NotWorth(piece, fish.round_kg * part, row.from_kg, row.from_cm)
    return tuple(found.values())

"""Meat that stayed on the frame: grams turned into a thickness over the bones.

Mass left ≈ contact area × mean gap × density; the area is that of the meat's zones in the body
plan.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from lepidos.core.cutting.model import CuttingPlan
from lepidos.core.errors import require
from lepidos.core.estimate import Estimate
from lepidos.core.fish.anatomy import MUSCLE_DENSITY, Body, area, zone_polygon
from lepidos.core.fish.bodyplan import BodyPlan, Piece

# Less than this nobody goes back for, and the scale's step and drip drown it (practice).
MIN_KG = 0.010


@dataclass(frozen=True)
class LeftOnFrame:
    """Meat on the frame [kg] and as an even layer over the meat's side [m]."""

    kg: float
    thickness_m: float


def contact_area(
    body: Body,
    plan: BodyPlan,
    cut: CuttingPlan,
    catalogue: Mapping[str, Piece],
    total_length_m: float,
) -> float:
    """Area of the bones under one side's meat [m²]: the zones of its fillet pieces, in the plane.

    The curve of the flank is left out, so the layer is rather too thick than too thin.
    """
    zones = [p.zone for p in cut.pieces if p.zone and catalogue[p.piece].counts_as == "fillet"]
    return sum(area(zone_polygon(body, plan, key)) for key in zones) * total_length_m**2


def left_on_frame(
    side_kg: float, expected: Estimate, area_m2: float, spooned_kg: float = 0.0
) -> LeftOnFrame | None:
    """What a side probably left, when it came off lighter than its interval; else None.

    Args:
        side_kg: The meat of the side as weighed, its belly in it. expected: What it should be.
        area_m2: Contact area of the side, 1e-9 to 400. spooned_kg: Scraped off since.
    Raises: OutOfRange.
    Example:
        >>> e = Estimate(0.60, 0.55, 0.65, 0.8, "kg", "f", "s")
        >>> round(left_on_frame(0.50, e, 0.05).thickness_m * 1000, 1)
        1.9
    """
    require("contact area", area_m2, 1e-9, 400, "m²")
    left = expected.value - side_kg - spooned_kg
    if side_kg >= expected.low or left < MIN_KG:
        return None
    return LeftOnFrame(left, left / (area_m2 * MUSCLE_DENSITY))

"""How far above the bones the knife ran, zone by zone: scraped grams turned into millimetres.

Mass left = area × mean gap × density (`frame_meat`); the area is that of the zone on this fish.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import fmean, stdev

from scipy.special import stdtrit

from lepidos.core.errors import require
from lepidos.core.fish.anatomy import MUSCLE_DENSITY, Body, area
from lepidos.core.fish.species import Point

LEVEL = 0.8  # of the intervals that are told: four of five


@dataclass(frozen=True)
class ZoneGap:
    """A zone over several sides: mean millimetres left, their interval (None of one side), and
    the grams that a side of these fish left there.
    """

    zone: str
    sides: int
    mm: float
    low: float | None
    high: float | None
    kg_a_side: float


def zone_area(body: Body, outline: Sequence[Point], total_length_m: float) -> float:
    """Area of a zone of one side [m²]: its outline in station coordinates, in the fish's plane.

    Args: total_length_m 0.01 to 20. Raises OutOfRange.
    """
    require("total length", total_length_m, 0.01, 20, "m")
    return area(body.path(tuple(outline), closed=True)) * total_length_m**2


def gap_mm(kg: float, area_m2: float) -> float:
    """Thickness of an even layer [mm]. kg 0 to 100; area 1e-9 to 400 m². Raises OutOfRange.

    >>> round(gap_mm(0.0212, 0.02), 2)
    1.0
    """
    require("scraped meat", kg, 0, 100, "kg")
    require("area", area_m2, 1e-9, 400, "m²")
    return kg / (area_m2 * MUSCLE_DENSITY) * 1000


def zone_gaps(
    scraped: Mapping[str, Sequence[tuple[float, float]]], level: float = LEVEL
) -> list[ZoneGap]:
    """By zone: kilograms and area [m²] of each side; the thickest layer first.

    `level`: of Student's interval for the mean, 0.5 to 0.999. Raises OutOfRange.
    """
    require("level", level, 0.5, 0.999, "")
    found = []
    for zone, sides in scraped.items():
        gaps = [gap_mm(kg, square) for kg, square in sides]
        if not gaps:
            continue
        middle, low, high = fmean(gaps), None, None
        if len(gaps) > 1:
            reach = float(stdtrit(len(gaps) - 1, 0.5 + level / 2))
            reach *= stdev(gaps) / math.sqrt(len(gaps))
            low, high = max(0.0, middle - reach), middle + reach
        found.append(ZoneGap(zone, len(gaps), middle, low, high, fmean(kg for kg, _ in sides)))
    return sorted(found, key=lambda gap: (-gap.mm, gap.zone))

"""Pieces that lay on the scale together: what each of them probably weighs.

Normal, given their sum: mᵢ + vᵢ/Σv · (S − Σm), with variance vᵢ − vᵢ²/Σv (the usual conditioning
of a normal law). The parts always add up to the reading.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from scipy.special import ndtri

from lepidos.core.errors import BadInput, require
from lepidos.core.estimate import Estimate
from lepidos.core.limits import MAX_PIECE_KG

# Without an expectation a piece may be anything: this part of its even share either way (practice).
UNKNOWN = 0.6


@dataclass(frozen=True)
class Apportioned:
    """One piece's part of a joint weighing [kg], with its interval."""

    kg: float
    low_kg: float
    high_kg: float


def apportion(
    total_kg: float, expected: Sequence[Estimate | None], level: float = 0.8
) -> tuple[Apportioned, ...]:
    """Share a reading out over the pieces that lay together.

    Args:
        total_kg: The reading, above 0.
        expected: What each should weigh; None where nobody knows.
    Raises:
        BadInput: fewer than two pieces. OutOfRange: no weight.
    Example:
        >>> a, b = apportion(0.3, [None, None])
        >>> a.kg + b.kg
        0.3
    """
    require("joint weight", total_kg, 1e-6, MAX_PIECE_KG, "kg")
    if len(expected) < 2:
        raise BadInput("A joint weighing needs two pieces or more")
    known = [e.value for e in expected if e]
    # a piece that nobody can foresee is taken for one of the known ones, or for an even share
    usual = sum(known) / len(known) if known else total_kg / len(expected)
    means, variances = [], []
    for e in expected:
        z = float(ndtri(0.5 + e.level / 2)) if e else 1.0
        means.append(e.value if e else usual)
        variances.append(((e.high - e.low) / (2 * z)) ** 2 if e else (UNKNOWN * usual) ** 2)
    every = math.fsum(variances) or 1.0
    # means far from the sum would make a part negative: bring them near it first
    scale = total_kg / math.fsum(means)
    if not 0.5 < scale < 2.0:
        means = [m * scale for m in means]
    gap = total_kg - math.fsum(means)
    parts = [max(0.0, m + v / every * gap) for m, v in zip(means, variances, strict=True)]
    short = math.fsum(parts)
    milligrams = [round(p * total_kg / short, 6) for p in parts]
    # what rounding leaves over goes to the heaviest: a piece of nothing must not fall below it
    heaviest = milligrams.index(max(milligrams))
    others = milligrams[:heaviest] + milligrams[heaviest + 1 :]
    milligrams[heaviest] = total_kg - math.fsum(others)
    reach = float(ndtri(0.5 + level / 2))
    found = []
    for kg, v in zip(milligrams, variances, strict=True):
        sd = math.sqrt(max(0.0, v - v * v / every))
        found.append(Apportioned(kg, max(0.0, kg - reach * sd), min(total_kg, kg + reach * sd)))
    return tuple(found)

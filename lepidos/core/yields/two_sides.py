"""Two sides of one fish: what the first says of the second, and what is still to come.

On the log scale a side is the fish's own level plus what differs between its sides; the level is
shared, so a side that was weighed narrows the other's interval (normal–normal, exact).
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from scipy.special import ndtri

from lepidos.core.estimate import Estimate

# SD of ln(side B ÷ side A) of one fish and one pair of hands (common practice, no source).
SIDES_SD = 0.08
# Beyond this many of its SDs the sides of a fish are asked about: one honest fish in a hundred.
ASK_SIDES = 2.58


def after_other_side(expected: Estimate, other_kg: float) -> Estimate:
    """What a side will weigh once the other is known [kg].

    Args:
        expected: The side before any cut, the same for both.
        other_kg: What the other side weighed, above 0.
    Example:
        >>> e = Estimate(0.5, 0.4, 0.625, 0.8, "kg", "f", "s")
        >>> after = after_other_side(e, 0.45)
        >>> 0.45 < after.value < 0.5 and after.high - after.low < e.high - e.low
        True
    """
    z = float(ndtri(0.5 + expected.level / 2))
    own = SIDES_SD**2 / 2  # of one side about the fish's level
    level = max(1e-6, expected.sd_log**2 - own)
    pull = level / (level + own)
    middle = math.log(expected.value) + pull * math.log(other_kg / expected.value)
    sd = math.sqrt(level * (1 - pull) + own)
    return Estimate(
        math.exp(middle),
        math.exp(middle - z * sd),
        math.exp(middle + z * sd),
        expected.level,
        expected.unit,
        f"{expected.formula}; the other side weighed {other_kg * 1000:.0f} g",
        expected.source,
        expected.notes,
    )


def differ(a_kg: float, b_kg: float) -> bool:
    """Whether two sides of a fish differ more than hands and fish do."""
    return abs(math.log(b_kg / a_kg)) > ASK_SIDES * SIDES_SD


@dataclass(frozen=True)
class Total:
    """Pieces weighed and pieces to come, together [kg]."""

    value: float
    low: float
    high: float
    level: float


def total_of(weighed: Mapping[str, float], to_come: Mapping[str, Estimate]) -> Total:
    """Sum of what is weighed and what is to be expected, the spreads added in squares.

    Args:
        weighed: By slot, in kg. to_come: By slot, all at one level; those weighed are left out.
    """
    known = math.fsum(weighed.values())
    rest = [e for slot, e in to_come.items() if slot not in weighed]
    if not rest:
        return Total(known, known, known, 1.0)
    value = known + math.fsum(e.value for e in rest)
    below = math.sqrt(math.fsum((e.value - e.low) ** 2 for e in rest))
    above = math.sqrt(math.fsum((e.high - e.value) ** 2 for e in rest))
    return Total(value, value - below, value + above, rest[0].level)

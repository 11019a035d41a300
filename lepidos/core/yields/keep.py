"""How many fish of a size to keep, so that they are enough and not more."""

import math

from lepidos.core.errors import require
from lepidos.core.estimate import Z_80, Estimate

# Of the spread of one fish's fillet, the part of its variance that all fish of a trip share: this
# cutter, this blade, this water (between a third and two thirds; common practice, no source).
SHARED = 0.5
Z_ENOUGH = 0.8416212335729143  # 80 of 100 times
MAX_FISH = 500


def fish_needed(need_kg: float, one: Estimate) -> int | None:
    """The fewest fish whose fillets are enough 80 of 100 times; None: over 500, or never.

    Args: need_kg 0 to 10,000; `one` the fillet to expect of one fish, with its 80 % interval.
    Raises OutOfRange.

    >>> sure = Estimate(0.5, 0.5, 0.5, 0.8, "kg", "", "")
    >>> fish_needed(1.4, sure), fish_needed(1.5, sure), fish_needed(0, sure)
    (3, 3, 0)
    """
    require("need", need_kg, 0.0, 10_000.0, "kg")
    if need_kg == 0:
        return 0
    spread = (one.high - one.low) / (2 * Z_80)
    for fish in range(1, MAX_FISH + 1):
        sd = spread * math.sqrt(fish * (1 - SHARED) + fish**2 * SHARED)
        if fish * one.value - Z_ENOUGH * sd >= need_kg - 1e-9:
            return fish
    return None

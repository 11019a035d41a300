"""Several hands compared as if all had cut the same fish, and none praised for one lucky one.

Each fish's yield is put beside what was to be expected of such a fish, on the logit scale; what
remains is pooled by hand (`partial_pooling`), so that a few fish are drawn towards the others.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from lepidos.core.errors import require
from lepidos.core.yields.partial_pooling import Observation, PoolPrior, pool

# Of single fish and of hands about what is expected, on the logit scale (common practice, no
# source: about 2 points of yield between fish, 1 between hands); learned from what is seen.
BETWEEN_SD, WITHIN_SD, MEAN_SD = 0.05, 0.10, 0.15
MAX_FISH = 2000
FAR_OUT = 3.0  # a fish further out is an odd fish or a slip of the scale: it counts as this far
FEW = 3  # a hand with fewer fish stands after the others


@dataclass(frozen=True)
class OfHand:
    """What one hand's fish give, as if all had cut the same fish: middle and interval."""

    name: str
    fish: int
    value: float
    low: float
    high: float
    level: float


def on_common_ground(
    fish: Sequence[tuple[str, float, float]], typical: float, level: float = 0.8
) -> list[OfHand]:
    """Hands, the best first by the low end of their interval, so that few fish never lead by luck.

    Args:
        fish: Of each: whose hand, its yield, what was to be expected of it, both 0.001 to 0.999.
            The last 2000 count.
        typical: The yield that is stated for all: what their fish gave together.
    Raises OutOfRange.
    """
    require("typical yield", typical, 0.001, 0.999, "")
    counted = fish[-MAX_FISH:]
    far = FAR_OUT * WITHIN_SD
    off = [(name, _logit(got) - _logit(expected)) for name, got, expected in counted]
    usual = sorted(by for _, by in off)[len(off) // 2] if off else 0.0
    seen = [Observation(name, usual + max(-far, min(far, by - usual))) for name, by in off]
    pooled = pool(seen, PoolPrior(0.0, MEAN_SD, 1e-6, BETWEEN_SD, WITHIN_SD))
    middle = sum(o.y for o in seen) / len(seen) if seen else 0.0
    found = []
    for name in pooled.groups:
        at = pooled.middle(name, level=level)
        value, low, high = (
            1 / (1 + math.exp(-(_logit(typical) + by - middle)))
            for by in (at.median, at.low, at.high)
        )
        found.append(OfHand(name, pooled.of_group[name], value, low, high, level))
    return sorted(found, key=lambda hand: (hand.fish < FEW, -hand.low, hand.name))


def _logit(share: float) -> float:
    require("yield", share, 0.001, 0.999, "")
    return math.log(share / (1 - share))

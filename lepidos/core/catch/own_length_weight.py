"""A crew's own length–weight constants: the guide's as a prior, corrected by fish it has weighed.

Bayesian linear regression of ln W on ln L with a normal–inverse-gamma prior, in closed form
(Gelman et al., *Bayesian Data Analysis*, 3rd ed. 2013, sections 14.2 and 14.8).
"""

import math
from collections.abc import Sequence

import numpy as np

from lepidos.core.errors import OutOfRange, require
from lepidos.core.fish.species import LengthWeight, Ratio

# How far a crew's waters and season may lie off the guide's: in weight at a middling length, and
# in the exponent (common practice, no source; Froese 2006 finds b of one species to vary by 0.15).
LEVEL_SD, SLOPE_SD = 0.08, 0.15
SPREAD_WORTH = 12  # the guide's spread of single fish counts as that of so many
MAX_FISH = 500
FAR_OUT = 5.0  # of the guide's spread: beyond is a slip of the scale or of the kind


def updated(
    guide: LengthWeight, lengths_cm: Sequence[float], weights_kg: Sequence[float]
) -> LengthWeight:
    """The guide's constants after the crew's fish; the guide's own where there are none.

    Args:
        lengths_cm: Of the guide's length type, above 0; weights_kg: of the same fish, whole,
            above 0. The last 500 count; those far out do not.
    Raises: OutOfRange.
    """
    if len(lengths_cm) != len(weights_kg):
        raise OutOfRange("weights", len(weights_kg), len(lengths_cm), len(lengths_cm), "")
    for cm, kg in zip(lengths_cm, weights_kg, strict=True):
        require("length", cm, 0.1, 10_000, "cm")
        require("weight", kg, 1e-7, 50_000, "kg")
    middle = 0.5 * (math.log(guide.smallest_cm) + math.log(guide.largest_cm))
    x = np.log(np.asarray(lengths_cm[-MAX_FISH:], dtype=float)) - middle
    y = np.log(np.asarray(weights_kg[-MAX_FISH:], dtype=float) * 1000)
    level = math.log(guide.a) + guide.b * middle
    near = np.abs(y - level - guide.b * x) <= FAR_OUT * guide.sd_log
    x, y = x[near], y[near]
    if not len(x):
        return guide
    variance = guide.sd_log**2
    mean = np.array([level, guide.b])
    precision = np.diag([variance / LEVEL_SD**2, variance / SLOPE_SD**2])
    design = np.column_stack([np.ones(len(x)), x])
    after = precision + design.T @ design
    found = np.linalg.solve(after, precision @ mean + design.T @ y)
    squares = float(y @ y + mean @ precision @ mean - found @ after @ found)
    left = (SPREAD_WORTH * variance + max(0.0, squares)) / (SPREAD_WORTH + len(x))
    # what is not known of the line itself, at the middle of the crew's own fish
    at = np.array([1.0, float(x.mean())])
    spread = math.sqrt(left * (1 + float(at @ np.linalg.solve(after, at))))
    b = min(3.6, max(2.0, float(found[1])))
    a = math.exp(float(found[0]) - float(found[1]) * middle)
    return guide.model_copy(
        update={
            "a": min(1.0, max(1e-5, a)),
            "b": b,
            "sd_log": min(0.99, spread),
            "n": None,
            "note": f"the guide's, corrected by {len(x)} fish of your own",
        }
    )


def updated_ratio(guide: Ratio, seen: Sequence[float]) -> Ratio:
    """A ratio of two lengths after the crew's own fish: normal–normal, in closed form.

    The guide's spread is that of single fish and of its mean alike. Args: seen: ratios, 0.5 to 3;
    those more than five of its spreads off do not count. Raises OutOfRange.

    >>> guide = Ratio(mean=1.10, sd=0.02, source="memory")
    >>> round(updated_ratio(guide, [1.14] * 9).mean, 3)
    1.136
    """
    for ratio in seen:
        require("ratio of lengths", ratio, 0.5, 3.0, "")
    near = [r for r in seen[-MAX_FISH:] if abs(r - guide.mean) <= FAR_OUT * guide.sd]
    if not near:
        return guide
    mean = (guide.mean + math.fsum(near)) / (1 + len(near))
    return guide.model_copy(update={"mean": mean})

"""What a piece weighs as the hand judges it: so many palms, so many fists; and what that adds to
what is known of it already."""

import math

from pydantic import Field

from lepidos.core.errors import require
from lepidos.core.estimate import Z_80, Estimate
from lepidos.core.fish.species import Sourced

MIN_TIMES, MAX_TIMES = 0.1, 30.0
LEVEL = 0.8
MIN_SD = 1e-6  # of a logarithm: what is known exactly still counts as a number


class HandMeasure(Sourced):
    """A measure that everybody has: [kg] of one, and by what it is off in either direction.

    `factor`: four of five pieces that look like one weigh its mass divided by to times this.
    """

    name: str
    plural: str
    kg: float = Field(gt=0, le=2)
    factor: float = Field(gt=1, le=3)


def judged_by_hand(times: float, measure: HandMeasure) -> Estimate:
    """A piece that looks like so many of a measure [kg]. Raises OutOfRange for 0 or over 30 times.

    Example:
        >>> palm = HandMeasure(name="palm", plural="palms", kg=0.115, factor=1.4, source="practice")
        >>> found = judged_by_hand(2, palm)
        >>> round(found.low, 3), found.value, round(found.high, 3)
        (0.164, 0.23, 0.322)
    """
    require("times", times, MIN_TIMES, MAX_TIMES, "times")
    kg = times * measure.kg
    name = measure.name if times == 1 else measure.plural
    return Estimate(
        kg,
        kg / measure.factor,
        kg * measure.factor,
        LEVEL,
        "kg",
        f"about {times:g} {name} of {measure.kg * 1000:.0f} g",
        measure.source,
    )


def both(usual: Estimate, seen: Estimate) -> Estimate:
    """What is usual and what was seen, as two independent opinions [kg].

    Each counts on the log scale by how narrow it is (inverse variance, the normal–normal rule), so
    that the result is narrower than either and lies between them.

    Example:
        >>> usual = Estimate(0.2, 0.16, 0.25, 0.8, "kg", "f", "s")
        >>> seen = Estimate(0.3, 0.24, 0.375, 0.8, "kg", "f", "s")
        >>> round(both(usual, seen).value, 3)
        0.245
    """
    weights = [1 / max(MIN_SD, e.sd_log) ** 2 for e in (usual, seen)]
    logs = [math.log(e.value) for e in (usual, seen)]
    middle = math.fsum(w * x for w, x in zip(weights, logs, strict=True)) / sum(weights)
    reach = Z_80 / math.sqrt(sum(weights))
    return Estimate(
        math.exp(middle),
        math.exp(middle - reach),
        math.exp(middle + reach),
        LEVEL,
        "kg",
        f"{usual.formula}; {seen.formula}",
        usual.source,
        usual.notes,
    )

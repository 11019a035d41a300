"""Whether a cutter's fish have begun to give less than was foreseen: a dull blade, cold hands.

An exponentially weighted moving average of standardised residuals with limits (Roberts 1959; Lucas
& Saccucci, *Technometrics* 32 (1990) 1). How often it cries wolf, the average run length while
nothing is wrong, is calculated by a Markov chain (Brook & Evans, *Biometrika* 59 (1972) 539).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from lepidos.core.errors import require
from lepidos.core.estimate import Z_80

WEIGHT = 0.20  # of the latest fish
LIMIT = 2.962  # of these the run length is 500 fish (Lucas & Saccucci 1990, table 3, memory)
STATES = 201  # of the chain


@dataclass(frozen=True)
class Point:
    """The average after a fish, and its limits then, in standard deviations of one fish."""

    value: float
    limit: float

    @property
    def low(self) -> bool:
        """It has fallen out of the limits."""
        return self.value < -self.limit


def moving_average(
    residuals: Sequence[float], weight: float = WEIGHT, limit: float = LIMIT
) -> list[Point]:
    """The average after each of some standardised residuals, oldest first.

    Args: weight 0.01 to 1; limit 0.5 to 5. Raises OutOfRange, also for a residual beyond ±50.

    >>> [round(p.value, 2) for p in moving_average([1.0, 1.0])]
    [0.2, 0.36]
    """
    require("weight", weight, 0.01, 1.0, "")
    require("limit", limit, 0.5, 5.0, "")
    found, at = [], 0.0
    for n, residual in enumerate(residuals, 1):
        require("residual", residual, -50, 50, "")
        at = weight * residual + (1 - weight) * at
        spread = math.sqrt(weight / (2 - weight) * (1 - (1 - weight) ** (2 * n)))
        found.append(Point(at, limit * spread))
    return found


def low_since(points: Sequence[Point]) -> int | None:
    """From which fish on, counted from 0, the average is out of its limits now; None: it is not."""
    if not points or not points[-1].low:
        return None
    since = len(points) - 1
    while since > 0 and points[since - 1].low:
        since -= 1
    return since


def run_length(weight: float = WEIGHT, limit: float = LIMIT, shift: float = 0.0) -> float:
    """Fish until the average leaves its final limits on either side, on the mean.

    `shift`: by how many standard deviations every fish is off, −5 to 5; 0: nothing is wrong.
    Raises OutOfRange.
    """
    require("weight", weight, 0.01, 1.0, "")
    require("limit", limit, 0.5, 5.0, "")
    require("shift", shift, -5.0, 5.0, "")
    edge = limit * math.sqrt(weight / (2 - weight))
    width = 2 * edge / STATES
    middle = -edge + width * (np.arange(STATES) + 0.5)
    gone = (1 - weight) * middle[:, None]
    upper = (middle[None, :] + width / 2 - gone) / weight - shift
    lower = (middle[None, :] - width / 2 - gone) / weight - shift
    stays = ndtr(upper) - ndtr(lower)
    lengths = np.linalg.solve(np.eye(STATES) - stays, np.ones(STATES))
    return float(lengths[STATES // 2])


def standardised(kg: float, foreseen_kg: float, low_kg: float, high_kg: float) -> float:
    """How far a weight is from what was foreseen, by its 80 % interval on the log scale.

    All above 0 and low below high. Raises OutOfRange.
    """
    require("weight", kg, 1e-6, 1e6, "kg")
    require("low", low_kg, 1e-6, high_kg * (1 - 1e-9), "kg")
    sd = (math.log(high_kg) - math.log(low_kg)) / (2 * Z_80)
    return max(-50.0, min(50.0, math.log(kg / foreseen_kg) / sd))

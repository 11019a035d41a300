"""What something gave: fish before it and after it (a blade sharpened, another one taken up)."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from scipy.stats import ttest_ind

from lepidos.core.errors import require

AROUND = 12  # fish on either side
MIN_PAIRS = 4  # pairs; fewer tell nothing (practice)


@dataclass(frozen=True)
class Gain:
    """How much more the later fish gave, as a part, with its interval."""

    before: int
    after: int
    value: float
    low: float
    high: float
    level: float

    @property
    def plain(self) -> bool:
        """Whether it is more, or less, than fish differ anyway."""
        return self.low > 0 or self.high < 0


def gained(before: Sequence[float], after: Sequence[float], level: float = 0.8) -> Gain | None:
    """Later fish beside earlier ones, by Welch's interval (*Biometrika* 34 (1947) 28).

    Args: before, after: of each fish what it gave per what was foreseen, above 0, in order; the 12
    nearest on either side count. level: 0.5 to 0.999. None: fewer than four on a side.
    Raises OutOfRange.

    >>> found = gained([0.96, 0.95, 0.97, 0.96], [1.0, 1.01, 0.99, 1.0])
    >>> round(found.value, 3), found.plain
    (0.042, True)
    """
    require("level", level, 0.5, 0.999, "")
    first, then = list(before)[-AROUND:], list(after)[:AROUND]
    for share in (*first, *then):
        require("share", share, 1e-6, 1e6, "")
    if min(len(first), len(then)) < MIN_PAIRS:
        return None
    logs = [[math.log(share) for share in some] for some in (then, first)]
    value = sum(logs[0]) / len(logs[0]) - sum(logs[1]) / len(logs[1])
    found = ttest_ind(*logs, equal_var=False).confidence_interval(level)
    low, high = (
        (float(found.low), float(found.high)) if math.isfinite(found.low) else (value, value)
    )
    return Gain(len(first), len(then), math.expm1(value), math.expm1(low), math.expm1(high), level)

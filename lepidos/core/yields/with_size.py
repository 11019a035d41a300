"""Whether bigger fish of a kind give more, and whether slower cutting does."""

from collections.abc import Sequence
from typing import Literal

from scipy.stats import spearmanr

from lepidos.core.errors import require
from lepidos.core.yields.partial_pooling import Prediction

Leans = Literal["more", "less", "same"]
MIN_FISH = 8  # fewer tell nothing of a slope (practice)
LEVEL = 0.9  # of the slope's interval
# of the logit by a factor e of weight: half a point of yield for a fish twice as heavy
SAME_BELOW = 0.03


def leans(slope: Prediction) -> Leans | None:
    """What a slope of yield with size says: None, that it does not tell.

    "same" when its interval lies within half a point for a fish twice as heavy.
    """
    if slope.low > 0:
        return "more"
    if slope.high < 0:
        return "less"
    return "same" if max(-slope.low, slope.high) < SAME_BELOW else None


def goes_with(by: Sequence[float], shares: Sequence[float]) -> Leans | None:
    """Whether fish gave more with more of something (minutes per kilogram, hours into the day):
    Spearman's rank correlation, p below 0.1.

    None for fewer than eight fish, or where it does not tell. Raises OutOfRange for lengths that
    differ.
    """
    require("number of yields", len(shares), len(by), len(by), "")
    if len(shares) < MIN_FISH or len(set(shares)) < 2 or len(set(by)) < 2:
        return None
    found = spearmanr(by, shares)
    if found.pvalue >= 1 - LEVEL:
        return None
    return "more" if found.statistic > 0 else "less"

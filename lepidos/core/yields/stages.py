"""Yields by stage: from round to boneless, each with its numerator and its denominator by name.

A yield is a ratio of sums, so that big fish count for what they are; its interval is a jackknife
(Tukey, *Ann. Math. Stat.* 29 (1958) 614; for ratios Cochran, *Sampling Techniques*, 3rd ed. 1977,
section 6.17), with Student's t.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from scipy.special import stdtrit

from lepidos.core.cutting.model import Skin
from lepidos.core.errors import require
from lepidos.core.limits import MIN_PIECE_KG

# In the order in which a fish passes through them, and their names.
STAGES = {
    "round": "round weight",
    "gutted": "gutted weight",
    "headed": "headed and gutted weight",
    "skin_on": "fillets, skin on",
    "skinless": "fillets, skinless",
    "boneless": "fillets, skinless and boneless",
}
MIN_FISH = 3  # for an interval


def stage_masses(
    round_kg: float | None,
    gutted_kg: float | None,
    parts: Mapping[str, float],
    fillet_kg: float,
    skin: Skin,
    boneless: bool,
) -> dict[str, float]:
    """What a finished fish weighed at each stage [kg], as far as it was weighed or follows from it.

    Args:
        round_kg, gutted_kg: As measured, above 0; None: not.
        parts: By piece, kg; of them `gut`, `head` and `skin` are used.
        fillet_kg: All fillets, as they were weighed: their `skin` on or off, pin bones out or not.
    Example:
        >>> found = stage_masses(2.0, None, {"gut": 0.3, "head": 0.4}, 0.84, "on", False)
        >>> {k: round(v, 2) for k, v in found.items()}
        {'round': 2.0, 'gutted': 1.7, 'headed': 1.3, 'skin_on': 0.84}
    """
    found: dict[str, float] = {}
    if round_kg is not None:
        found["round"] = round_kg
    gutted = gutted_kg
    if gutted is None and round_kg is not None and "gut" in parts:
        gutted = round_kg - parts["gut"]
    if gutted is not None and gutted > MIN_PIECE_KG:
        found["gutted"] = gutted
        if "head" in parts and gutted - parts["head"] > MIN_PIECE_KG:
            found["headed"] = gutted - parts["head"]
    if fillet_kg > 0 and skin == "on":
        found["skin_on"] = fillet_kg
    elif fillet_kg > 0:
        if "skin" in parts:
            found["skin_on"] = fillet_kg + parts["skin"]
        found["skinless"] = fillet_kg
        if boneless:
            found["boneless"] = fillet_kg
    return found


@dataclass(frozen=True)
class StageYield:
    """A yield of several fish: of what (`numerator`), per what, and its interval at `level`.

    `low` and `high` are None for fewer fish than make an interval.
    """

    numerator: str
    denominator: str
    fish: int
    over_kg: float
    under_kg: float
    low: float | None
    high: float | None
    level: float

    @property
    def fraction(self) -> float:
        """All of the one over all of the other."""
        return self.over_kg / self.under_kg


def stage_yield(
    pairs: Sequence[tuple[float, float]], numerator: str, denominator: str, level: float = 0.8
) -> StageYield | None:
    """The yield of fish of which both are known; None: of none.

    Args: pairs: numerator and denominator of each fish [kg], above 0. level: 0.5 to 0.999.
    Raises OutOfRange.
    """
    require("level", level, 0.5, 0.999, "")
    if not pairs:
        return None
    for over, under in pairs:
        require("numerator", over, 1e-9, 1e6, "kg")
        require("denominator", under, 1e-9, 1e6, "kg")
    over_kg, under_kg = math.fsum(a for a, _ in pairs), math.fsum(b for _, b in pairs)
    ratio, n = over_kg / under_kg, len(pairs)
    low = high = None
    if n >= MIN_FISH:
        without = [(over_kg - a) / (under_kg - b) for a, b in pairs]
        middle = math.fsum(without) / n
        spread = math.sqrt((n - 1) / n * math.fsum((r - middle) ** 2 for r in without))
        reach = float(stdtrit(n - 1, 0.5 + level / 2)) * spread
        low, high = max(0.0, ratio - reach), ratio + reach
    return StageYield(numerator, denominator, n, over_kg, under_kg, low, high, level)


def stage_table(fish: Sequence[Mapping[str, float]], level: float = 0.8) -> list[StageYield]:
    """Every later stage per every earlier one, where some fish has both."""
    keys, found = list(STAGES), []
    for n, under in enumerate(keys):
        for over in keys[n + 1 :]:
            pairs = [(one[over], one[under]) for one in fish if over in one and under in one]
            one = stage_yield(pairs, over, under, level)
            if one is not None:
                found.append(one)
    return found

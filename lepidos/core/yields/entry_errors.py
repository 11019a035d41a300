"""A weight that is probably a slip: a tray not taken off, a decimal point, pounds for kilograms.

Each explanation is weighed by how likely the weight is under it and how common such slips are
(Bayes). Never a correction by itself: what it finds is a question with a proposal.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from scipy.special import ndtri

from lepidos.core.estimate import Estimate
from lepidos.core.units import LB_KG

Kind = Literal["tray", "decimal", "unit"]

# How common slips are, of all weighings (common practice, no source).
TRAY, DECIMAL, UNIT = 0.03, 0.02, 0.01
# Fish are odder than a normal law: one in fifty is drawn from three times the spread (practice).
ODD_PART, ODD_TIMES = 0.02, 3.0
ASK_FROM = 1 / 3  # probability from which the slip is put to the person
OUTSIDE = 0.99  # a piece outside this interval is asked about even when no slip explains it


@dataclass(frozen=True)
class Slip:
    """What it probably is, what the piece then weighs [kg], and how probable that is."""

    kind: Kind
    kg: float
    probability: float


def find_slip(
    kg: float, expected: Estimate, trays: Sequence[float] = (), typed: bool = False
) -> Slip | None:
    """The slip that explains a weight better than the weight itself, if one does.

    Args:
        kg: As it was taken, above 0.
        expected: What the piece should weigh.
        trays: Masses [kg] that may have been on the pan besides: trays, an earlier piece.
        typed: Decimal points and units go wrong by hand only.
    """
    right = _density(kg, expected) * (1 - TRAY - (DECIMAL + UNIT if typed else 0))
    found: list[tuple[float, Kind, float]] = []
    for tray in trays:
        if 0 < tray < kg:
            weight = TRAY / len(trays)
            found.append((weight * _density(kg - tray, expected), "tray", kg - tray))
    if typed:
        for factor in (0.1, 10.0):
            weight = DECIMAL / 2 * factor
            found.append((weight * _density(kg * factor, expected), "decimal", kg * factor))
        for factor in (LB_KG, 1 / LB_KG):
            weight = UNIT / 2 * factor
            found.append((weight * _density(kg * factor, expected), "unit", kg * factor))
    if not found:
        return None
    every = right + math.fsum(part for part, _, _ in found)
    if every <= 0:
        return None
    best, kind, corrected = max(found)
    probability = best / every
    return Slip(kind, corrected, probability) if probability > ASK_FROM else None


def is_outside(kg: float, expected: Estimate, level: float = OUTSIDE) -> bool:
    """Whether a weight lies outside the expected interval, widened to `level` on the log scale."""
    low, high = interval_at(expected, level)
    return not low <= kg <= high


def interval_at(expected: Estimate, level: float) -> tuple[float, float]:
    """An estimate's interval at another level, on the log scale [kg]."""
    middle, sd = _log_normal(expected)
    reach = float(ndtri(0.5 + level / 2)) * sd
    return math.exp(middle - reach), math.exp(middle + reach)


def _density(kg: float, expected: Estimate) -> float:
    """Density of a weight [1/kg] by a log-normal law with heavier tails."""
    middle, sd = _log_normal(expected)
    off = math.log(kg) - middle

    def normal(s: float) -> float:
        return math.exp(-0.5 * (off / s) ** 2) / s

    return ((1 - ODD_PART) * normal(sd) + ODD_PART * normal(ODD_TIMES * sd)) / kg


def _log_normal(expected: Estimate) -> tuple[float, float]:
    return math.log(expected.value), max(expected.sd_log, 1e-3)

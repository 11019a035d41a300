"""Length and weight of a fish as it comes aboard."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq
from scipy.special import ndtri, stdtrit

from lepidos.core.errors import OutOfRange, require
from lepidos.core.estimate import Estimate
from lepidos.core.fish.lengths import length_name, ratio_spread, to_length_type
from lepidos.core.fish.species import LengthType, LengthWeight, Ratio, Species
from lepidos.core.limits import require_length, require_weight
from lepidos.core.units import IN_M, LB_KG

LEVEL = 0.90  # of the intervals that are told: nine fish of ten
FORMULA = "W = a · L^b, interval from the spread of real fish around it"

# Common practice, no source: a weight this many times off the length's is a slip of the hand
# (tare, decimal point, species); a fish in poor or full condition stays well inside.
REFUSED_FACTOR = 5.0
# Beyond this many residual standard deviations the weight is worth a question: about one
# honest fish in 400.
QUESTION_SDS = 3.0
# A fish may beat the guide's longest by this much before its length is refused.
LENGTH_SLACK = 1.25


def check_length(length_m: float, length_type: LengthType, species: Species) -> float:
    """`length_m` when such a fish can be. Raises OutOfRange named "length", in cm.

    A fork length may be as long as the longest total length is, for short lobes.
    """
    longest = max(
        to_length_type(longest_m(species), species.length_type, length_type, species.total_per),
        longest_m(species) if length_type == "fork" else 0.0,
    )
    # a length on the bound itself is within it, whatever the last digit of a product is
    require("length", round(length_m * 100, 6), 1, round(longest * 100 * LENGTH_SLACK, 6), "cm")
    return length_m


def longest_m(species: Species) -> float:
    """The longest on record [m], of the type in which the kind is measured."""
    return species.longest_cm / 100


# Slips of the hand with a length, in the order in which they are offered.
_LENGTH_SLIPS = (
    ("the decimal point", 10.0),
    ("the decimal point", 0.1),
    ("inches for centimetres", IN_M * 100),
    ("centimetres for inches", 0.01 / IN_M),
)


@dataclass(frozen=True)
class LengthDoubt:
    """A length that such a fish seldom has [m]: what is usual, and what it may have been.

    `perhaps` holds (slip, the length without it), for the person to choose from.
    """

    usual_m: tuple[float, float]
    perhaps: tuple[tuple[str, float], ...]


def doubt_length(length_m: float, length_type: LengthType, species: Species) -> LengthDoubt | None:
    """None for a length within the sizes that the guide's source measured; else the question.

    Never a correction and never a refusal: small and record fish exist.

    Args: length_m within `check_length`.
    Example: 3.5 cm typed for 35 of a fish measured from 15 to 50 cm gives 35 cm back.
    """
    fit = species.length_weight
    smallest, largest = (
        to_length_type(cm / 100, fit.length_type, length_type, species.total_per)
        for cm in (fit.smallest_cm, fit.largest_cm)
    )
    longest = to_length_type(
        longest_m(species), species.length_type, length_type, species.total_per
    )
    if smallest <= length_m <= max(largest, longest):
        return None
    perhaps = tuple(
        (slip, length_m * factor)
        for slip, factor in _LENGTH_SLIPS
        if smallest <= length_m * factor <= largest
    )
    return LengthDoubt((smallest, largest), perhaps)


def weight_from_length(
    length_m: float, length_type: LengthType, species: Species, level: float = LEVEL
) -> Estimate:
    """Round weight to expect from a length, with the interval for a single fish [kg].

    The mean of a log-normal, a·L^b·exp(s²/2), with quantiles exp(±z·s) around the median; the
    exponential is the usual correction for fitting on logarithms (Baskerville 1972, memory).

    Args:
        length_m: More than 1 cm, at most 1.25 times the guide's longest.
        length_type: Of `length_m`; converted to the one the guide's fit uses.
        level: Probability of the interval, 0.5 to 0.999.
    Raises:
        OutOfRange: the length cannot be, or the level is outside its range.
    Source:
        The species' `length_weight` row of the guide; model of Le Cren (1951), Ricker (1975).
    """
    check_length(length_m, length_type, species)
    return weight_from_fit(length_m, length_type, species.length_weight, species.total_per, level)


def weight_from_fit(
    length_m: float,
    length_type: LengthType,
    fit: LengthWeight,
    total_per: Mapping[LengthType, Ratio],
    level: float = LEVEL,
) -> Estimate:
    """`weight_from_length` for constants given one by one [kg].

    Args:
        length_m: Within `limits`. level: Of the interval, 0.5 to 0.999.
    Raises: OutOfRange.
    """
    require("level", level, 0.5, 0.999, "")
    require_length(length_m)
    as_fitted = to_length_type(length_m, length_type, fit.length_type, total_per)
    length_cm = as_fitted * 100
    notes: list[str] = []
    sd = fit.sd_log
    if length_type != fit.length_type:
        # the ratio's own spread comes in b times over
        sd = math.hypot(sd, fit.b * ratio_spread(length_type, fit.length_type, total_per))
        taken, fitted = length_name(length_type), length_name(fit.length_type)
        notes.append(f"{taken} taken as {length_cm:.1f} cm {fitted}")
    if not fit.smallest_cm <= length_cm <= fit.largest_cm:
        notes.append(f"source measured {fit.smallest_cm:g} to {fit.largest_cm:g} cm")
    median_kg = fit.a * length_cm**fit.b / 1000
    reach = _quantile(level, fit.n) * sd
    constants = f"a = {fit.a:g}, b = {fit.b:g}, s = {fit.sd_log:g}"
    return Estimate(
        median_kg * math.exp(sd * sd / 2),
        median_kg * math.exp(-reach),
        median_kg * math.exp(reach),
        level,
        "kg",
        f"{FORMULA}; {constants} ({length_name(fit.length_type)})",
        fit.source,
        tuple(notes),
    )


@dataclass(frozen=True)
class WeightDoubt:
    """A weight that does not go with its length: what is usual, and what it may have been."""

    usual: Estimate
    refused: bool
    perhaps: tuple[tuple[str, float], ...]


def doubt_weight(
    weight_kg: float, length_m: float, length_type: LengthType, species: Species
) -> WeightDoubt | None:
    """None for a weight that goes with its length; otherwise the question to ask.

    Never a correction: `perhaps` lists slips (a decimal place, pounds for kilograms) that would
    bring it inside, for the person to choose from.
    """
    usual = weight_from_length(length_m, length_type, species)
    fit = species.length_weight
    off = abs(math.log(weight_kg / usual.value))
    if off <= QUESTION_SDS * fit.sd_log:
        return None
    slips = {
        "a decimal place": (weight_kg / 10, weight_kg * 10),
        "two decimal places": (weight_kg / 100, weight_kg * 100),
        "grams for kilograms": (weight_kg / 1000, weight_kg * 1000),
        "pounds for kilograms": (weight_kg * LB_KG, weight_kg / LB_KG),
    }
    perhaps = tuple(
        (name, kg) for name, both in slips.items() for kg in both if usual.low <= kg <= usual.high
    )
    return WeightDoubt(usual, off > math.log(REFUSED_FACTOR), perhaps)


@dataclass(frozen=True)
class LengthWeightFit:
    """A least-squares line of ln W [g] on ln L [cm]."""

    a: float
    b: float
    sd_log: float
    n: int
    mean_log_length: float
    sxx: float

    def interval_kg(self, length_m: float, level: float = LEVEL) -> tuple[float, float]:
        """Prediction interval for one new fish [kg], parameters' own uncertainty included.

        Standard result for a new observation of a straight line: t(n−2) · s ·
        √(1 + 1/n + (x − x̄)²/Sxx), e.g. NIST/SEMATECH e-Handbook, section 4.5.1 (memory).
        """
        x = math.log(length_m * 100)
        spread = math.sqrt(1 + 1 / self.n + (x - self.mean_log_length) ** 2 / self.sxx)
        reach = float(stdtrit(self.n - 2, 0.5 + level / 2)) * self.sd_log * spread
        median_kg = self.a * (length_m * 100) ** self.b / 1000
        return median_kg * math.exp(-reach), median_kg * math.exp(reach)


def fit_length_weight(lengths_m: Sequence[float], weights_kg: Sequence[float]) -> LengthWeightFit:
    """Fit W = a·L^b on logarithms.

    Args: at least 3 fish of at least 2 lengths; every value above 0.
    Raises: OutOfRange naming the argument.
    """
    require("number of fish", len(lengths_m), 3, 1e7, "")
    if len(weights_kg) != len(lengths_m):
        raise OutOfRange("weights", len(weights_kg), len(lengths_m), len(lengths_m), "")
    for length, weight in zip(lengths_m, weights_kg, strict=True):
        require("length", length, 1e-3, 20, "m")
        require("weight", weight, 1e-5, 5000, "kg")
    x = np.log(np.asarray(lengths_m, dtype=float) * 100)
    y = np.log(np.asarray(weights_kg, dtype=float) * 1000)
    mean_x = float(x.mean())
    sxx = float(((x - mean_x) ** 2).sum())
    require("spread of lengths", sxx, 1e-9, 1e9, "")
    b = float(((x - mean_x) * y).sum() / sxx)
    log_a = float(y.mean()) - b * mean_x
    residuals = y - log_a - b * x
    sd_log = math.sqrt(float((residuals**2).sum()) / (len(x) - 2))
    return LengthWeightFit(math.exp(log_a), b, sd_log, len(x), mean_x, sxx)


def length_from_weight(round_kg: float, length_type: LengthType, species: Species) -> float:
    """The length [m] at which such a fish usually weighs that: `weight_from_length` the other way.

    Args: round_kg: Within `limits`.
    Raises: OutOfRange: no length of this kind weighs that.
    """
    require_weight(round_kg)
    shortest, longest = (
        to_length_type(m, species.length_type, length_type, species.total_per)
        for m in (0.02, longest_m(species) * LENGTH_SLACK * 0.99)
    )

    def off(length_m: float) -> float:
        usual = weight_from_length(length_m, length_type, species).value
        return math.log(usual / round_kg)

    least, most = (round_kg * math.exp(off(m)) for m in (shortest, longest))
    require("weight", round_kg, least, most, "kg")
    return float(brentq(off, shortest, longest, xtol=1e-6))


def _quantile(level: float, n: int | None) -> float:
    if n is None:
        return float(ndtri(0.5 + level / 2))
    return float(stdtrit(n - 2, 0.5 + level / 2))

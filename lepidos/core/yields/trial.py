"""A trial of two ways of cutting, one on each side of a fish: a fish is its own control.

Which side gets which way, and which is cut first, is drawn in blocks of four, so that each
combination comes up as often (permuted blocks). The result is read once, when the fish that were
planned are done (a fixed number): looking every evening and stopping at the first good one would
find a difference where there is none.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from random import Random

import numpy as np
from numpy.typing import NDArray
from scipy.stats import nct
from scipy.stats import t as student

from lepidos.core.errors import require

EXACT_UP_TO = 36  # fish; beyond, signs are drawn this often:
DRAWS = 200_000  # of the permutations, when there are too many to try all
LEVEL = 0.9  # of the interval of the difference
ALPHA = 0.05  # Cohen 1988: the usual risk of a difference that is not there
POWER = 0.8  # Cohen 1988: the usual chance to find one that is
MIN_FISH, MAX_FISH = 6, 200  # five fish can never give an exact p below 0.0625
# SD of the difference between sides cut alike, in points of round weight: 8 % of a side that is
# 21 % of the fish (`two_sides`; common practice, no source)
USUAL_SD = 0.08 * 0.21 * 2


@dataclass(frozen=True)
class Draw:
    """For one fish: the side that is cut by way X, and the side that is cut first."""

    x_side: str
    first_side: str


def draw_sides(rng: Random, fish: int) -> list[Draw]:
    """For so many fish, in blocks of four. 1 to 200 fish. Raises OutOfRange.

    >>> found = draw_sides(Random(1), 8)
    >>> sum(d.x_side == "A" for d in found), sum(d.first_side == "A" for d in found)
    (4, 4)
    """
    require("number of fish", fish, 1, MAX_FISH, "")
    found: list[Draw] = []
    while len(found) < fish:
        block = [Draw(x, first) for x in "AB" for first in "AB"]
        rng.shuffle(block)
        found += block
    return found[:fish]


def difference(x_kg: float, y_kg: float, round_kg: float) -> float:
    """What cutting both sides by X would give more than by Y, as a part of the round weight.

    All above 0. Raises OutOfRange.

    >>> round(difference(0.46, 0.44, 2.0), 3)
    0.02
    """
    for name, kg in (("side X", x_kg), ("side Y", y_kg), ("round weight", round_kg)):
        require(name, kg, 1e-6, 1e6, "kg")
    return 2 * (x_kg - y_kg) / round_kg


@dataclass(frozen=True)
class Paired:
    """Differences of several fish: mean, its interval at `level` (None of one fish), and p."""

    fish: int
    mean: float
    sd: float
    low: float | None
    high: float | None
    level: float
    p: float

    @property
    def decided(self) -> bool:
        """Whether a difference like this seldom comes by chance alone."""
        return self.p < ALPHA


def paired(differences: Sequence[float], level: float = LEVEL) -> Paired:
    """Student's interval for the mean, and the exact p of the sign-flip permutation test.

    Under no difference each fish's might as well have had the other sign; p is the part of all
    sign patterns with a mean as far from 0 or farther (Fisher 1935; to 36 fish all of them, beyond
    200,000 drawn with a fixed seed).

    Args: 1 to 200 differences. level: 0.5 to 0.999. Raises OutOfRange.
    """
    require("number of differences", len(differences), 1, MAX_FISH, "")
    require("level", level, 0.5, 0.999, "")
    d = np.array(differences, dtype=float)
    n, mean = len(d), float(d.mean())
    if n == 1:
        return Paired(1, mean, 0.0, None, None, level, 1.0)
    sd = float(d.std(ddof=1))
    reach = float(student.ppf(0.5 + level / 2, n - 1)) * sd / math.sqrt(n)
    return Paired(n, mean, sd, mean - reach, mean + reach, level, _sign_flip(d))


def _sign_flip(d: NDArray[np.float64]) -> float:
    n = len(d)
    # sums of the same figures in another order differ in their last digits
    far = abs(d.sum()) - 1e-12 * np.abs(d).sum()
    if far <= 0.0:
        return 1.0
    if n <= EXACT_UP_TO:
        # a pattern is one of each half: 512 and 1,024 sums stand for the 2^19 of 20 fish
        half = (n + 1) // 2
        some = d[0] + _signed_sums(d[1:half])  # by symmetry the first keeps its sign
        rest = np.sort(_signed_sums(d[half:]))
        hits = len(rest) - np.searchsorted(rest, far - some, "left")
        hits += np.searchsorted(rest, -far - some, "right")
        return float(hits.sum()) / (len(some) * len(rest))
    rng = np.random.default_rng(n)
    hits = 0
    for _ in range(10):
        signs = rng.choice([-1.0, 1.0], size=(DRAWS // 10, n))
        hits += int((np.abs(signs @ d) >= far).sum())
    return (hits + 1) / (DRAWS + 1)  # Phipson & Smyth 2010: p is never 0


def _signed_sums(d: NDArray[np.float64]) -> NDArray[np.float64]:
    """The sums of all sign patterns."""
    sums = np.zeros(1)
    for value in d:
        sums = np.concatenate([sums + value, sums - value])
    return sums


def power_of(fish: int, effect: float, sd: float, alpha: float = ALPHA) -> float:
    """How often a true difference is found by so many fish (noncentral t; Cohen 1988, ch. 2).

    Args: fish 2 to 100,000; effect and sd in one unit, sd above 0; alpha 0.001 to 0.5.
    Raises OutOfRange.
    """
    require("number of fish", fish, 2, 100_000, "")
    require("sd", sd, 1e-12, 1e12, "")
    require("alpha", alpha, 0.001, 0.5, "")
    off = abs(effect) / sd * math.sqrt(fish)
    edge = float(student.ppf(1 - alpha / 2, fish - 1))
    return float(nct.sf(edge, fish - 1, off) + nct.cdf(-edge, fish - 1, off))


def fish_to_settle(effect: float, sd: float, power: float = POWER) -> int | None:
    """The fewest fish, 6 or more, that find such a difference so often; None: over 200.

    Args: effect not 0; sd above 0; power 0.5 to 0.99. Raises OutOfRange.

    >>> fish_to_settle(0.015, 0.02)
    16
    """
    require("size of the difference", abs(effect), 1e-9, 1.0, "")
    require("power", power, 0.5, 0.99, "")
    for fish in range(MIN_FISH, MAX_FISH + 1):
        if power_of(fish, effect, sd) >= power:
            return fish
    return None

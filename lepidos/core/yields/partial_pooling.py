"""Partial pooling: a figure learned from guide, crew and cutter, each as far as it goes.

y = μ + β·x + u(group) + e, with μ ~ N(prior), β ~ N(0, slope), u ~ N(0, τ²), e ~ N(0, σ²). Given τ
and σ the posterior is exact (Lindley & Smith, *J. R. Stat. Soc. B* 34 (1972) 1); τ and σ are
integrated over a grid, since with few groups plug-in values make the interval too narrow (Gelman
et al., *Bayesian Data Analysis*, 3rd ed., ch. 5, memory).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq
from scipy.special import ndtr, ndtri

from lepidos.core.errors import require

Floats = NDArray[np.float64]

# How far the grids reach, in units of their prior scales.
TAU_GRID = np.geomspace(0.1, 4.0, 7)
SIGMA_GRID = np.geomspace(0.25, 4.0, 9)
# σ is log-normal about its scale: a factor of two either way is nothing odd (memory).
SIGMA_SPREAD = 0.5
# Of fish of made-up crews that were still to come so many ended inside an interval of 80 %, as few
# and as many as any crew had (measured, see docs/measurements.md).
HELD = (0.75, 0.83)


@dataclass(frozen=True)
class Observation:
    """One figure of a group, with its covariate (0 where the prior's mean holds)."""

    group: str
    y: float
    x: float = 0.0


@dataclass(frozen=True)
class PoolPrior:
    """What is known before any observation: μ, β and the scales of τ and σ, all in units of y."""

    mean: float
    mean_sd: float
    slope_sd: float
    between: float
    within: float


@dataclass(frozen=True)
class _Point:
    """One (τ, σ) of the grid: its posterior weight, and the effects' mean and covariance."""

    weight: float
    tau: float
    sigma: float
    effects: Floats
    covariance: Floats


@dataclass(frozen=True)
class Prediction:
    """What the next figure of a group will be: median, interval, in units of y."""

    median: float
    low: float
    high: float
    level: float


@dataclass(frozen=True)
class Pooled:
    """A posterior. `groups` are those that were seen, `learned_from` how many figures."""

    groups: tuple[str, ...]
    learned_from: int
    of_group: dict[str, int]
    _points: tuple[_Point, ...]

    def predict(self, group: str, x: float = 0.0, level: float = 0.8) -> Prediction:
        """The next figure of a group, seen or new, at a covariate. `level` 0.5 to 0.999."""
        return self._of(self._at(group, x), level, of_one=True, seen=group in self.groups)

    def middle(self, group: str, x: float = 0.0, level: float = 0.8) -> Prediction:
        """The mean of all figures that a group would give at a covariate: what it is worth,
        not what its next figure will be. `level` 0.5 to 0.999.
        """
        return self._of(self._at(group, x), level, of_one=False, seen=group in self.groups)

    def slope(self, level: float = 0.8) -> Prediction:
        """β. `level` 0.5 to 0.999."""
        at = np.zeros(2 + len(self.groups))
        at[1] = 1.0
        return self._of(at, level, of_one=False, seen=True)

    def _at(self, group: str, x: float) -> Floats:
        at = np.zeros(2 + len(self.groups))
        at[0], at[1] = 1.0, x
        if group in self.groups:
            at[2 + self.groups.index(group)] = 1.0
        return at

    def _of(self, at: Floats, level: float, of_one: bool, seen: bool) -> Prediction:
        """What a sum of effects comes to, over the grid; of one figure with its own spread."""
        require("level", level, 0.5, 0.999, "")
        means, sds, weights = [], [], []
        for point in self._points:
            spread = (point.sigma**2 if of_one else 0.0) + (0.0 if seen else point.tau**2)
            means.append(float(at @ point.effects))
            sds.append(math.sqrt(spread + float(at @ point.covariance @ at)))
            weights.append(point.weight)
        mean, sd, weight = np.array(means), np.array(sds), np.array(weights)
        tail = (1 - level) / 2
        low, median, high = (_quantile(mean, sd, weight, q) for q in (tail, 0.5, 1 - tail))
        return Prediction(median, low, high, level)

    @property
    def between(self) -> float:
        """Posterior mean of τ."""
        return float(sum(p.weight * p.tau for p in self._points))

    @property
    def within(self) -> float:
        """Posterior mean of σ."""
        return float(sum(p.weight * p.sigma for p in self._points))


def pool(observations: Sequence[Observation], prior: PoolPrior) -> Pooled:
    """The posterior of the model above.

    Args:
        prior: Its scales, each above 0.
    Raises:
        OutOfRange: a scale that cannot be.
    """
    for name in ("mean_sd", "slope_sd", "between", "within"):
        require(name, getattr(prior, name), 1e-9, 1e9, "")
    groups = tuple(sorted({o.group for o in observations}))
    x = _design(observations, groups)
    y = np.array([o.y for o in observations])
    start = np.array([prior.mean, 0.0, *[0.0] * len(groups)])
    points, logs = [], []
    for tau in prior.between * TAU_GRID:
        precision = np.array(
            [prior.mean_sd**-2, prior.slope_sd**-2, *[tau**-2] * len(groups)], dtype=float
        )
        for sigma in prior.within * SIGMA_GRID:
            likelihood, effects, covariance = _given(x, y, start, precision, sigma)
            # grid steps are even in log τ and log σ, so both priors carry their Jacobian
            believed = (
                math.log(tau)
                - 0.5 * (tau / prior.between) ** 2
                - 0.5 * (math.log(sigma / prior.within) / SIGMA_SPREAD) ** 2
            )
            logs.append(likelihood + believed)
            points.append((float(tau), float(sigma), effects, covariance))
    weights = np.exp(np.array(logs) - max(logs))
    weights /= weights.sum()
    counts: dict[str, int] = {}
    for o in observations:
        counts[o.group] = counts.get(o.group, 0) + 1
    return Pooled(
        groups,
        len(observations),
        counts,
        tuple(_Point(float(w), *p) for w, p in zip(weights, points, strict=True)),
    )


def restricted_log_likelihood(
    observations: Sequence[Observation], between: float, within: float
) -> float:
    """The model's likelihood of τ and σ with μ flat and no covariate: the REML criterion.

    Patterson & Thompson, *Biometrika* 58 (1971) 545. Up to a constant of the data's size. It is
    what `pool` weighs its grid with, apart from the priors.
    """
    groups = tuple(sorted({o.group for o in observations}))
    x = np.delete(_design(observations, groups), 1, axis=1)
    y = np.array([o.y for o in observations])
    # a flat μ: no precision of its own, and no part in the prior's determinant
    precision = np.array([0.0, *[between**-2] * len(groups)])
    return _given(x, y, np.zeros(len(groups) + 1), precision, within)[0]


def _design(observations: Sequence[Observation], groups: Sequence[str]) -> Floats:
    x = np.zeros((len(observations), 2 + len(groups)))
    for row, o in enumerate(observations):
        x[row, 0], x[row, 1] = 1.0, o.x
        x[row, 2 + groups.index(o.group)] = 1.0
    return x


def _given(
    x: Floats, y: Floats, start: Floats, precision: Floats, sigma: float
) -> tuple[float, Floats, Floats]:
    """For one σ and one prior precision: log marginal likelihood, effects' mean and covariance."""
    a = x.T @ x / sigma**2 + np.diag(precision)
    b = x.T @ y / sigma**2 + precision * start
    covariance: Floats = np.linalg.inv(a).astype(float)
    effects = covariance @ b
    _, log_a = np.linalg.slogdet(a)
    square = float(y @ y) / sigma**2 + float(precision @ start**2) - float(b @ effects)
    log_prior = float(np.log(precision[precision > 0]).sum())
    likelihood = -0.5 * (2 * len(y) * math.log(sigma) + log_a - log_prior + square)
    return likelihood, effects, covariance


def _quantile(mean: Floats, sd: Floats, weight: Floats, q: float) -> float:
    """Quantile of a mixture of normals."""
    each = mean + sd * float(ndtri(q))
    low, high = float(each.min()), float(each.max())
    if high - low < 1e-9:
        return low

    def over(value: float) -> float:
        return float(weight @ ndtr((value - mean) / sd)) - q

    return float(brentq(over, low - 1e-9, high + 1e-9, xtol=1e-7))

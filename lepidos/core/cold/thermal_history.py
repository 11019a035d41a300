"""A fish's way through several media, one after another: its core, and what its whole holds.

The full series within each medium; what lies between is carried over exactly.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, NamedTuple, Protocol

import numpy as np
from scipy.special import j0, j1

from lepidos.core.cold import ellipse
from lepidos.core.cold.conduction import (
    DIFFUSIVITY,
    UNCHANGED_BELOW,
    Floats,
    Shape,
    constants,
    roots,
)
from lepidos.core.cold.cooling_body import CoolingBody
from lepidos.core.errors import require
from lepidos.core.units import DAY_S

# A term that has faded to under e^-45 = 3e-20 of itself is left out.
GONE = 45.0


@dataclass(frozen=True)
class Stay:
    """A time [s] in one medium. `at` are moments of its answer [s from its start], rising to its
    end; empty: evenly spaced.
    """

    seconds: float
    celsius: float
    h: float
    at: tuple[float, ...] = ()


class History(NamedTuple):
    """Times [s], temperatures [°C] at the core and in the mean of the thickest section."""

    seconds: Floats
    core: Floats
    mean: Floats


def history(
    body: CoolingBody, start_c: float, stays: Sequence[Stay], every_s: float = 300.0
) -> History:
    """Core and mean through several media, one after another.

    Within a stay the series is exact. Between stays the profile, no longer even, is carried over:
    it is expanded in the next medium's own functions, whose products integrate in closed form.

    Args:
        stays: At least one, each longer than 0 s.
        every_s: Spacing of the answer, 1 s to 1 day; each stay's end is always in it.
    Raises: OutOfRange.
    """
    require("number of stays", len(stays), 1, 1000, "")
    require("spacing", every_s, 1, DAY_S, "s")
    require("start temperature", start_c, -60, 60, "°C")
    radius = body.size_m / 2
    unchanged = ellipse.UNCHANGED_BELOW if body.shape == "ellipse" else UNCHANGED_BELOW
    begin = np.array([start_c])
    times, cores, means, now = [np.zeros(1)], [begin], [begin], 0.0
    before: _Series | None = None
    coldest = warmest = start_c
    passed = 0.0  # Fourier number since landing
    left, last_c = _NOTHING, start_c  # of the stay before: its terms at its end, its medium
    for stay in stays:
        require("stay", stay.seconds, 1e-6, 1e8, "s")
        series = _series(body, stay.h)
        # an even change of the medium's temperature, and the uneven rest that is carried over
        terms = series.start * (last_c - stay.celsius)
        if before is not None:
            terms = terms + series.carried(before, left)
        at = np.array(stay.at or moments(stay.seconds, every_s))
        fourier = DIFFUSIVITY * at / radius**2
        felt = _felt(series, fourier[0])
        fade = np.exp(-fourier[:, np.newaxis] * series.squares[:felt]) * terms[:felt]
        # nothing gets warmer or colder than what there was; the series' last terms do not know
        coldest, warmest = min(coldest, stay.celsius), max(warmest, stay.celsius)
        core = (stay.celsius + fade @ series.core[:felt]).clip(coldest, warmest)
        mean = (stay.celsius + fade @ series.share[:felt]).clip(coldest, warmest)
        # whatever it lay in: what reached its surface since it was landed is not at the core yet
        core[fourier + passed < unchanged] = start_c
        times.append(now + at)
        cores.append(core)
        means.append(mean)
        now += stay.seconds
        passed += float(fourier[-1])
        before, left, last_c = series, fade[-1], stay.celsius
    return History(np.concatenate(times), np.concatenate(cores), np.concatenate(means))


def core_history(
    body: CoolingBody, start_c: float, stays: Sequence[Stay], every_s: float = 300.0
) -> tuple[Floats, Floats]:
    """Times [s] and core temperatures [°C] of `history`."""
    return history(body, start_c, stays, every_s)[:2]


def moments(seconds: float, every_s: float) -> tuple[float, ...]:
    """Whole steps of a stay that end clearly before it does, then its end [s]."""
    steps = max(0, math.ceil(seconds / every_s - 0.01) - 1)
    return (*(every_s * k for k in range(1, steps + 1)), seconds)


_NOTHING: Floats = np.zeros(0)


class _Series(Protocol):
    """A body's own functions φ at a Biot number: `squares` ζ², `start` of an even start of 1,
    `core` and `share`, their values in the middle and their means over the section.
    """

    @property
    def squares(self) -> Floats: ...
    @property
    def start(self) -> Floats: ...
    @property
    def core(self) -> Floats: ...
    @property
    def share(self) -> Floats: ...
    def carried(self, before: Any, left: Floats) -> Floats:
        """What is left of the terms of one medium, in these functions."""


def _felt(series: _Series, fourier: float) -> int:
    """How many terms are still felt at a Fourier number."""
    return max(1, int(series.squares.searchsorted(GONE / max(fourier, 1e-12))))


class _Simple(NamedTuple):
    """Of a slab, cylinder or sphere, φ(0) = 1. Also `surface` φ(ζ) and `norm` ∫φ²·r^p dr."""

    biot: float
    squares: Floats
    start: Floats
    core: Floats
    share: Floats
    surface: Floats
    norm: Floats

    def carried(self, before: "_Simple", left: Floats) -> Floats:
        """Both are functions of one Sturm–Liouville equation and differ in the condition at the
        surface, so ∫φ(z·r)·φ(ζ·r)·r^p dr = (Bi' − Bi)·φ(z)·φ(ζ)/(ζ² − z²) for all three shapes.
        """
        change = self.biot - before.biot
        if abs(change) <= 1e-9 * before.biot:
            same = np.zeros(len(self.squares))
            same[: len(left)] = left
            return same
        count = len(left)
        apart = self.squares[:, np.newaxis] - before.squares[:count]
        return np.asarray(
            change * self.surface / self.norm * ((1 / apart) @ (left * before.surface[:count]))
        )


class _Ellipse(NamedTuple):
    """Of an ellipse: its modes, orthonormal, whose products are their polynomials'."""

    squares: Floats
    start: Floats
    core: Floats
    share: Floats
    matrix: Floats

    def carried(self, before: "_Ellipse", left: Floats) -> Floats:
        """The polynomials of one medium in the modes of the next."""
        return np.asarray(self.matrix.T @ (before.matrix[:, : len(left)] @ left))


def _series(body: CoolingBody, h: float) -> _Series:
    biot = body.biot(h)
    if body.shape == "ellipse":
        return _Ellipse(*ellipse.modes(body.aspect, biot))
    return _simple(body.shape, biot)


@lru_cache(maxsize=4096)
def _simple(shape: Shape, biot: float) -> _Simple:
    z = np.array(roots(shape, biot))
    c = np.array(constants(shape, biot))
    if shape == "slab":
        surface, norm = np.cos(z), 0.5 + np.sin(2 * z) / (4 * z)
    elif shape == "cylinder":
        surface, norm = j0(z), (j0(z) ** 2 + j1(z) ** 2) / 2
    else:
        surface, norm = np.sin(z) / z, (0.5 - np.sin(2 * z) / (4 * z)) / z**2
    # C is ∫φ·r^p dr over the norm, and the section's own measure is 1/(p + 1)
    share = {"slab": 1, "cylinder": 2, "sphere": 3}[shape] * c * norm
    return _Simple(biot, z**2, c, np.ones_like(c), share, surface, norm)

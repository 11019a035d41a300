"""The chain of cold: how fast a fish cools, what ice that takes, and what the warm time costs.

Transient conduction with surface convection, by the full series: Incropera & DeWitt, *Fundamentals
of Heat and Mass Transfer*, section 5.5 and 5.6; first-term constants in its table 5.1.
"""

import math
from collections.abc import Callable
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator
from scipy.optimize import brentq
from scipy.special import j0, j1, jn_zeros

from lepidos.core.errors import OutOfRange, require
from lepidos.core.fish.anatomy import FISH_DENSITY
from lepidos.core.fish.species import Sourced

Floats = NDArray[np.float64]
Shape = Literal["slab", "cylinder", "sphere"]

# Unfrozen lean fish (all from memory, the middle of handbook ranges).
CONDUCTIVITY = 0.50  # W/(m·K)
DENSITY = FISH_DENSITY
HEAT_CAPACITY = 3600.0  # J/(kg·K)
DIFFUSIVITY = CONDUCTIVITY / (DENSITY * HEAT_CAPACITY)

# With this many terms the series is converged to 1e-12 for every Fourier number above
# UNCHANGED_BELOW: the last term is below exp(−(40·π)²·0.005) there.
TERMS = 40
# Below this the surface's cold has not reached the core: the change is under erfc(7) = 1e-22.
UNCHANGED_BELOW = 0.005


@lru_cache(maxsize=16)
def _bessel_zeros(order: int, count: int) -> Floats:
    return np.asarray(jn_zeros(order, count), dtype=np.float64)


class Medium(Sourced):
    """Where a fish lies: temperature [°C], heat transfer coefficient and its range [W/(m²·K)].

    The guide's are in `guide/cold.toml`. Raises ValidationError when `h` is outside its range.
    """

    key: str
    name: str
    celsius: float = Field(ge=-30, le=60)
    h: float = Field(gt=0, le=5000)
    h_low: float = Field(gt=0)
    h_high: float

    @model_validator(mode="after")
    def _within(self) -> "Medium":
        if not self.h_low <= self.h <= self.h_high:
            raise ValueError("h lies between h_low and h_high")
        return self


@lru_cache(maxsize=4096)
def roots(shape: Shape, biot: float, count: int = TERMS) -> tuple[float, ...]:
    """The first eigenvalues ζ of a shape at a Biot number (on half thickness or radius).

    Slab ζ·tan ζ = Bi, cylinder ζ·J₁(ζ)/J₀(ζ) = Bi, sphere 1 − ζ·cot ζ = Bi; one root in each
    interval between the poles, by Newton's steps from a table that bisection made.

    Args: biot: 1e-4 to 1e5. Raises: OutOfRange.
    Example (table 5.1, Bi = 1):
        >>> round(roots("slab", 1.0)[0], 4), round(roots("cylinder", 1.0)[0], 4)
        (0.8603, 1.2558)
    """
    require("Biot number", biot, 1e-4, 1e5, "")
    low, high = _brackets(shape, count)
    grid, known = _table(shape, count)
    # between two known rows the roots run nearly straight in ln Bi; Newton's steps do the rest
    at = (math.log(biot) - grid[0]) / (grid[1] - grid[0])
    row = min(int(at), len(grid) - 2)
    z = known[row] + (known[row + 1] - known[row]) * (at - row)
    return tuple(_polish(shape, z, biot, low, high).tolist())


def _brackets(shape: Shape, count: int) -> tuple[Floats, Floats]:
    """One interval between poles for each root."""
    n = np.arange(count, dtype=np.float64)
    if shape == "slab":
        low, high = n * math.pi, n * math.pi + math.pi / 2
    elif shape == "cylinder":
        low = np.append(0.0, _bessel_zeros(1, count)[: count - 1])
        high = _bessel_zeros(0, count)
    else:
        low, high = n * math.pi, (n + 1) * math.pi
    # off the pole, where the sphere's first function is exactly 0
    return low + 1e-9, high


def _polish(
    shape: Shape, z: Floats, biot: float | Floats, low: Floats, high: Floats, steps: int = 6
) -> Floats:
    for _ in range(steps):
        value, slope = _crossing(shape, z, biot)
        # a step never leaves the bracket, where Newton's own might
        z = np.clip(z - value / slope, low, high)
    return z


@lru_cache(maxsize=8)
def _table(shape: Shape, count: int) -> tuple[Floats, Floats]:
    """Roots for a grid of ln Bi, all at once: bisection until Newton's steps cannot miss."""
    grid = np.linspace(math.log(1e-4), math.log(1e5), 160)
    biots = np.exp(grid)[:, None]
    low, high = _brackets(shape, count)
    lower, upper = np.tile(low, (len(grid), 1)), np.tile(high, (len(grid), 1))
    below = np.sign(_crossing(shape, lower, biots)[0])
    for _ in range(12):
        middle = (lower + upper) / 2
        left = np.sign(_crossing(shape, middle, biots)[0]) == below
        lower, upper = np.where(left, middle, lower), np.where(left, upper, middle)
    return grid, _polish(shape, (lower + upper) / 2, biots, low, high)


def _crossing(shape: Shape, z: Floats, biot: float | Floats) -> tuple[Floats, Floats]:
    """A function without poles that is 0 at the eigenvalues, and its slope."""
    if shape == "cylinder":
        zero, one = j0(z), j1(z)
        return z * one - biot * zero, z * zero + biot * one
    sine, cosine = np.sin(z), np.cos(z)
    if shape == "slab":
        return z * sine - biot * cosine, (1 + biot) * sine + z * cosine
    return (1 - biot) * sine - z * cosine, z * sine - biot * cosine


@lru_cache(maxsize=4096)
def constants(shape: Shape, biot: float, count: int = TERMS) -> tuple[float, ...]:
    """The coefficients C of the series for a body that starts at one temperature.

    Example (table 5.1, Bi = 1):
        >>> round(constants("slab", 1.0)[0], 4), round(constants("sphere", 1.0)[0], 4)
        (1.1191, 1.2732)
    """
    z = np.array(roots(shape, biot, count))
    if shape == "slab":
        c = 4 * np.sin(z) / (2 * z + np.sin(2 * z))
    elif shape == "cylinder":
        c = 2 / z * j1(z) / (j0(z) ** 2 + j1(z) ** 2)
    else:
        c = 4 * (np.sin(z) - z * np.cos(z)) / (2 * z - np.sin(2 * z))
    return tuple(c.tolist())


def core_ratio(shape: Shape, biot: float, fourier: float) -> float:
    """(T_core − T_medium) / (T_start − T_medium) after a Fourier number αt/r².

    The whole series and not its first term, which starts above 1.

    Args:
        biot: h·r/k, above 0. fourier: 0 to 1e6.
    Raises: OutOfRange.
    Source: Carslaw & Jaeger; Incropera & DeWitt, chapter 5 (memory).
    """
    require("Fourier number", fourier, 0, 1e6, "")
    if fourier < UNCHANGED_BELOW:
        return 1.0
    z, c = np.array(roots(shape, biot)), np.array(constants(shape, biot))
    return float(min(1.0, np.sum(c * np.exp(-(z**2) * fourier))))


def core_temperature(
    shape: Shape,
    size_m: float,
    start_c: float,
    medium_c: float,
    h: float,
    seconds: float,
    length_m: float = math.inf,
) -> float:
    """Core temperature [°C] of a body that lies in one medium.

    A cylinder of finite length is the product of an infinite cylinder and a slab of that
    length; beyond about 2.5 diameters the ends stop mattering.

    Args:
        size_m: Thickness of a slab, diameter of a cylinder or sphere [m], 0.001 to 2.
        start_c, medium_c: −60 to 60 °C.
        h: Heat transfer coefficient, 0.5 to 20 000 W/(m²·K).
        seconds: 0 to 1e12.
        length_m: Of a cylinder [m]; infinite unless given.
    Raises: OutOfRange.
    """
    return core_when(lambda t: _ratio(shape, size_m, h, t, length_m), start_c, medium_c, seconds)


def core_when(
    left: Callable[[float], float], start_c: float, medium_c: float, seconds: float
) -> float:
    """Core temperature [°C] where `left` says what is left of its difference after so long [s].

    Args: start_c, medium_c: −60 to 60 °C.
    Raises: OutOfRange.
    """
    ratio = left(seconds)
    require("start temperature", start_c, -60, 60, "°C")
    require("medium temperature", medium_c, -60, 60, "°C")
    return medium_c + (start_c - medium_c) * ratio


def time_to(
    shape: Shape,
    size_m: float,
    start_c: float,
    medium_c: float,
    h: float,
    target_c: float,
    length_m: float = math.inf,
) -> float:
    """Seconds until the core is at `target_c`; infinite when it never gets there.

    Args: as `core_temperature`; target_c −60 to 60 °C.
    Raises: OutOfRange.
    """
    longest = 0.5 * (size_m / 2) ** 2 / DIFFUSIVITY
    return time_when(
        lambda t: _ratio(shape, size_m, h, t, length_m), start_c, medium_c, target_c, longest
    )


def time_when(
    left: Callable[[float], float],
    start_c: float,
    medium_c: float,
    target_c: float,
    about_s: float,
) -> float:
    """Seconds until `left`, as in `core_when`, has brought the core to `target_c`, or infinity.

    Args: target_c: −60 to 60 °C. about_s: an order of magnitude of the answer.
    Raises: OutOfRange.
    """
    core_when(left, start_c, medium_c, 0.0)
    require("target temperature", target_c, -60, 60, "°C")
    if (target_c - start_c) * (medium_c - start_c) <= 0:
        return 0.0 if target_c == start_c or start_c != medium_c else math.inf
    wanted = (target_c - medium_c) / (start_c - medium_c)
    if wanted <= 0:
        return math.inf

    def over(log_seconds: float) -> float:
        return left(math.exp(log_seconds)) - wanted

    longest = about_s
    while over(math.log(longest)) > 0:
        longest *= 2
    return math.exp(float(brentq(over, math.log(longest * 1e-6), math.log(longest), xtol=1e-9)))


def _ratio(shape: Shape, size_m: float, h: float, seconds: float, length_m: float) -> float:
    require("size", size_m, 0.001, 2, "m")
    require("heat transfer coefficient", h, 0.5, 20_000, "W/(m²·K)")
    require("time", seconds, 0, 1e12, "s")
    radius = size_m / 2
    ratio = core_ratio(
        shape, h * radius / CONDUCTIVITY, min(1e6, DIFFUSIVITY * seconds / radius**2)
    )
    if math.isfinite(length_m):
        if shape != "cylinder":
            raise OutOfRange("length", length_m, 0, 0, "m: only a cylinder has one")
        ratio *= _ratio("slab", require("length", length_m, 0.001, 10, "m"), h, seconds, math.inf)
    return ratio

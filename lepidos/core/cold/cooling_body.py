"""A fish as the cooling models see it: its thickest section, as wide and as deep as it is."""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np

from lepidos.core.cold import ellipse
from lepidos.core.cold.conduction import (
    CONDUCTIVITY,
    DIFFUSIVITY,
    Shape,
    core_temperature,
    core_when,
    time_to,
    time_when,
)
from lepidos.core.errors import require
from lepidos.core.fish.anatomy import FISH_DENSITY, Body
from lepidos.core.limits import require_length, require_weight


@dataclass(frozen=True)
class CoolingBody:
    """A body's shape with its thickness [m]; of an ellipse that is the shorter axis.

    `across_m` is an ellipse's longer axis [m], at least its thickness.
    """

    shape: Shape | Literal["ellipse"]
    size_m: float
    across_m: float = 0.0

    @property
    def aspect(self) -> float:
        """Of an ellipse: the longer axis in the shorter one's, at most `ellipse.MAX_ASPECT`."""
        return min(ellipse.MAX_ASPECT, max(1.0, self.across_m / self.size_m))

    def biot(self, h: float) -> float:
        """The Biot number on half the thickness. Raises OutOfRange for h beyond 0.5 to 20 000.

        Of any thickness: the smallest fish that may be landed is thinner than a millimetre.
        """
        return require("h", h, 0.5, 20_000, "W/(m²·K)") * (self.size_m / 2 / CONDUCTIVITY)


def cooling_body(body: Body, total_length_m: float, round_kg: float) -> CoolingBody:
    """The thickest section of *this* fish, plumper or leaner than its species by its own weight.

    Ends are left out: a fish is longer than 2.5 of its diameters.

    Args: length [m] and round weight [kg] within `limits`.
    Raises: OutOfRange.
    """
    require_length(total_length_m)
    require_weight(round_kg)
    depth, width, volume = _thickest(body)
    plump = math.sqrt(round_kg / (volume * total_length_m**3 * FISH_DENSITY))
    d, w = (part * total_length_m * plump for part in (depth, width))
    return CoolingBody("ellipse", min(d, w), max(d, w))


@lru_cache(maxsize=1024)
def _thickest(body: Body) -> tuple[float, float, float]:
    """Depth and width of the largest section, and the volume, in total lengths; once a species."""
    x = np.linspace(0.05, body.root, 200)
    depth, width = body.depth(x), body.width(x)
    at = int(np.argmax(depth * width))
    return float(depth[at]), float(width[at]), body.volume()


def core_after(
    body: CoolingBody, start_c: float, medium_c: float, h: float, seconds: float
) -> float:
    """Core temperature [°C] of a body that lies in one medium, as `conduction.core_temperature`.

    Raises: OutOfRange.
    """
    if body.shape != "ellipse":
        return core_temperature(body.shape, body.size_m, start_c, medium_c, h, seconds)
    return core_when(lambda t: _ratio(body, h, t), start_c, medium_c, seconds)


def time_until(
    body: CoolingBody, start_c: float, medium_c: float, h: float, target_c: float
) -> float:
    """Seconds until the core is at `target_c`; infinite when it never gets there.

    Raises: OutOfRange.
    """
    if body.shape != "ellipse":
        return time_to(body.shape, body.size_m, start_c, medium_c, h, target_c)
    longest = 0.5 * (body.size_m / 2) ** 2 / DIFFUSIVITY
    return time_when(lambda t: _ratio(body, h, t), start_c, medium_c, target_c, longest)


def _ratio(body: CoolingBody, h: float, seconds: float) -> float:
    """What is left of the core's difference from the medium."""
    require("size", body.size_m, 0.001, 2, "m")
    found = ellipse.modes(body.aspect, body.biot(h))
    fourier = DIFFUSIVITY * require("time", seconds, 0, 1e12, "s") / (body.size_m / 2) ** 2
    if fourier < ellipse.UNCHANGED_BELOW:
        return 1.0
    left = float(np.sum(found.start * found.core * np.exp(-found.squares * fourier)))
    return min(1.0, max(0.0, left))

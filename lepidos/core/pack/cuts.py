"""Ways to mark a piece: by count, by thickness across the grain, slices at an angle, by hand.

Each gives the places to cut [m from the head end]; `portions_at` gives what lies between them.
"""

import itertools
import math
from collections.abc import Sequence

import numpy as np

from lepidos.core.errors import require
from lepidos.core.fish.anatomy import FilletProfile
from lepidos.core.limits import MAX_FISH_M, MAX_PIECE_KG, MIN_PIECE_KG
from lepidos.core.pack.portions import (
    MAX_PORTIONS,
    PROFILE_SD,
    TAIL_BELOW,
    Portion,
    PortionPlan,
    at_share,
    interval,
    mass_before,
    thickness_scale,
)

MIN_SLICE_M, MAX_SLICE_M = 0.003, 0.10
MIN_ANGLE, MAX_ANGLE = 15.0, 90.0  # degrees between blade and board
MIN_STRETCH_M = 0.002  # closer marks cannot be cut
# The head end is squared off where the piece has this part of its greatest width (practice).
SQUARE_AT = 0.8


def by_count(profile: FilletProfile, length_m: float, count: int) -> tuple[float, ...]:
    """Marks for so many equal portions by weight, 1 to 60. Raises OutOfRange.

    >>> block = FilletProfile((0.0, 1.0), (1.0, 1.0), (1.0, 1.0))
    >>> [round(x, 3) for x in by_count(block, 0.3, 3)]
    [0.1, 0.2]
    """
    _check(length_m)
    require("number of portions", count, 1, MAX_PORTIONS, "")
    return tuple(at_share(profile, k / count) * length_m for k in range(1, count))


def by_thickness(length_m: float, slice_m: float, angle: float = 90.0) -> tuple[float, ...]:
    """Marks for steaks, medallions, chops or slices of a thickness, from the head end.

    A slice cut at an angle to the board is as thick as it is long on the board times the sine of
    that angle. What is left at the tail and less than half a slice stays with the last.

    Args: slice_m: 0.003 to 0.1 m; angle: 15 to 90 degrees, 90 is straight down.
    Raises: OutOfRange, also when more than 60 slices would come out.
    Example:
        >>> [round(x, 3) for x in by_thickness(0.1, 0.03)]
        [0.03, 0.06]
        >>> [round(x, 3) for x in by_thickness(0.11, 0.02, 30)]
        [0.04, 0.08]
    """
    _check(length_m)
    require("thickness of a slice", slice_m, MIN_SLICE_M, MAX_SLICE_M, "m")
    require("angle of the blade", angle, MIN_ANGLE, MAX_ANGLE, "°")
    step = slice_m / math.sin(math.radians(angle))
    count = max(1, math.floor(length_m / step + 0.5))
    require("number of portions", count, 1, MAX_PORTIONS, "")
    return tuple(k * step for k in range(1, count))


def squared_off(
    profile: FilletProfile, length_m: float, cuts: Sequence[float]
) -> tuple[float, ...]:
    """The same marks with one more where the head end becomes square; none where it is so.

    Marks nearer to the head end than that are left out.
    """
    _check(length_m)
    xs = np.linspace(0, 1, 401)
    widths = np.interp(xs, profile.x, profile.width)
    square = float(xs[np.nonzero(widths >= SQUARE_AT * widths.max())[0][0]]) * length_m
    if square < MIN_STRETCH_M:
        return tuple(cuts)
    return (square, *(x for x in cuts if x > square + MIN_STRETCH_M))


def without_scraps(
    profile: FilletProfile, kg: float, length_m: float, cuts: Sequence[float], least_kg: float
) -> tuple[float, ...]:
    """The same marks without those that leave a portion lighter than `least_kg`.

    Such a portion goes to its neighbour at the thick side, the first to the next.

    Raises: OutOfRange.
    """
    require("least portion", least_kg, 0.0, MAX_PIECE_KG, "kg")
    kept = list(cuts)
    while kept:
        edges = [0.0, *kept, length_m]
        shares = [mass_before(profile, min(1.0, e / length_m)) for e in edges]
        masses = [(b - a) * kg for a, b in itertools.pairwise(shares)]
        lightest = min(range(len(masses)), key=masses.__getitem__)
        if masses[lightest] >= least_kg:
            break
        kept.pop(max(0, lightest - 1))
    return tuple(kept)


def portions_at(
    profile: FilletProfile,
    kg: float,
    length_m: float,
    serving_kg: float,
    cuts: Sequence[float],
    tail_apart: bool = True,
    sd: float = PROFILE_SD,
    thick: int | None = None,
) -> PortionPlan:
    """Portions between marks [m from the head end], by the profile.

    With `tail_apart` a portion is thin when its middle is under `TAIL_BELOW` of the thickest; where
    `thick` says how many are not, counted from the head end, that holds.

    Raises: OutOfRange for marks that do not rise, lie outside, or are closer than 2 mm.
    Example:
        >>> block = FilletProfile((0.0, 1.0), (1.0, 1.0), (1.0, 1.0))
        >>> [round(p.kg, 3) for p in portions_at(block, 0.6, 0.3, 0.2, (0.1,)).portions]
        [0.2, 0.4]
    """
    require("weight", kg, MIN_PIECE_KG, MAX_PIECE_KG, "kg")
    _check(length_m)
    require("number of portions", len(cuts) + 1, 1, MAX_PORTIONS, "")
    edges = [0.0, *cuts, length_m]
    for low, high in itertools.pairwise(edges):
        require("place of a cut", high, low + MIN_STRETCH_M - 1e-9, length_m + 1e-9, "m")
    shares = [mass_before(profile, min(1.0, edge / length_m)) for edge in edges]
    thickest = max(profile.thickness)
    portions = []
    for index, (low, high) in enumerate(itertools.pairwise(edges)):
        mass = (shares[index + 1] - shares[index]) * kg
        middle = float(np.interp((low + high) / 2 / length_m, profile.x, profile.thickness))
        thin = index >= thick if thick is not None else middle < TAIL_BELOW * thickest
        thin = thin and tail_apart and len(cuts) > 0
        portions.append(Portion(index, low, high, mass, *interval(mass, len(edges) - 1, sd), thin))
    scale = thickness_scale(profile, kg, length_m)
    return PortionPlan(
        length_m, kg, serving_kg, tuple(portions), thickest * scale, profile.thickness[-1] * scale
    )


def _check(length_m: float) -> None:
    require("length", length_m, 0.001, MAX_FISH_M, "m")

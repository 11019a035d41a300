"""The outline of a portion as it lies in its bag, cut out of its piece's own outline."""

import math
from collections.abc import Sequence

from lepidos.core.errors import require
from lepidos.core.fish.anatomy import Polygon
from lepidos.core.fish.species import Point

_ROUND = 28  # corners of the outline of a piece whose shape nobody knows


def portion_outline(piece: Sequence[Point], from_share: float, to_share: float) -> Polygon:
    """A stretch of a piece, head end first, fitted into the unit square with its length upwards.

    Args:
        piece: The piece's outline, its length along x; fewer than three corners: an oval.
        from_share, to_share: The stretch, in shares of its length from the head end, 0 to 1.
    Raises: OutOfRange when the stretch is empty or lies outside.
    Example:
        >>> portion_outline([(0, 0), (4, 0), (4, 2), (0, 2)], 0.5, 1.0)
        ((0.0, 0.0), (0.0, 1.0), (1.0, 1.0), (1.0, 0.0))
    """
    require("start of the stretch", from_share, 0.0, 1.0, "")
    require("end of the stretch", to_share, from_share + 1e-9, 1.0 + 1e-9, "")
    if len(piece) < 3:
        turns = (2 * math.pi * k / _ROUND for k in range(_ROUND))
        return tuple((0.5 + math.cos(t) / 2, 0.5 + math.sin(t) / 2) for t in turns)
    left, right = min(x for x, _ in piece), max(x for x, _ in piece)
    low, high = left + from_share * (right - left), left + min(1.0, to_share) * (right - left)
    cut = _keep(_keep(list(piece), low, 1.0), high, -1.0)
    bottom, top = min(y for _, y in cut), max(y for _, y in cut)
    wide, tall = max(top - bottom, 1e-12), max(high - low, 1e-12)
    # the head end lies at the closed end of the bag, the thin end towards the opening
    return tuple(((y - bottom) / wide, (x - low) / tall) for x, y in cut)


def _keep(polygon: list[Point], at: float, sign: float) -> list[Point]:
    """The part of a polygon on one side of a line across (Sutherland and Hodgman)."""
    kept: list[Point] = []
    for (x0, y0), (x1, y1) in zip(polygon, [*polygon[1:], polygon[0]], strict=True):
        inside0, inside1 = sign * (x0 - at) >= 0, sign * (x1 - at) >= 0
        if inside0:
            kept.append((x0, y0))
        if inside0 != inside1:
            kept.append((at, y0 + (y1 - y0) * (at - x0) / (x1 - x0)))
    return kept

"""How pieces lie in a bag, which bag is large enough, and what the box of bags still holds."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

from lepidos.core.errors import require
from lepidos.core.limits import MAX_FISH_M

# All of them common practice, no source: a sealer's own instructions go before them.
HEAD_ROOM_M = 0.08  # left empty above the fish, so that the seal stays dry
SIDE_M = 0.015  # welded edge and a finger's room, on each side
GAP_M = 0.01  # between two pieces, so that they come apart frozen
MAX_FROM_ROLL_M = 0.9
ROLL_STEP_M = 0.01  # a roll is cut to whole centimetres


class LaidShape(NamedTuple):
    """A piece as it lies flat: length, width and greatest thickness [m], each above 0."""

    length_m: float
    width_m: float
    thick_m: float


class BagSpot(NamedTuple):
    """Where a piece lies in its bag: its lower left corner from the bag's own, and its size [m].

    The bag's opening is at the top.
    """

    x_m: float
    y_m: float
    width_m: float
    length_m: float


class BagSize(NamedTuple):
    """A size of bag, flat, inside the welds [m]. `length_m` 0: a roll, cut to what is needed."""

    width_m: float
    length_m: float

    @property
    def roll(self) -> bool:
        """Whether it comes from a roll."""
        return self.length_m == 0


class Laid(NamedTuple):
    """Pieces in a bag of this width, in one layer: their places, and the bag's length [m]."""

    size: BagSize
    length_m: float
    spots: tuple[BagSpot, ...]

    @property
    def area_m2(self) -> float:
        """Of the flat bag."""
        return self.size.width_m * self.length_m


def lay(shapes: Sequence[LaidShape], size: BagSize) -> Laid | None:
    """Pieces flat and lengthwise in rows, longest first; None when they do not fit in one layer.

    A bag goes over the fish: as much of its width and length as the fish is thick is gone. Rows are
    centred, and `HEAD_ROOM_M` stays free above the last.

    Raises: OutOfRange for a piece or a bag without size.
    Example:
        >>> two = [LaidShape(0.12, 0.08, 0.02)] * 2
        >>> laid = lay(two, BagSize(0.25, 0.30))
        >>> round(laid.length_m, 3), [round(s.x_m, 3) for s in laid.spots]
        (0.3, [0.04, 0.13])
        >>> lay(two, BagSize(0.12, 0.30)) is None
        True
    """
    require("bag width", size.width_m, 0.03, 1.0, "m")
    for shape in shapes:
        for name, value in (("length", shape.length_m), ("width", shape.width_m)):
            require(name, value, 1e-4, MAX_FISH_M, "m")
        require("thickness", shape.thick_m, 1e-5, 1.0, "m")
    thick = max(s.thick_m for s in shapes)
    usable = size.width_m - 2 * SIDE_M - thick
    if max(s.width_m for s in shapes) > usable + 1e-9:
        return None
    rows = _rows(shapes, usable)
    lengths = [max(shapes[i].length_m for i in row) for row in rows]
    needed = sum(lengths) + GAP_M * (len(rows) - 1) + SIDE_M + thick + HEAD_ROOM_M
    longest = MAX_FROM_ROLL_M if size.roll else size.length_m
    if needed > longest + 1e-9:
        return None
    whole_steps = math.ceil(round(needed / ROLL_STEP_M, 6)) * ROLL_STEP_M
    length = whole_steps if size.roll else size.length_m
    spots: dict[int, BagSpot] = {}
    y = SIDE_M + thick / 2
    for row, row_m in zip(rows, lengths, strict=True):
        across = sum(shapes[i].width_m for i in row) + GAP_M * (len(row) - 1)
        x = (size.width_m - across) / 2
        for i in row:
            spots[i] = BagSpot(x, y, shapes[i].width_m, shapes[i].length_m)
            x += shapes[i].width_m + GAP_M
        y += row_m + GAP_M
    return Laid(size, length, tuple(spots[i] for i in range(len(shapes))))


def _rows(shapes: Sequence[LaidShape], usable_m: float) -> list[list[int]]:
    """Rows of pieces, longest first, each as full as those after it allow."""
    left = sorted(range(len(shapes)), key=lambda i: (-shapes[i].length_m, i))
    rows: list[list[int]] = []
    while left:
        row, used = [], -GAP_M
        for i in left:
            if used + GAP_M + shapes[i].width_m <= usable_m + 1e-9:
                row.append(i)
                used += GAP_M + shapes[i].width_m
        rows.append(row)
        left = [i for i in left if i not in row]
    return rows


def ways_to_lay(shapes: Sequence[LaidShape], sizes: Sequence[BagSize]) -> tuple[Laid, ...]:
    """Every size that these pieces fit in: the smallest bag first, then rolls of that area."""
    return _ways(tuple(shapes), tuple(sizes))


@lru_cache(maxsize=20_000)  # a plan tries the same pieces together again after every bag
def _ways(shapes: tuple[LaidShape, ...], sizes: tuple[BagSize, ...]) -> tuple[Laid, ...]:
    fitting = [laid for size in sizes if (laid := lay(shapes, size))]
    fitting.sort(key=lambda laid: (laid.area_m2, laid.size.roll, laid.size.width_m))
    return tuple(fitting)


@dataclass(frozen=True)
class Supply:
    """What there is of a size: bags, or metres of a roll; None when nobody counted."""

    size: BagSize
    left: float | None = None


@dataclass(frozen=True)
class TakenBag:
    """Which bag each gets, what is left after them, and how much more would be needed of what.

    `laid` None: no size is large enough. `short` counts bags, or metres of a roll.
    """

    laid: tuple[Laid | None, ...]
    left: dict[BagSize, float]
    short: dict[BagSize, float]


def take_from_stock(bags: Sequence[Sequence[LaidShape]], supplies: Sequence[Supply]) -> TakenBag:
    """Give each bag the smallest size that it fits in and that is still there.

    Those with the fewest sizes to choose from are served first. What is not there is `short`, of
    the size that would suit best; no stock goes below nothing.
    """
    sizes = [s.size for s in supplies]
    left = {s.size: s.left for s in supplies if s.left is not None}
    short: dict[BagSize, float] = {}
    ways = [ways_to_lay(shapes, sizes) for shapes in bags]
    chosen: list[Laid | None] = [None] * len(bags)
    for i in sorted(range(len(bags)), key=lambda i: (len(ways[i]), i)):
        if not ways[i]:
            continue
        found = next((w for w in ways[i] if w.size not in left or _use(w) <= left[w.size]), None)
        if found is None:
            found = ways[i][0]
            short[found.size] = short.get(found.size, 0.0) + _use(found)
        elif found.size in left:
            left[found.size] -= _use(found)
        chosen[i] = found
    return TakenBag(tuple(chosen), left, short)


def _use(laid: Laid) -> float:
    return laid.length_m if laid.size.roll else 1.0

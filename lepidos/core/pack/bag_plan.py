"""The whole table into bags: which portions and pieces lie together, and how few bags do.

What is alike in every rule is packed together: first the neighbouring portions of one piece, then
what is left over of many, thick with thick. So a change of one piece moves its own bags and at most
those of the leftovers that are like it.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property, lru_cache

from lepidos.core.errors import require
from lepidos.core.pack.bag_sizes import BagSize, LaidShape, ways_to_lay

MAX_SERVINGS = 12.0
_LITTLE = 1e-6  # servings are shares of weights: sums of them are not exact
_MANY = 60  # no bag holds more pieces than this


@dataclass(frozen=True)
class Part:
    """A portion, or a whole piece, that waits for a bag.

    `kin` is all that must be the same in one bag. `servings` is 1 for a portion that was marked, a
    share of one for small ones and pieces. `most` is how many servings a bag of this kin holds, 1
    to 12. Parts with the same `pin` were laid together by hand.
    """

    key: str
    piece: str
    kin: tuple[str, ...]
    kg: float
    servings: float
    shape: LaidShape
    most: float = 2.0
    pin: str = ""

    def __hash__(self) -> int:
        """Of its key alone: what is planned is kept by all parts of a kind, hundreds of them."""
        return hash(self.key)


@dataclass(frozen=True)
class BagOf:
    """Parts that go into one bag. `by_hand`: someone laid them together."""

    parts: tuple[Part, ...]
    by_hand: bool = False

    @cached_property
    def key(self) -> str:
        """Names the bag as long as its first part is in it."""
        return min(p.key for p in self.parts)

    @property
    def kin(self) -> tuple[str, ...]:
        """What all of its parts share."""
        return self.parts[0].kin

    @cached_property
    def kg(self) -> float:
        """Expected mass [kg]."""
        return math.fsum(p.kg for p in self.parts)

    @cached_property
    def servings(self) -> float:
        """Servings in it; a part of one counts as that part."""
        return math.fsum(p.servings for p in self.parts)

    @property
    def thick_m(self) -> float:
        """Its thickest part [m]."""
        return max(p.shape.thick_m for p in self.parts)

    @property
    def spread_m(self) -> float:
        """Thickest less thinnest part [m]: what thaws together should be done together."""
        return self.thick_m - min(p.shape.thick_m for p in self.parts)


@dataclass(frozen=True)
class Bagging:
    """A plan. `least` is a number of bags that no plan by these rules can go below."""

    bags: tuple[BagOf, ...]
    least: int

    @property
    def fewest(self) -> bool:
        """Whether fewer bags are proven to be impossible."""
        return len(self.bags) == self.least


@dataclass
class _Room:
    """Whether parts fit in one bag: by servings, and flat in the largest size there is."""

    sizes: Sequence[BagSize]
    _known: dict[tuple[str, ...], float] = field(default_factory=dict)

    def area(self, parts: Sequence[Part]) -> float:
        """Of the smallest bag for them [m²]; infinite when none is large enough."""
        key = tuple(p.key for p in parts)
        if key not in self._known:
            ways = ways_to_lay([p.shape for p in parts], self.sizes)
            self._known[key] = ways[0].area_m2 if ways else math.inf
        return self._known[key]

    def holds(self, parts: Sequence[Part], servings: float) -> bool:
        """Whether parts of so many servings fit.

        A single part always has its bag, whatever its size: then one must be bought or cut.
        """
        if len(parts) == 1:
            return True
        if len(parts) > _MANY or servings > parts[0].most + _LITTLE:
            return False
        return not self.sizes or math.isfinite(self.area(parts))


def plan_bags(parts: Sequence[Part], sizes: Sequence[BagSize]) -> Bagging:
    """Plan the bags of all parts.

    Args:
        parts: Each with a key of its own; `most` from 1 to 12 servings.
        sizes: What bags there are; none: any size is there.
    Returns:
        Every part in exactly one bag; no bag mixes kin, holds more servings than its parts allow
        (but for a single part, and what was laid together by hand), or more than lies flat in the
        largest bag.
    Raises:
        OutOfRange: `most` or a part's size cannot be.
    """
    for part in parts:
        require("servings in a bag", part.most, 1, MAX_SERVINGS, "")
    there = tuple(sizes)
    bags: list[BagOf] = []
    least = 0
    pinned: dict[tuple[tuple[str, ...], str], list[Part]] = {}
    groups: dict[tuple[tuple[str, ...], float], list[Part]] = {}
    for part in parts:
        if part.pin:
            pinned.setdefault((part.kin, part.pin), []).append(part)
        else:
            groups.setdefault((part.kin, part.most), []).append(part)
    bags += [BagOf(tuple(together), True) for together in pinned.values()]
    for group in groups.values():
        bags += _pack(tuple(group), there)
        least += math.ceil(math.fsum(min(p.servings, p.most) for p in group) / group[0].most - 1e-6)
    return Bagging(tuple(bags), least + len(pinned))


@lru_cache(maxsize=128)  # one more piece of a kind leaves the other kinds as they were
def _pack(group: tuple[Part, ...], sizes: tuple[BagSize, ...]) -> tuple[BagOf, ...]:
    room = _Room(sizes)
    bags: list[BagOf] = []
    rest: list[Part] = []
    of_piece: dict[str, list[Part]] = {}
    for part in group:
        of_piece.setdefault(part.piece, []).append(part)
    for portions in of_piece.values():
        # neighbours of one fillet are of one thickness, and were cut one after the other
        run: list[Part] = []
        servings = 0.0
        for part in portions:
            run.append(part)
            servings += part.servings
            if servings >= part.most - _LITTLE and room.holds(run, servings):
                bags.append(BagOf(tuple(run)))
                run, servings = [], 0.0
        rest += run
    return (*bags, *_pool(rest, room))


def _pool(parts: Sequence[Part], room: _Room) -> list[BagOf]:
    """What is left over of many pieces: the better of two ways, thick with thick before tight."""
    if not parts:
        return []
    by_thickness = sorted(parts, key=lambda p: (-p.shape.thick_m, p.key))
    return min(
        (_in_a_row(by_thickness, room), _first_fit(parts, room)),
        key=lambda bags: (len(bags), math.fsum(b.spread_m for b in bags)),
    )


def _in_a_row(parts: Sequence[Part], room: _Room) -> list[BagOf]:
    """The best division of a row of parts into stretches.

    Fewest bags, then least mixed thickness, then least bag: exact among divisions of the row, by
    dynamic programming from its start.
    """
    best: list[tuple[int, float, float]] = [(0, 0.0, 0.0)]
    begins: list[int] = [0]
    for end in range(1, len(parts) + 1):
        found: tuple[tuple[int, float, float], int] | None = None
        servings = 0.0
        for start in range(end - 1, -1, -1):
            servings += parts[start].servings
            stretch = parts[start:end]
            if not room.holds(stretch, servings):
                break
            number, spread, area = best[start]
            mixed = stretch[0].shape.thick_m - stretch[-1].shape.thick_m
            of_bag = room.area(stretch) if room.sizes else 0.0
            whole = (number + 1, spread + mixed, area + (of_bag if math.isfinite(of_bag) else 1.0))
            if found is None or whole < found[0]:
                found = (whole, start)
        assert found is not None  # noqa: S101 - a single part always has its bag
        best.append(found[0])
        begins.append(found[1])
    bags: list[BagOf] = []
    end = len(parts)
    while end:
        bags.append(BagOf(tuple(parts[begins[end] : end])))
        end = begins[end]
    return bags[::-1]


def _first_fit(parts: Sequence[Part], room: _Room) -> list[BagOf]:
    """The largest first, each into the first bag that still holds it."""
    bags: list[list[Part]] = []
    servings: list[float] = []
    for part in sorted(parts, key=lambda p: (-p.servings, p.key)):
        for n, bag in enumerate(bags):
            # most are full: that is asked before a bag is laid out
            total = servings[n] + part.servings
            if total <= bag[0].most + _LITTLE and room.holds([*bag, part], total):
                bag.append(part)
                servings[n] = total
                break
        else:
            bags.append([part])
            servings.append(part.servings)
    return [BagOf(tuple(bag)) for bag in bags]

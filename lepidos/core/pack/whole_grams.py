"""The most even split in whole grams: what each party should weigh, and bags that weigh just that.

Bags are whole grams and shares are not, so somebody is always off by part of a gram. Which whole
grams come nearest, kind by kind and in all, is a small problem, and its answer is a bound for every
split. With many bags that bound can be met: three parties at a time share what they have of a kind
again, until each weighs what it should.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import combinations
from math import floor

import numpy as np
from numpy.typing import NDArray
from ortools.sat.python import cp_model

from lepidos.core.pack.fair_split import ALL, Bag, Split, entitled, split_of

MAX_AMONG_THREE = 15  # bags that three parties share in all ways: 14 million of them
_MAX_ASIDE = 60  # of a kind; more of them have not helped
_ENOUGH = 4  # bags a party: three have too few ways with less
_OVER = (-1, 0, 1, 2)  # grams that a target may be from the whole part of what is due
WAYS_A_SECOND = 300_000_000  # 500 million on a machine of 2024, less on a boat
_ROWS = 64  # of the first half's ways, looked at together: some 400,000 ways

Targets = dict[str, tuple[int, ...]]
Ways = tuple[NDArray[np.int32], NDArray[np.int32]]


@dataclass
class _Patience:
    """How many more ways are looked at."""

    left: float


def whole_targets(bags: Sequence[Bag], shares: Sequence[int]) -> tuple[Targets, float]:
    """Whole grams for each kind and party, nearest to what is due; and the worst deviation then.

    No split of these bags is more even than that: its sums are whole grams, too.

    >>> whole_targets([Bag("a", "cod", 3), Bag("b", "cod", 4)], (1, 1))[1]
    0.5
    """
    due = entitled(bags, shares)
    total = {kind: sum(b.grams for b in bags if kind in (ALL, b.kind)) for kind in due}
    far = sorted({abs(n - d % 1) for parts in due.values() for d in parts for n in _OVER})
    low, high, best = 0, len(far) - 1, None
    while low <= high:  # the least deviation within which whole grams can be found
        middle = (low + high) // 2
        found = _within(due, total, far[middle])
        if found:
            best, high = found, middle - 1
        else:
            low = middle + 1
    return (best, float(far[low])) if best else ({}, 0.0)


def _within(
    due: Mapping[str, Sequence[Fraction]], total: Mapping[str, int], most: Fraction
) -> Targets | None:
    """Whole grams that are nowhere farther off; None when there are none."""
    model = cp_model.CpModel()
    over: dict[str, list[cp_model.IntVar]] = {}  # grams more than the whole part of what is due
    for kind, parts in due.items():
        near = [[n for n in _OVER if abs(n - d % 1) <= most] for d in parts]
        if not all(near):
            return None
        over[kind] = [
            model.new_int_var_from_domain(cp_model.Domain.from_values(n), "") for n in near
        ]
        model.add(sum(over[kind]) == total[kind] - sum(map(floor, parts)))
    of_kinds = [kind for kind in due if kind != ALL]
    for p, part in enumerate(due[ALL]):
        whole = floor(part) - sum(floor(due[kind][p]) for kind in of_kinds)
        model.add(sum(over[kind][p] for kind in of_kinds) == over[ALL][p] + whole)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 1
    if solver.solve(model) not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None
    return {
        kind: tuple(floor(d) + solver.value(v) for d, v in zip(due[kind], over[kind], strict=True))
        for kind in of_kinds
    }


def nearest(
    bags: Sequence[Bag],
    shares: Sequence[int],
    split: Split,
    targets: Targets,
    wanted: Callable[[], bool],
    seconds: float = 60.0,
) -> Split:
    """Go from a split to one whose sums are the targets, as near as three at a time can.

    Pinned bags stay, and nobody gets what is not for them. Never worse than `split`. `seconds` is
    counted in ways that were looked at, so that the answer is the same on every machine.
    """
    patience = _Patience(seconds * WAYS_A_SECOND)
    party_of = list(split.party_of)
    for kind, aims in targets.items():
        off = [-aim for aim in aims]
        for bag, party in zip(bags, party_of, strict=True):
            if bag.kind == kind:
                off[party] += bag.grams
        aside, enough = 0, sum(bag.kind == kind for bag in bags) >= _ENOUGH * len(shares)
        while any(off) and aside < _MAX_ASIDE and patience.left > 0 and wanted():
            if not any(
                _shared_among(bags, party_of, off, kind, trio, patience) for trio in _trios(off)
            ):
                # nobody gains: others change bags among themselves, and it is tried again
                order = sorted(range(len(off)), key=lambda p: (abs(off[p]), p))
                pairs = list(combinations(order[:-1], 2))
                if not pairs or not enough:
                    break
                trio = (*pairs[aside % len(pairs)], order[-1])
                _shared_among(bags, party_of, off, kind, trio, patience, aside + 1)
                aside += 1
    return min(split, split_of(bags, shares, party_of, split.least_g), key=lambda s: s.rank)


def _trios(off: Sequence[int]) -> Iterator[tuple[int, ...]]:
    """Three parties at a time, first those that are farthest off; all three when there are two."""
    order = sorted(range(len(off)), key=lambda p: (-abs(off[p]), p))
    for trio in combinations(order, min(3, len(order))):
        if off[trio[0]]:
            yield trio


def _shared_among(
    bags: Sequence[Bag],
    party_of: list[int],
    off: list[int],
    kind: str,
    trio: tuple[int, ...],
    patience: _Patience,
    aside: int = 0,
) -> bool:
    """The first two weigh what they should, or nearly; the last takes the rest. False: no gain.

    With `aside` they share in another way that is as good, a different one for each number.
    """
    rows = [
        i
        for i, bag in enumerate(bags)
        if bag.kind == kind and party_of[i] in trio
        and bag.pinned is None and not bag.not_for & set(trio)
    ][:MAX_AMONG_THREE]  # fmt: skip
    if len(rows) < 2 or len(trio) < 2 or patience.left <= 0:
        return False
    grams = [bags[i].grams for i in rows]
    has = [sum(g for i, g in zip(rows, grams, strict=True) if party_of[i] == p) for p in trio]
    best, looked = _best_way(grams, [off[p] - h for p, h in zip(trio, has, strict=True)], aside)
    patience.left -= looked
    to = [trio[n] for n in best]
    new = {p: off[p] - h for p, h in zip(trio, has, strict=True)}
    for p, g in zip(to, grams, strict=True):
        new[p] += g
    before, after = _how_far(off[p] for p in trio), _how_far(new.values())
    if after > before or (after == before and not aside):
        return False
    for i, p in zip(rows, to, strict=True):
        party_of[i] = p
    for p, value in new.items():
        off[p] = value
    return True


def _how_far(off: Iterable[int]) -> tuple[int, int]:
    values = [abs(v) for v in off]
    return sum(v > 0 for v in values), sum(values)


def _best_way(grams: Sequence[int], base: Sequence[int], aside: int) -> tuple[list[int], int]:
    """For each bag who gets it, 0, 1 or 2: the first two then are nearest to nothing.

    And how many ways were looked at.

    `base` is how far each is off without these bags. With `aside` the ways are looked through from
    another beginning, so another one of those that are as good is found.
    """
    parties = len(base)
    half = len(grams) // 2
    (p1, q1), (p2, q2) = _ways(grams[:half], parties), _ways(grams[half:], parties)
    best, found, looked = np.iinfo(np.int32).max, 0, 0
    starts = list(range(0, len(p1), _ROWS))
    turn = aside * 7 % len(starts)
    for start in starts[turn:] + starts[:turn]:
        far = np.abs(p1[start : start + _ROWS, None] + (p2 + np.int32(base[0])))
        if parties > 2:
            far += np.abs(q1[start : start + _ROWS, None] + (q2 + np.int32(base[1])))
        looked += far.size
        at = int(far.argmin())
        if far.flat[at] < best:
            best, found = int(far.flat[at]), start * len(p2) + at
            if best == 0:
                break
    first, second = divmod(found, len(p2))
    way = _digits(first, half, parties) + _digits(second, len(grams) - half, parties)
    return way, looked


def _ways(grams: Sequence[int], parties: int) -> Ways:
    """What the first and the second party get of these, in every way to give them out."""
    way = np.arange(parties ** len(grams))
    one, two = np.zeros(len(way), np.int32), np.zeros(len(way), np.int32)
    for g in grams:
        one += np.where(way % parties == 0, np.int32(g), np.int32(0))
        two += np.where(way % parties == 1, np.int32(g), np.int32(0))
        way //= parties
    return one, two


def _digits(way: int, places: int, parties: int) -> list[int]:
    found = []
    for _ in range(places):
        way, digit = divmod(way, parties)
        found.append(digit)
    return found

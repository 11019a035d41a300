"""Which bags to take out for a meal: enough, nothing left over if it can be, oldest first."""

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from lepidos.core.errors import require

MAX_PEOPLE = 60
TENTHS = 10  # of a serving, which a bag is counted in


@dataclass(frozen=True)
class MealChoice:
    """A bag that may be taken: `kind` is what makes it one dish with another.

    `servings` 0 to 1000; a bag that feeds nobody alone is a part of one.
    """

    code: str
    kind: str
    servings: float
    best_by: date

    @property
    def tenths(self) -> int:
        """Its servings in tenths, so that they add up exactly."""
        return round(self.servings * TENTHS)


@dataclass(frozen=True)
class Meal:
    """Bags of one kind that feed so many: servings that are left over; short: too few."""

    kind: str
    bags: tuple[MealChoice, ...]
    over: float
    short: float

    @property
    def oldest(self) -> date:
        """The first best-by date among them."""
        return min(bag.best_by for bag in self.bags)


def meals_for(people: int, bags: Sequence[MealChoice]) -> list[Meal]:
    """One meal of each kind: those that are enough first, then what is due first.

    Within a kind: the fewest servings left over; of those, what is due first. Of bags with the same
    servings an older one is never left behind for a newer. Raises OutOfRange: people 1 to 60.
    """
    require("people", people, 1, MAX_PEOPLE, "")
    kinds: dict[str, list[MealChoice]] = {}
    for bag in sorted(bags, key=lambda b: (b.best_by, b.code)):
        kinds.setdefault(bag.kind, []).append(bag)
    found = [_meal(people, kind, rows) for kind, rows in kinds.items()]
    return sorted(found, key=lambda m: (m.short > 0, m.short, m.oldest, m.over, m.kind))


def _meal(people: int, kind: str, rows: Sequence[MealChoice]) -> Meal:
    wanted, total = people * TENTHS, sum(bag.tenths for bag in rows)
    if total < wanted:
        return Meal(kind, tuple(rows), 0, (wanted - total) / TENTHS)
    # by tenths of servings, the set whose dates come first: bags are offered oldest first, so that
    # an older equal one is always taken before a newer
    most = wanted + max(bag.tenths for bag in rows)
    rows = _oldest(wanted, rows)
    reach: dict[int, tuple[tuple[int, ...], tuple[MealChoice, ...]]] = {0: ((), ())}
    for bag in rows:
        for sum_, (days, taken) in sorted(reach.items(), reverse=True):
            to = sum_ + bag.tenths
            if sum_ >= wanted or to > most:
                continue
            days_to = (*days, bag.best_by.toordinal())
            # dates that come first, the earliest weighing most
            if to not in reach or days_to < reach[to][0]:
                reach[to] = days_to, (*taken, bag)
    enough = min(sum_ for sum_ in reach if sum_ >= wanted)
    return Meal(kind, reach[enough][1], (enough - wanted) / TENTHS, 0)


def _oldest(wanted: int, rows: Sequence[MealChoice]) -> list[MealChoice]:
    """Of bags with the same servings those that are due first, as many as a meal can take."""
    left = {bag.tenths: -(-wanted // bag.tenths) for bag in rows if bag.tenths}
    found = []
    for bag in rows:
        if left.get(bag.tenths, 0) > 0:
            left[bag.tenths] -= 1
            found.append(bag)
    return found


def meals_left(servings: Sequence[float], household: int, a_week: float) -> tuple[int, float]:
    """How many meals of so many people bags hold, and for how many weeks that is.

    Bags are not split between meals; there may be a way to one more. Raises OutOfRange:
    household 1 to 60, meals a week 0.1 to 21.

    >>> meals_left([2, 2, 2, 4], 4, 1)
    (2, 2.0)
    """
    require("people", household, 1, MAX_PEOPLE, "")
    require("meals a week", a_week, 0.1, 21, "")
    left = sorted(round(number * TENTHS) for number in servings)
    meals, total, wanted = 0, sum(left), household * TENTHS
    while total >= wanted:
        short = wanted
        while short > 0:
            # the smallest that is enough, else the largest
            taken = left.pop(min(bisect_left(left, short), len(left) - 1))
            short, total = short - taken, total - taken
        meals += 1
    return meals, meals / a_week

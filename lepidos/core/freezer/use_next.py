"""Which bags to take out for a meal: enough, nothing left over if it can be, oldest first."""

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from lepidos.core.errors import require

MOST_PEOPLE = 60


@dataclass(frozen=True)
class Choice:
    """A bag that may be taken: `kind` is what makes it one dish with another."""

    code: str
    kind: str
    servings: int
    best_by: date


@dataclass(frozen=True)
class Meal:
    """Bags of one kind that feed so many: servings that are left over; short: too few."""

    kind: str
    bags: tuple[Choice, ...]
    over: int
    short: int

    @property
    def oldest(self) -> date:
        """The first best-by date among them."""
        return min(bag.best_by for bag in self.bags)


def meals_for(people: int, bags: Sequence[Choice]) -> list[Meal]:
    """One meal of each kind: those that are enough first, then what is due first.

    Within a kind: the fewest servings left over; of those, what is due first. Of bags with the same
    servings an older one is never left behind for a newer. Raises OutOfRange: people 1 to 60.
    """
    require("people", people, 1, MOST_PEOPLE, "")
    kinds: dict[str, list[Choice]] = {}
    for bag in sorted(bags, key=lambda b: (b.best_by, b.code)):
        kinds.setdefault(bag.kind, []).append(bag)
    found = [_meal(people, kind, rows) for kind, rows in kinds.items()]
    return sorted(found, key=lambda m: (m.short > 0, m.short, m.oldest, m.over, m.kind))


def _meal(people: int, kind: str, rows: Sequence[Choice]) -> Meal:
    total = sum(bag.servings for bag in rows)
    if total < people:
        return Meal(kind, tuple(rows), 0, people - total)
    # by servings, the set whose dates come first: bags are offered oldest first, so that an older
    # equal one is always taken before a newer
    most = people + max(bag.servings for bag in rows)
    rows = _oldest(people, rows)
    reach: dict[int, tuple[tuple[int, ...], tuple[Choice, ...]]] = {0: ((), ())}
    for bag in rows:
        for sum_, (days, taken) in sorted(reach.items(), reverse=True):
            to = sum_ + bag.servings
            if sum_ >= people or to > most:
                continue
            days_to = (*days, bag.best_by.toordinal())
            # dates that come first, the earliest weighing most
            if to not in reach or days_to < reach[to][0]:
                reach[to] = days_to, (*taken, bag)
    enough = min(sum_ for sum_ in reach if sum_ >= people)
    return Meal(kind, reach[enough][1], enough - people, 0)


def _oldest(people: int, rows: Sequence[Choice]) -> list[Choice]:
    """Of bags with the same servings those that are due first, as many as a meal can take."""
    left = {bag.servings: -(-people // bag.servings) for bag in rows}
    found = []
    for bag in rows:
        if left[bag.servings] > 0:
            left[bag.servings] -= 1
            found.append(bag)
    return found


def meals_left(servings: Sequence[int], household: int, a_week: float) -> tuple[int, float]:
    """How many meals of so many people bags hold, and for how many weeks that is.

    Bags are not split between meals; there may be a way to one more. Raises OutOfRange:
    household 1 to 60, meals a week 0.1 to 21.

    >>> meals_left([2, 2, 2, 4], 4, 1)
    (2, 2.0)
    """
    require("people", household, 1, MOST_PEOPLE, "")
    require("meals a week", a_week, 0.1, 21, "")
    left, meals, total = sorted(servings), 0, sum(servings)
    while total >= household:
        short = household
        while short > 0:
            # the smallest that is enough, else the largest
            taken = left.pop(min(bisect_left(left, short), len(left) - 1))
            short, total = short - taken, total - taken
        meals += 1
    return meals, meals / a_week

"""What the order of work is made of: fish to cut, boards, turns at them, and an order of turns."""

from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

EXACT = "exact"  # how an order was found whose lateness and finish are both the least

Floats = NDArray[np.float64]
Integers = NDArray[np.int64]
Sequences = tuple[tuple[int, ...], ...]  # by board, the fish by their place among the jobs


class Job(NamedTuple):
    """A fish to cut: from when, by when [s], what a late second weighs, its board class.

    `seconds` is the cutting time at each cutter's board, one figure a cutter.
    """

    key: str
    release_s: float
    deadline_s: float
    weight: float
    kind: str
    seconds: tuple[float, ...]


@dataclass(frozen=True)
class Cutter:
    """A board: free from when [s], what was cut on it last, breaks as (start, end) [s].

    `holding` are the fish that stay first at this board, in this order: in hand, or put there.
    """

    name: str
    free_s: float = 0.0
    last_kind: str = ""
    breaks: tuple[tuple[float, float], ...] = ()
    holding: tuple[str, ...] = ()


class Turn(NamedTuple):
    """One fish at one board [s]."""

    key: str
    cutter: str
    start_s: float
    end_s: float
    late_s: float


@dataclass(frozen=True)
class Order:
    """An order of work: who cuts what when, its weighted lateness and finish, and what it is.

    `proven` says that no order has less weighted lateness; otherwise it is the best found.
    """

    sequences: Sequences
    turns: tuple[Turn, ...] = field(repr=False)
    lateness: float
    clear_s: float
    proven: bool
    how: str

    @property
    def cost(self) -> tuple[float, float]:
        """Weighted lateness first, then the finish."""
        return self.lateness, self.clear_s


class Table(NamedTuple):
    """The fish and boards of a bench as arrays; n fish, k boards, times in s.

    `breaks` (k, b, 2) is padded with breaks that end before they begin; `setup` is by kind, kind.
    """

    kind: Integers  # n
    release: Floats  # n
    deadline: Floats  # n
    weight: Floats  # n
    seconds: Floats  # k, n
    setup: Floats
    free: Floats  # k
    first_kind: Integers  # k
    held: Integers  # k: how many fish at the start of the row stay where they are
    breaks: Floats


class Rows(NamedTuple):
    """Who cuts what: `fish[k, :length[k]]` is the row of board k. Changed in place."""

    fish: Integers  # k, n
    length: Integers  # k

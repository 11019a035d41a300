"""Looking for a better order of work in the background, in a process of its own.

A page never waits for it: it gets the best known at once. A better order replaces the one in force
only when it is better by a margin, and a change at the table starts the search afresh.
"""

import logging
import threading
import time
from collections.abc import Callable, Sequence
from concurrent.futures import BrokenExecutor, Executor, Future
from dataclasses import dataclass, replace
from multiprocessing.sharedctypes import Synchronized
from random import Random

from lepidos.core.schedule.model import EXACT, Order
from lepidos.core.schedule.scheduler import Bench

AT_ONCE = 6  # fish that are solved exactly while the page waits: milliseconds
BETTER_BY = 0.01  # part of the lateness that a new order must save to replace the one in force
STAY_S = 60.0  # a crew is not sent about for less than this
PLAIN_S = 300.0  # what the plainest order may clear later (practice)
LATER_S = 1.0  # a moment before a search begins: pages come first
MAX_NEW = 30  # more fish than this at once, from a file, are ordered afresh

Rows = dict[str, tuple[str, ...]]

# In the worker: the number of the search that is wanted now; an older one stops.
_wanted: "Synchronized[int] | None" = None


@dataclass(frozen=True)
class Kept:
    """The order in force: for which table, as rows of fish by board, and whether it is proven.

    `plain` as it was asked for.
    """

    mark: str
    rows: Rows
    proven: bool
    how: str
    plain: bool


class OrderSearch:
    """The order in force of each trip; `start` gives it the executor it searches with, if any.

    An executor whose process died is replaced by a new one: a page never depends on the search.
    """

    def __init__(
        self,
        start: Callable[[], Executor] | None = None,
        wanted: "Synchronized[int] | None" = None,
        seconds: float = 5.0,
    ) -> None:
        self._start, self._shared, self._seconds = start, wanted, seconds
        self._executor = start() if start else None
        self._closed = False
        self._kept: dict[str, Kept] = {}
        self._searching: dict[str, int] = {}
        self._number = 0
        self.found = 0  # how often a search ended: an order that was calculated before may be old
        self._lock = threading.Lock()
        self.on_news: Callable[[], None] = lambda: None

    def order(
        self, trip_id: str, mark: str, boards: Sequence[str], bench: Bench, plain: bool = True
    ) -> Order:
        """The best order known for a table; a new table (another `mark`) starts a search.

        `plain` says that most urgent first is worth some minutes of changing over.
        """
        with self._lock:
            kept = self._kept.get(trip_id)
        changed = kept is None or kept.mark != mark
        found = self._choose(bench, boards, kept, changed, plain)
        if changed:
            self._keep(trip_id, mark, boards, bench, found, plain)
            if len(bench.jobs) > AT_ONCE:
                self._search(trip_id, mark, boards, bench, found)
        return found

    @staticmethod
    def _choose(
        bench: Bench, boards: Sequence[str], kept: Kept | None, changed: bool, plain: bool
    ) -> Order:
        """The least lateness; where that leaves a choice, the plainest or the one in force."""
        urgent = bench.by_rule("deadline")
        if len(bench.jobs) <= AT_ONCE and (exact := bench.exact()):
            best = exact
        elif kept is None or (changed and not plain):
            best = bench.dispatch()
        else:
            # an order in force is there to start from, and the search tries every rule
            rules = (urgent, bench.by_rule("weight"), bench.by_rule("tardiness"))
            best = min(rules, key=lambda order: order.cost)
        others: list[tuple[Order, float]] = []
        if changed and plain:
            # a few minutes of washing the board are worth having the most urgent fish first
            others.append((urgent, PLAIN_S))
        if kept is not None:
            rows = [kept.rows.get(board, ()) for board in boards]
            known = {key for row in rows for key in row}
            if sum(job.key not in known for job in bench.jobs) > MAX_NEW:
                return best
            followed = bench.follow(rows, kept.how)
            others.append((replace(followed, proven=kept.proven and not changed), STAY_S))
        for other, later_s in others:
            if _holds(other, best, later_s if plain or not changed else None):
                same = other.lateness <= best.lateness + 1e-6
                return replace(other, proven=other.proven or (best.proven and same))
        return best

    def is_searching(self, trip_id: str) -> bool:
        """Whether a better order may still come."""
        with self._lock:
            return trip_id in self._searching

    def close(self) -> None:
        """Stop searching."""
        self._closed = True
        if self._shared is not None:
            self._shared.value = -1
        if self._executor is not None:
            self._executor.shutdown(wait=False, cancel_futures=True)

    def _keep(
        self,
        trip_id: str,
        mark: str,
        boards: Sequence[str],
        bench: Bench,
        order: Order,
        plain: bool,
    ) -> None:
        rows = {
            board: tuple(bench.jobs[i].key for i in row)
            for board, row in zip(boards, order.sequences, strict=True)
        }
        with self._lock:
            self._kept[trip_id] = Kept(mark, rows, order.proven, order.how, plain)

    def _search(
        self, trip_id: str, mark: str, boards: Sequence[str], bench: Bench, start: Order
    ) -> None:
        if self._executor is None:
            return
        with self._lock:
            self._number += 1
            number = self._searching[trip_id] = self._number
        if self._shared is not None:
            self._shared.value = number
        future = self._submit(bench, start, number)
        if future is None:
            with self._lock:
                self._searching.pop(trip_id, None)
            return
        future.add_done_callback(
            lambda done: self._found(trip_id, mark, tuple(boards), bench, start, number, done)
        )

    def _submit(self, bench: Bench, start: Order, number: int) -> "Future[Order] | None":
        """Hand a table to the process; to a new one, when the old one died."""
        for _ in range(2):
            if self._executor is None or self._closed:
                return None
            try:
                return self._executor.submit(look, bench, start, number, self._seconds)
            except BrokenExecutor as error:
                logging.getLogger(__name__).error("the search for an order died: %r", error)
                self._executor = self._start() if self._start else None
        return None

    def _found(
        self,
        trip_id: str,
        mark: str,
        boards: tuple[str, ...],
        bench: Bench,
        start: Order,
        number: int,
        done: "Future[Order]",
    ) -> None:
        with self._lock:
            current = self._searching.get(trip_id) == number
            if current:
                del self._searching[trip_id]
            kept = self._kept.get(trip_id)
        if not current or kept is None or kept.mark != mark or done.cancelled() or self._closed:
            return
        if error := done.exception():
            logging.getLogger(__name__).error("the search for an order failed: %r", error)
            return
        found = done.result()
        if found.how == EXACT or not _holds(start, found, STAY_S if kept.plain else None):
            self._keep(trip_id, mark, boards, bench, found, kept.plain)
        # an end without a better order is news too: pages stop saying that one may come
        self.found += 1
        self.on_news()


def _holds(old: Order, new: Order, later_s: float | None = STAY_S) -> bool:
    """Whether an order is as good as another but for so much later a finish; None: not at all."""
    if later_s is None:
        return old.cost <= new.cost
    late = old.lateness <= new.lateness * (1 + BETTER_BY) + 1.0
    return late and old.clear_s <= new.clear_s * (1 + 5 * BETTER_BY) + later_s


def look(bench: Bench, start: Order, number: int, seconds: float) -> Order:
    """Prove a small table, or improve a large one for some seconds; in the worker process.

    It begins a moment later than it could: what changed the table is also shown on every device,
    and on a small machine the two would slow each other down.
    """
    end = time.monotonic() + min(LATER_S, seconds)
    Bench.load_search()
    while time.monotonic() < end and not _is_newer(number):
        time.sleep(0.05)
    began = time.monotonic()

    def gone() -> float:
        return 1.0 if _is_newer(number) else (time.monotonic() - began) / seconds

    if exact := None if _is_newer(number) else bench.exact():
        return exact
    start = min(start, bench.dispatch(), key=lambda order: order.cost)
    return bench.improve(start, Random(number), gone=gone)  # noqa: S311 - a search, no secret


def _is_newer(number: int) -> bool:
    return _wanted is not None and _wanted.value != number

"""Looks for a more even split of bags in the background, one at a time."""

import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor

from lepidos.core.pack.fair_split import Bag, Split, greedy

MAX_KEPT = 32
MANY_BAGS = 100  # from here on it is looked for longer
LONGER = 2.8  # times as long, with so many bags
Problem = tuple[tuple[Bag, ...], tuple[int, ...]]


class SplitSearch:
    """The best split known of what was asked for; better ones come while nobody waits.

    Args: seconds: how long is looked for each; 0: never, and the answer is the one at once.
    """

    def __init__(self, seconds: float = 0.0) -> None:
        self._seconds = seconds
        self._known: OrderedDict[Problem, Split] = OrderedDict()
        self._lock = threading.Lock()
        self._wanted: Problem | None = None
        self._since = 0.0
        self._pool = ThreadPoolExecutor(1, "splits") if seconds > 0 else None
        self.on_news: Callable[[], None] = lambda: None

    def best(self, bags: Sequence[Bag], shares: Sequence[int]) -> Split:
        """The best that is known; the first time, what `greedy` says, while a better is looked for.

        What was looked for before and is asked no more is given up. Raises: as `greedy`.
        """
        problem = (tuple(bags), tuple(shares))
        with self._lock:
            if known := self._known.get(problem):
                self._known.move_to_end(problem)
                return known
        first = greedy(bags, shares)
        self._keep(problem, first)
        if self._pool and len(shares) > 1:
            with self._lock:
                self._wanted, self._since = problem, time.monotonic()
            self._pool.submit(self._look, problem)
        return first

    def looking(self, bags: Sequence[Bag], shares: Sequence[int]) -> float | None:
        """For how long a better split of these has been looked for [s]; None when it is not."""
        with self._lock:
            if self._wanted != (tuple(bags), tuple(shares)):
                return None
            return time.monotonic() - self._since

    def stop(self) -> None:
        """Keep what is best so far, and look no longer."""
        with self._lock:
            self._wanted = None

    def close(self) -> None:
        """Stop for good."""
        self.stop()
        if self._pool:
            self._pool.shutdown(wait=False, cancel_futures=True)

    def _look(self, problem: Problem) -> None:
        # the solver is large, and a crew without parties never needs it
        from lepidos.core.pack.even_split import even_split  # noqa: PLC0415

        bags, shares = problem
        seconds = self._seconds * (LONGER if len(bags) > MANY_BAGS else 1)

        def better(split: Split) -> None:
            if split.rank < self._known[problem].rank or split.proven:
                self._keep(problem, split)
                self.on_news()

        if self._still(problem):
            better(even_split(bags, shares, seconds, lambda: self._still(problem), better))
        with self._lock:
            done = self._wanted == problem
            if done:
                self._wanted = None
        if done:
            self.on_news()

    def _still(self, problem: Problem) -> bool:
        with self._lock:
            return self._wanted == problem

    def _keep(self, problem: Problem, split: Split) -> None:
        with self._lock:
            self._known[problem] = split
            while len(self._known) > MAX_KEPT:
                self._known.popitem(last=False)

"""The order of work at the bench: which fish next, at whose board, and when the table is clear.

Minimise weighted lateness, then the finish. A dispatch rule answers at once (apparent tardiness
cost with setups: Lee, Bhaskaran & Pinedo 1997, memory); annealing improves it; small tables are
solved exactly. The caller owns the clock and the generator, so every answer can be replayed.
"""

import math
from collections.abc import Callable, Sequence
from random import Random

import numpy as np

from lepidos.core.errors import BadInput
from lepidos.core.schedule.boards import Boards
from lepidos.core.schedule.dispatch_rules import (
    Urgency,
    apparent_tardiness,
    earliest_deadline,
    weighted_shortest,
)
from lepidos.core.schedule.model import (
    EXACT,
    Floats,
    Integers,
    Order,
    Rows,
    Sequences,
    Table,
)

MAX_EXACT = 10  # fish that full enumeration by subsets still answers in a few seconds
# How far ahead the rule looks, in mean cutting times, and how much it minds a changeover; the best
# of these is taken (values from the usual range of the literature, memory).
LOOKS = ((0.5, 0.5), (1.5, 0.5), (3.0, 0.3), (6.0, 0.3))

# Annealing starts as hot as this part of a fish's mean lateness and ends at this part of that
# (tried on random days, see docs/measurements.md).
HOTTEST, COLDEST = 1.0, 1e-3
MOVES = 2000  # between two looks at the clock: about a millisecond

Labels = list[tuple[float, float, tuple[int, ...]]]  # finish, lateness, order
Next = Callable[[int, float, int], int]  # at a board, now, after a kind: the next fish


class Bench(Boards):
    """Jobs and boards, and the ways to an order of work: by rule, by search, by proof.

    Raises: OutOfRange and BadInput naming the fish whose figures cannot be.
    """

    def dispatch(self) -> Order:
        """The answer at once: the best of a few rules, never worse than earliest deadline first
        or weighted shortest cutting first on the same table."""
        table = self.table()
        rules: list[Urgency | Floats] = [earliest_deadline(table), weighted_shortest(table)]
        rules += [apparent_tardiness(table, look, mind) for look, mind in LOOKS]
        return min((self._dispatch(rule) for rule in rules), key=lambda o: o.cost)

    def by_rule(self, name: str) -> Order:
        """One plain rule, to compare with: "deadline", "weight" or "tardiness"."""
        rules: dict[str, Callable[[Table], Urgency | Floats]] = {
            "deadline": earliest_deadline,
            "weight": weighted_shortest,
            "tardiness": lambda table: apparent_tardiness(table, *LOOKS[1]),
        }
        return self._dispatch(rules[name](self.table()))

    def follow(self, rows: Sequence[Sequence[str]], how: str = "as it was") -> Order:
        """The order that follows earlier rows of keys, as far as its fish are still to be cut.

        What is held stays first; fish that no row names go where they cost least.
        Raises: BadInput when there is not one row a cutter.
        """
        if len(rows) != len(self.cutters):
            raise BadInput("give one row a cutter")
        index = {self.jobs[i].key: i for i in self._free}
        named: set[int] = set()
        found: list[list[int]] = []
        for held, row in zip(self._held, rows, strict=True):
            following = [index[key] for key in dict.fromkeys(row) if key in index]
            found.append([*held, *(i for i in following if i not in named)])
            named.update(following)
        for job in sorted(set(self._free) - named, key=self._deadline.__getitem__):
            self._insert(found, job)
        return self._order(tuple(tuple(r) for r in found), False, how)

    def _insert(self, rows: list[list[int]], job: int) -> None:
        """Put one more fish where the whole then costs least."""
        costs = [self._run(k, row)[:2] for k, row in enumerate(rows)]
        places = []
        for k, row in enumerate(rows):
            first = len(self._held[k])
            for at, cost in enumerate(self._insertions(k, row, job, first), first):
                total = self._total([*costs[:k], cost, *costs[k + 1 :]])
                # sums that are taken in another order differ in their last digits
                places.append((round(total, 6), k, at))
        _, k, at = min(places)
        rows[k].insert(at, job)

    def _insertions(
        self, k: int, row: Sequence[int], job: int, first: int
    ) -> list[tuple[float, float]]:
        """Lateness and finish of a board for a fish put before each place from `first` on."""
        start = self.cutters[k].free_s
        if self.cutters[k].breaks or any(self._release[i] > start for i in (*row, job)):
            found = []
            before = self._run(k, row[:first])
            for at in range(first, len(row) + 1):
                found.append(self._run_on(k, before, [job, *row[at:]])[:2])
                before = self._run_on(k, before, row[at : at + 1])
            return found
        # nothing waits: what comes after it is as much later as it and its changeovers take
        table = self.table()
        fish = np.array(row, dtype=np.int64)
        kinds = np.array([self._first[k], *table.kind[fish]])
        takes = table.seconds[k, fish] + table.setup[kinds[:-1], kinds[1:]]
        ends = np.concatenate([[start], start + np.cumsum(takes)])
        to_it = table.setup[kinds, table.kind[job]]
        from_it = np.append(
            table.setup[table.kind[job], kinds[1:]] - table.setup[kinds[:-1], kinds[1:]], 0.0
        )
        done = ends + to_it + table.seconds[k, job]
        later = to_it + table.seconds[k, job] + from_it
        weight, deadline = table.weight[fish], table.deadline[fish]
        late = weight * np.maximum(0.0, ends[1:] - deadline)
        so_far = np.concatenate([[0.0], np.cumsum(late)])
        pushed = weight * np.maximum(0.0, ends[1:] + later[:, np.newaxis] - deadline)
        behind = np.triu(np.ones((len(fish) + 1, len(fish))))
        own = table.weight[job] * np.maximum(0.0, done - table.deadline[job])
        total = so_far + own + (pushed * behind).sum(axis=1)
        finish = np.append(ends[-1] + later[:-1], done[-1])
        return list(zip(total[first:].tolist(), finish[first:].tolist(), strict=True))

    def improve(
        self,
        start: Order,
        rng: Random,
        rounds: int = 200_000,
        gone: Callable[[], float] | None = None,
    ) -> Order:
        """Annealing from `start`: moves and swaps of fish within and between boards.

        Never worse than `start`, in lateness and then in the finish.

        Args:
            rounds: Moves to try; they set the cooling, so that the answer can be replayed.
            gone: Instead of rounds: how much of the caller's time is gone, 0 to 1; asked now and
                then. Cooling follows it, and 1 or more ends the search.
        """
        if start.how == EXACT or len(self._free) < 2:
            return start
        # not at the top: loading the compiler takes a second, and only a search needs it
        from lepidos.core.schedule.annealing import anneal  # noqa: PLC0415

        table = self.table()
        rows = Rows(*_padded(start.sequences, len(self.jobs)))
        best = Rows(rows.fish.copy(), rows.length.copy())
        least = self._total([self._run(k, row)[:2] for k, row in enumerate(start.sequences)])
        hot = max(60.0, HOTTEST * least / max(4, len(self._free)))
        tried = 0
        while (share := gone() if gone else tried / max(1, rounds)) < 1:
            moves = MOVES if gone else min(MOVES, rounds - tried)
            heat = hot * COLDEST**share
            least = anneal(table, rows, best, least, heat, moves, rng.getrandbits(32))
            tried += moves
        sequences = tuple(
            tuple(int(i) for i in row[:length])
            for row, length in zip(best.fish, best.length, strict=True)
        )
        found = self._order(sequences, False, "best found")
        return found if found.cost < start.cost else start

    @staticmethod
    def load_search() -> None:
        """Load the compiled search, so that the first `improve` has all of its time."""
        from lepidos.core.schedule.annealing import compile_all  # noqa: PLC0415

        compile_all()

    def exact(self) -> Order | None:
        """The proven best of a small table; None when it is too large to prove.

        By subsets: for every set of fish at a board the orders that no other beats in both time and
        lateness are kept, which is exact since lateness to come only grows with time.
        """
        if len(self._free) > MAX_EXACT:
            return None
        full = (1 << len(self._free)) - 1
        best: dict[int, tuple[float, float, Sequences]] = {0: (0.0, -math.inf, ())}
        for k in range(len(self.cutters)):
            alone = self._subsets(k)
            joined: dict[int, tuple[float, float, Sequences]] = {}
            for used, (late, clear, rows) in best.items():
                rest = full & ~used
                part = rest
                while True:
                    more, end, row = alone[part]
                    found = (late + more, max(clear, end), (*rows, row))
                    kept = joined.get(used | part)
                    if kept is None or found[:2] < kept[:2]:
                        joined[used | part] = found
                    if part == 0:
                        break
                    part = (part - 1) & rest
            best = joined
        return self._order(best[full][2], True, EXACT)

    def _subsets(self, k: int) -> dict[int, tuple[float, float, tuple[int, ...]]]:
        """By set of free fish: least lateness, then least finish, and the order, at one board."""
        held = self._held[k]
        late0, end0, kind0 = self._run(k, held)
        # by set, then by the fish that came last: the orders that no other beats
        labels: dict[int, dict[int, Labels]] = {0: {-1: [(end0, late0, held)]}}
        best: dict[int, tuple[float, float, tuple[int, ...]]] = {}
        for mask in range(1 << len(self._free)):
            by_last = labels.pop(mask)
            best[mask] = min(
                (late, end, row) for kept in by_last.values() for end, late, row in kept
            )
            for last, kept in by_last.items():
                kind = kind0 if last < 0 else self._kind[last]
                for bit, job in enumerate(self._free):
                    if mask >> bit & 1:
                        continue
                    target = labels.setdefault(mask | 1 << bit, {}).setdefault(job, [])
                    for end, late, row in kept:
                        done = self._finish(k, end, kind, job)
                        tardy = late + self._weight[job] * max(0.0, done - self._deadline[job])
                        _keep(target, (done, tardy, (*row, job)))
        return best

    def _dispatch(self, urgency: Urgency | Floats) -> Order:
        rows = [list(h) for h in self._held]
        ends, kinds = [], []
        for k, row in enumerate(rows):
            _, end, kind = self._run(k, row)
            ends.append(end)
            kinds.append(kind)
        last = max((self._release[i] for i in self._free), default=0.0)
        if isinstance(urgency, np.ndarray) and min(ends) >= last:
            next_at = self._by_rank(urgency)
        else:
            next_at = self._by_clock(urgency, last)
        for _ in self._free:
            k = min(range(len(ends)), key=ends.__getitem__)
            job = next_at(k, ends[k], kinds[k])
            ends[k] = self._finish(k, ends[k], kinds[k], job)
            kinds[k] = self._kind[job]
            rows[k].append(job)
        return self._order(tuple(tuple(r) for r in rows), False, "dispatch rule")

    def _by_rank(self, figures: Floats) -> Next:
        """What is next at a board when all can be cut and nothing changes what presses most."""
        free = np.array(self._free, dtype=np.int64)
        # of equals the first, as they were given
        ranks = [iter(free[np.argsort(-row[free], kind="stable")].tolist()) for row in figures]
        taken: set[int] = set()

        def next_at(k: int, _now: float, _kind: int) -> int:
            job = next(job for job in ranks[k] if job not in taken)
            taken.add(job)
            return int(job)

        return next_at

    def _by_clock(self, urgency: Urgency | Floats, last: float) -> Next:
        """What is next at a board at a time; before `last` some fish are not there yet."""
        waits = np.full(len(self.jobs), -math.inf)  # added to what presses: 0 for what can be cut
        waits[self._free] = 0.0
        release = np.array(self._release)

        def next_at(k: int, now: float, kind: int) -> int:
            ready = waits
            if now < last:
                now = max(now, float(release[waits == 0.0].min()))
                ready = np.where(release <= now + 1e-9, waits, -math.inf)
            presses = urgency[k] if isinstance(urgency, np.ndarray) else urgency(k, now, kind)
            job = int((presses + ready).argmax())
            waits[job] = -math.inf
            return job

        return next_at


def _padded(rows: Sequences, most: int) -> tuple[Integers, Integers]:
    """Rows of fish as one array, and how many there are in each."""
    fish = np.zeros((len(rows), most), dtype=np.int64)
    for k, row in enumerate(rows):
        fish[k, : len(row)] = row
    return fish, np.array([len(row) for row in rows], dtype=np.int64)


def _keep(labels: Labels, new: tuple[float, float, tuple[int, ...]]) -> None:
    """Add a label unless another is no later and no costlier; drop those it beats."""
    if any(end <= new[0] and late <= new[1] for end, late, _ in labels):
        return
    labels[:] = [old for old in labels if not (new[0] <= old[0] and new[1] <= old[1])]
    labels.append(new)

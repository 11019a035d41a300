"""Jobs and boards made ready for fast evaluation: what an order of fish costs."""

import math
from collections.abc import Mapping, Sequence

import numpy as np

from lepidos.core.errors import BadInput, require
from lepidos.core.schedule.model import Cutter, Job, Order, Sequences, Table, Turn
from lepidos.core.units import DAY_S

MAX_FISH = 500  # beyond this an answer is no longer at once

State = tuple[float, float, int]  # of a board: lateness so far, now, what was cut last


class Boards:
    """Jobs and boards, checked once.

    Raises: OutOfRange and BadInput naming the fish whose figures cannot be.
    """

    def __init__(
        self,
        jobs: Sequence[Job],
        cutters: Sequence[Cutter],
        changeovers_s: Mapping[tuple[str, str], float] | None = None,
    ) -> None:
        require("number of cutters", len(cutters), 1, 4, "")
        require("number of fish", len(jobs), 0, MAX_FISH, "")
        self.jobs, self.cutters = tuple(jobs), tuple(cutters)
        index = {job.key: i for i, job in enumerate(self.jobs)}
        if len(index) != len(self.jobs):
            raise BadInput("two fish have the same key")
        for job in self.jobs:
            require(f"{job.key} release", job.release_s, -1e7, 1e8, "s")
            require(f"{job.key} deadline", job.deadline_s, -1e7, 1e8, "s")
            require(f"{job.key} weight", job.weight, 0, 1e6, "")
            if len(job.seconds) != len(cutters):
                raise BadInput(f"{job.key}: give one cutting time a cutter")
            for seconds in job.seconds:
                require(f"{job.key} cutting time", seconds, 1, DAY_S, "s")
        kinds = sorted({j.kind for j in jobs} | {c.last_kind for c in cutters})
        between = changeovers_s or {}
        self._setup = [[float(between.get((a, b), 0.0)) for b in kinds] for a in kinds]
        self._kind = [kinds.index(j.kind) for j in self.jobs]
        self._first = [kinds.index(c.last_kind) for c in cutters]
        self._held: list[tuple[int, ...]] = []
        for cutter in cutters:
            if missing := [k for k in cutter.holding if k not in index]:
                raise BadInput(f"{cutter.name} holds {missing[0]}, which is not to be cut")
            self._held.append(tuple(index[k] for k in cutter.holding))
        taken = [i for held in self._held for i in held]
        if len(set(taken)) != len(taken):
            raise BadInput("one fish is held at two boards")
        self._free = [i for i in range(len(self.jobs)) if i not in set(taken)]
        self._seconds = [[j.seconds[k] for j in self.jobs] for k in range(len(cutters))]
        self._release = [j.release_s for j in self.jobs]
        self._deadline = [j.deadline_s for j in self.jobs]
        self._weight = [j.weight for j in self.jobs]
        self._unavoidable = self._bound()
        self._table: Table | None = None

    def table(self) -> Table:
        """The jobs and boards as arrays, for the rules and the compiled search."""
        if self._table is None:
            self._table = self._arrays()
        return self._table

    def _arrays(self) -> Table:
        most = max((len(c.breaks) for c in self.cutters), default=0)
        breaks = np.zeros((len(self.cutters), most, 2))
        breaks[:, :, 1] = -math.inf
        for k, cutter in enumerate(self.cutters):
            breaks[k, : len(cutter.breaks)] = np.reshape(cutter.breaks, (-1, 2))
        return Table(
            kind=np.array(self._kind, dtype=np.int64),
            release=np.array(self._release, dtype=float),
            deadline=np.array(self._deadline, dtype=float),
            weight=np.array(self._weight, dtype=float),
            seconds=np.array(self._seconds, dtype=float),
            setup=np.array(self._setup, dtype=float),
            free=np.array([c.free_s for c in self.cutters], dtype=float),
            first_kind=np.array(self._first, dtype=np.int64),
            held=np.array([len(h) for h in self._held], dtype=np.int64),
            breaks=breaks,
        )

    def _finish(self, k: int, now: float, kind: int, job: int) -> float:
        start = max(now + self._setup[kind][self._kind[job]], self._release[job])
        length = self._seconds[k][job]
        for begin, end in self.cutters[k].breaks:
            if start < end and start + length > begin:
                start = end
        return start + length

    def _run(self, k: int, row: Sequence[int]) -> State:
        return self._run_on(k, (0.0, self.cutters[k].free_s, self._first[k]), row)

    def _run_on(self, k: int, state: State, row: Sequence[int]) -> State:
        late, now, kind = state
        for job in row:
            now = self._finish(k, now, kind, job)
            kind = self._kind[job]
            over = now - self._deadline[job]
            if over > 0:
                late += self._weight[job] * over
        return late, now, kind

    @staticmethod
    def _total(costs: Sequence[tuple[float, float]]) -> float:
        # lateness decides; the finish only breaks ties
        return sum(c[0] for c in costs) + 1e-4 * max(c[1] for c in costs)

    def _order(self, rows: Sequences, proven: bool, how: str) -> Order:
        turns: list[Turn] = []
        lateness, clear = 0.0, 0.0
        for k, row in enumerate(rows):
            now, kind = self.cutters[k].free_s, self._first[k]
            for job in row:
                now = self._finish(k, now, kind, job)
                kind = self._kind[job]
                late = max(0.0, now - self._deadline[job])
                lateness += self._weight[job] * late
                begin = now - self._seconds[k][job]
                turns.append(Turn(self.jobs[job].key, self.cutters[k].name, begin, now, late))
            clear = max(clear, now) if row else clear
        turns.sort(key=lambda t: (t.start_s, t.cutter))
        proven = proven or lateness <= self._unavoidable + 1e-6
        return Order(rows, tuple(turns), lateness, clear, proven, how)

    def _bound(self) -> float:
        """Lateness that no order avoids: each free fish alone, at the board that ends it first.

        What is held stays first at its board, so its own lateness is counted as it comes.
        """
        total, ends = 0.0, []
        for k, held in enumerate(self._held):
            late, end, _ = self._run(k, held)
            total += late
            ends.append(end)
        for job in self._free:
            soonest = min(self._finish(k, end, self._kind[job], job) for k, end in enumerate(ends))
            total += self._weight[job] * max(0.0, soonest - self._deadline[job])
        return total

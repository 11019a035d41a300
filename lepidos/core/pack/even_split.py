"""The most even split of bags: an integer programme, solved in stages."""

import math
from collections.abc import Callable, Sequence

import numpy as np
from ortools.sat.python import cp_model

from lepidos.core.errors import require
from lepidos.core.pack.fair_split import (
    ALL,
    Bag,
    Split,
    deviations,
    entitled,
    greedy,
    polished,
    split_of,
)
from lepidos.core.pack.whole_grams import nearest, whole_targets

_MIN_OVERALL_G = 0.5  # a scale shows no less
MAX_ANEW = 14  # bags that are divided in all ways at once: 16,384 of them


class _Watch(cp_model.CpSolverSolutionCallback):
    """Stops the search when it is no longer wanted."""

    def __init__(self, wanted: Callable[[], bool]) -> None:
        super().__init__()
        self._wanted = wanted

    def on_solution_callback(self) -> None:
        if not self._wanted():
            self.stop_search()


def even_split(
    bags: Sequence[Bag],
    shares: Sequence[int],
    seconds: float = 5.0,
    wanted: Callable[[], bool] = lambda: True,
    better: Callable[[Split], None] = lambda split: None,
) -> Split:
    """The most even split that is found in about this time; never worse than `greedy`.

    First the whole grams that everybody should have of each kind, which also prove how even it can
    be; often enough bags can be found that weigh just that. Else each kind alone; then two
    parties at a time share out again what they have of a kind; then all together, from there; then
    all kinds together, with that worst deviation held. CP-SAT (OR-Tools), one worker with a fixed
    seed: the same bags give the same answer, as far as the time goes.

    Args:
        seconds: For the solver in all, 0.1 to 600; what goes beside it takes a second or two.
        wanted: Asked between stages and at every solution; False stops with the best so far.
        better: Told of each better split on the way.
    Raises: as `greedy`.
    """
    require("time", seconds, 0.1, 600, "s")
    best = greedy(bags, shares)
    kinds = sorted({b.kind for b in bags})
    targets, bound = whole_targets(bags, shares)
    best = _better_of(bags, shares, (best.party_of,), bound)
    met = nearest(bags, shares, best, targets, wanted, 0.3 * seconds)
    if met.proven:
        better(met)
        return met
    hints = list(best.party_of)
    for kind in kinds:
        if not wanted():
            return best
        rows = [i for i, b in enumerate(bags) if b.kind == kind]
        share_s = 0.15 * seconds / len(kinds)
        alone_hints = [hints[i] for i in rows]
        found, proven = _solve([bags[i] for i in rows], shares, alone_hints, share_s, wanted)
        bound = max(bound, proven)
        for i, party in zip(rows, found, strict=True):
            hints[i] = party
    alone = split_of(bags, shares, hints)
    start = min((best, alone, polished(bags, shares, alone)), key=lambda s: s.rank)
    again = [shared_again(bags, shares, one, wanted) for one in (start, best)]
    again += [nearest(bags, shares, one, targets, wanted, 0.05 * seconds) for one in again]
    start = min(met, *again, key=lambda s: s.rank)
    best = split_of(bags, shares, start.party_of, bound)
    better(best)
    if len(kinds) > 1 and wanted() and not best.proven:
        found, proven = _solve(bags, shares, best.party_of, 0.15 * seconds, wanted)
        best = _better_of(bags, shares, (best.party_of, found), max(bound, proven))
        better(best)
    if wanted() and best.overall_g > _MIN_OVERALL_G:
        found, _ = _solve(bags, shares, best.party_of, 0.15 * seconds, wanted, best.worst_g)
        best = _better_of(bags, shares, (best.party_of, found), best.least_g)
        better(best)
    return best


def shared_again(
    bags: Sequence[Bag], shares: Sequence[int], split: Split, wanted: Callable[[], bool]
) -> Split:
    """Two parties at a time share what they have of one kind again, in the best of all ways.

    Goes on until no pair gains by it, once from the first kind to the last and once from the last
    to the first: it ends in different places, and the better one counts. Pairs with more than
    `MAX_ANEW` bags of a kind between them are left as they are. Never worse than `split`.
    Raises: as `greedy`.
    """
    kinds = list(dict.fromkeys(bag.kind for bag in bags))
    ways = (_anew(bags, shares, split, order, wanted) for order in (kinds, kinds[::-1]))
    return min(split, *ways, key=lambda s: s.rank)


def _anew(
    bags: Sequence[Bag],
    shares: Sequence[int],
    split: Split,
    kinds: Sequence[str],
    wanted: Callable[[], bool],
) -> Split:
    party_of = list(split.party_of)
    off = {kind: list(grams) for kind, grams in deviations(bags, shares, party_of).items()}
    pairs = [(p, q) for p in range(len(shares)) for q in range(p + 1, len(shares))]
    gained = True
    while gained and wanted():
        gained = False
        for kind in kinds:
            for p, q in pairs:
                rows = [
                    i
                    for i, bag in enumerate(bags)
                    if bag.kind == kind and bag.pinned is None and not bag.not_for & {p, q}
                    and party_of[i] in (p, q)
                ]  # fmt: skip
                if not 1 < len(rows) <= MAX_ANEW:
                    continue
                grams = np.array([bags[i].grams for i in rows], dtype=float)
                now = np.array([party_of[i] == p for i in rows])
                ways = (np.arange(2 ** len(rows))[:, None] >> np.arange(len(rows)) & 1).astype(bool)
                # what `p` has more in each way than now is what `q` has less
                more = ways @ grams - float(grams[now].sum())
                of_kind = np.maximum(abs(off[kind][p] + more), abs(off[kind][q] - more))
                in_all = np.maximum(abs(off[ALL][p] + more), abs(off[ALL][q] - more))
                worst = np.maximum(of_kind, in_all).round(6)
                best = int(np.lexsort((in_all, worst))[0])
                before = max(
                    abs(off[kind][p]), abs(off[kind][q]), abs(off[ALL][p]), abs(off[ALL][q])
                )
                if worst[best] >= round(before, 6):
                    continue
                gained = True
                for i, to_p in zip(rows, ways[best], strict=True):
                    party_of[i] = p if to_p else q
                for name in (kind, ALL):
                    off[name][p] += float(more[best])
                    off[name][q] -= float(more[best])
    return split_of(bags, shares, party_of, split.least_g)


def _better_of(
    bags: Sequence[Bag], shares: Sequence[int], splits: Sequence[Sequence[int]], least_g: float
) -> Split:
    return min((split_of(bags, shares, p, least_g) for p in splits), key=lambda s: s.rank)


def _solve(
    bags: Sequence[Bag],
    shares: Sequence[int],
    hint: Sequence[int],
    seconds: float,
    wanted: Callable[[], bool],
    worst_g: float | None = None,
) -> tuple[list[int], float]:
    """The integer programme: least worst deviation; with `worst_g` held, least of all together.

    Returns the parties, and a proven bound of what was made small [g].
    """
    model = cp_model.CpModel()
    due = entitled(bags, shares)
    # deviations are counted in parts of a gram that make all of them whole numbers
    whole = math.lcm(*(part.denominator for parts in due.values() for part in parts))
    x = [[model.new_bool_var("") for _ in shares] for _ in bags]
    for row, bag, party in zip(x, bags, hint, strict=True):
        model.add_exactly_one(row)
        takers = set(bag.takers(len(shares)))
        for p, var in enumerate(row):
            if p not in takers:
                model.add(var == 0)
            model.add_hint(var, p == party)
    top = whole * sum(b.grams for b in bags)
    worst = model.new_int_var(0, top, "worst")
    for kind, should in due.items():
        rows = [i for i, b in enumerate(bags) if kind in (ALL, b.kind)]
        bound: cp_model.IntVar | int = worst
        if worst_g is not None and kind != ALL:
            bound = round(worst_g * whole)
        for p in range(len(shares)):
            has = sum(x[i][p] * (bags[i].grams * whole) for i in rows)
            aim = int(should[p] * whole)
            model.add(has - aim <= bound)
            model.add(aim - has <= bound)
    model.minimize(worst)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 1
    solver.parameters.symmetry_level = 0  # with a hint it costs more than it gives
    solver.parameters.max_time_in_seconds = max(0.05, seconds)
    status = solver.solve(model, _Watch(wanted))
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return list(hint), 0.0
    found = [next(p for p, var in enumerate(row) if solver.boolean_value(var)) for row in x]
    return found, max(0.0, solver.best_objective_bound / whole)

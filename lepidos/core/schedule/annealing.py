"""Annealing of an order of work, compiled: twenty times the moves in the same seconds.

Only the scheduler calls it, and only from the process that searches: loading the compiler takes
about a second. Everything is plain arrays; `Table` says which.

Kirkpatrick, Gelatt & Vecchi, *Science* 220 (1983) 671, with the usual moves of sequencing: a swap
of two fish, or a few that follow each other put elsewhere. Slices are written out as loops, which
the compiler gets through in half the time.
"""

from math import log

import numpy as np
from numba import njit

from lepidos.core.schedule.model import Floats, Integers, Rows, Table


@njit(cache=True)
def finish(table: Table, k: int, now: float, kind: int, job: int) -> float:
    """When a board ends a fish that it takes up after another kind, breaks left alone [s]."""
    start = now + table.setup[kind, table.kind[job]]
    if start < table.release[job]:
        start = table.release[job]
    length = table.seconds[k, job]
    for b in range(table.breaks.shape[1]):
        if start < table.breaks[k, b, 1] and start + length > table.breaks[k, b, 0]:
            start = table.breaks[k, b, 1]
    return float(start + length)


# One long function: the compiler takes no part of its loop out of line for nothing.
@njit(cache=True)
def anneal(  # noqa: C901
    table: Table, rows: Rows, best: Rows, least: float, heat: float, moves: int, seed: int
) -> float:
    """Try `moves` moves at one heat, from `rows`; the best met is kept in `best`.

    Args:
        least: Total of what `best` holds: weighted lateness and a ten-thousandth of the finish [s].
        heat: How much worse a move may be, on average, and still be taken [s].
        seed: Of this call's random numbers, so that a search can be replayed.

    Returns: the total of what `best` then holds [s].
    """
    np.random.seed(seed)
    boards, most = rows.fish.shape
    # how each board stands before each fish of its row, and after the last
    now = np.zeros((boards, most + 1))
    late = np.zeros((boards, most + 1))
    kind = np.zeros((boards, most + 1), np.int64)
    pressed = np.zeros((boards, most), np.int64)  # places whose fish is late
    how_many = np.zeros(boards, np.int64)
    trial = np.zeros((2, most), np.int64)
    block = np.zeros(3, np.int64)
    place = np.zeros(2, np.int64)  # the two boards of a move, ...
    size = np.zeros(2, np.int64)
    changed = np.zeros(2, np.int64)  # ... and from where their rows are changed
    for k in range(boards):
        now[k, 0], kind[k, 0] = table.free[k], table.first_kind[k]
        place[0], size[0], changed[0] = k, rows.length[k], 0
        for p in range(size[0]):
            trial[0, p] = rows.fish[k, p]
        _settle(table, rows, now, late, kind, pressed, how_many, trial[0], k, size[0], 0)
    present = _total(rows, now, late)
    for _ in range(moves):
        a = np.random.randint(boards)
        if rows.length[a] <= table.held[a]:
            continue
        # half of the time it is a late fish that is touched: only those can be bettered
        hurry = how_many[a] > 0 and np.random.random() < 0.5
        if hurry:
            i = pressed[a, np.random.randint(how_many[a])]
        else:
            i = np.random.randint(table.held[a], rows.length[a])
        b = a if np.random.random() < 0.5 else np.random.randint(boards)
        ahead = i if hurry and a == b else rows.length[b]  # a late fish goes forward in its row
        if ahead <= table.held[b]:
            continue
        place[0], place[1] = a, b
        size[0], size[1] = rows.length[a], rows.length[b]
        for p in range(size[0]):
            trial[0, p] = rows.fish[a, p]
        for p in range(size[1]):
            trial[1, p] = rows.fish[b, p]
        j = np.random.randint(table.held[b], ahead)
        if np.random.random() < 0.5:
            if a == b and i == j:
                continue
            other = 0 if a == b else 1
            trial[0, i], trial[other, j] = trial[other, j], trial[0, i]
        else:
            # a few that follow each other go together: it costs no changeover between them
            length = min(max(1, np.random.randint(4)), size[0] - i)
            for p in range(length):
                block[p] = trial[0, i + p]
            for p in range(i, size[0] - length):
                trial[0, p] = trial[0, p + length]
            if a == b:
                j = min(j, size[0] - length)
                if j == i:
                    continue
                _put(trial[0], size[0] - length, j, block, length)
            else:
                j = np.random.randint(table.held[b], size[1] + 1)
                _put(trial[1], size[1], j, block, length)
                size[0] -= length
                size[1] += length
        changed[0], changed[1] = (min(i, j), 0) if a == b else (i, j)
        # how bad a move may be is drawn before it is calculated: most are given up half-way
        bearable = present - heat * log(1.0 - np.random.random())
        spent = 0.0
        last = 0.0
        for k in range(boards):
            if k != a and k != b:
                spent += late[k, rows.length[k]]
                last = max(last, now[k, rows.length[k]])
        for which in range(1 if a == b else 2):
            k, first = place[which], changed[which]
            t, kd, spent = now[k, first], kind[k, first], spent + late[k, first]
            for p in range(first, size[which]):
                job = trial[which, p]
                t = finish(table, k, t, kd, job)
                kd = table.kind[job]
                if t > table.deadline[job]:
                    spent += table.weight[job] * (t - table.deadline[job])
                    if spent > bearable:
                        break
            last = max(last, t)
            if spent > bearable:
                break
        # lateness decides; the finish only breaks ties
        total = spent + 1e-4 * last
        if total > bearable:
            continue
        for which in range(1 if a == b else 2):
            k = place[which]
            _settle(
                table, rows, now, late, kind, pressed, how_many,
                trial[which], k, size[which], changed[which],
            )  # fmt: skip
        present = total
        if total < least - 1e-9:
            least = total
            for k in range(boards):
                best.length[k] = rows.length[k]
                for p in range(rows.length[k]):
                    best.fish[k, p] = rows.fish[k, p]
    return least


@njit(cache=True)
def _settle(
    table: Table,
    rows: Rows,
    now: Floats,
    late: Floats,
    kind: Integers,
    pressed: Integers,
    how_many: Integers,
    row: Integers,
    k: int,
    size: int,
    first: int,
) -> None:
    """Make a row that of its board, and calculate how the board stands from `first` on."""
    rows.length[k] = size
    for p in range(first, size):
        job = row[p]
        rows.fish[k, p] = job
        now[k, p + 1] = finish(table, k, now[k, p], kind[k, p], job)
        over = now[k, p + 1] - table.deadline[job]
        late[k, p + 1] = late[k, p] + (table.weight[job] * over if over > 0 else 0.0)
        kind[k, p + 1] = table.kind[job]
    count = 0
    for p in range(table.held[k], size):
        if late[k, p + 1] > late[k, p]:
            pressed[k, count] = p
            count += 1
    how_many[k] = count


@njit(cache=True)
def _put(row: Integers, size: int, at: int, block: Integers, length: int) -> None:
    """Put a few fish into a row of `size` at a place; what stood there moves back."""
    for p in range(size - 1, at - 1, -1):
        row[p + length] = row[p]
    for p in range(length):
        row[at + p] = block[p]


@njit(cache=True)
def _total(rows: Rows, now: Floats, late: Floats) -> float:
    spent, last = 0.0, 0.0
    for k in range(len(rows.length)):
        spent += late[k, rows.length[k]]
        last = max(last, now[k, rows.length[k]])
    return float(spent + 1e-4 * last)


def compile_all() -> None:
    """Compile everything once; what is compiled is kept beside this file."""
    table = Table(
        *(np.zeros(2, np.int64), np.zeros(2), np.zeros(2), np.ones(2), np.ones((1, 2))),
        *(np.zeros((1, 1)), np.zeros(1), np.zeros(1, np.int64), np.zeros(1, np.int64)),
        np.zeros((1, 0, 2)),
    )
    rows = Rows(np.array([[0, 1]]), np.array([2]))
    best = Rows(rows.fish.copy(), rows.length.copy())
    anneal(table, rows, best, 1.0, 1.0, 1, 0)


if __name__ == "__main__":
    compile_all()

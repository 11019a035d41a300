"""Plain rules for what to cut next: each says how much every fish presses at a board, at a time.

Arrays are by board (k) and by fish (n); times in s. Only the order of the figures counts. A rule
that does not look at the clock is its figures.
"""

from collections.abc import Callable

import numpy as np

from lepidos.core.schedule.model import Floats, Table

Urgency = Callable[[int, float, int], Floats]  # at a board, now, after a kind: n figures

MIN_WORTH = 1e-300  # of a fish that weighs nothing: the logarithm wants more than 0


def earliest_deadline(table: Table) -> Floats:
    """What must be done first, first: k, n figures."""
    return np.broadcast_to(-table.deadline, table.seconds.shape)


def weighted_shortest(table: Table) -> Floats:
    """What weighs most for each second it takes, first: k, n figures."""
    return _worth(table)


def apparent_tardiness(table: Table, look: float, mind: float) -> Urgency:
    """Worth, faded by the slack and by the changeover: apparent tardiness cost with setups.

    Lee, Bhaskaran & Pinedo 1997 (memory): w/p · exp(-slack/(look·p̄)) · exp(-setup/(mind·s̄)). Given
    as its logarithm, which ranks alike and does not vanish for a fish with days to go.

    Args:
        look: How far ahead, in mean cutting times. mind: How much a changeover fades, in its mean.
    """
    mean = float(table.seconds.mean()) if table.seconds.size else 1.0
    setups = table.setup[table.setup > 0]
    mean_setup = float(setups.mean()) if setups.size else 1.0
    latest = table.deadline - table.seconds
    change = table.setup[:, table.kind] / (mind * mean_setup)
    # by board, and by the kind that was cut last
    worth = np.log(np.maximum(_worth(table), MIN_WORTH))[:, np.newaxis, :] - change

    def urgency(k: int, now: float, kind: int) -> Floats:
        slack = np.maximum(0.0, latest[k] - now)
        return np.asarray(worth[k, kind] - slack / (look * mean))

    return urgency


def _worth(table: Table) -> Floats:
    return np.asarray(table.weight / table.seconds)

"""Many fish alike, counted or weighed together: how long and how heavy each is, about."""

import math
from collections.abc import Sequence

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.errors import require
from lepidos.core.fish.species import LengthType, Species
from lepidos.core.limits import require_length, require_weight

MIN_ALIKE, MAX_ALIKE = 2, 60  # fewer is one fish, more are two entries (practice)


def lengths_alike(count: int, shortest_m: float, longest_m: float | None = None) -> list[float]:
    """A length for each of `count` fish [m], spread evenly from the shortest to the longest.

    Nobody measured those between: even steps keep the mean and both ends (practice).

    Args: count: 2 to 60. shortest_m, longest_m: Within `limits`, the longest not the shorter one;
        None: all are as long.
    Raises: OutOfRange.
    Example:
        >>> lengths_alike(3, 0.24, 0.32)
        [0.24, 0.28, 0.32]
    """
    require("number of fish", count, MIN_ALIKE, MAX_ALIKE, "")
    require_length(shortest_m)
    longest_m = shortest_m if longest_m is None else require_length(longest_m)
    require("longest", longest_m, shortest_m, math.inf, "m")
    step = (longest_m - shortest_m) / (count - 1)
    return [round(shortest_m + step * n, 6) for n in range(count)]


def shares_of_weight(
    all_kg: float, lengths_m: Sequence[float], length_type: LengthType, species: Species
) -> list[float]:
    """What each fish is of a weight of all of them together [kg]: as their lengths foretell.

    Args: all_kg: Within `limits`, of round fish. lengths_m: Each as in `weight_from_length`.
    Raises: OutOfRange.
    """
    require_weight(all_kg)
    usual = [weight_from_length(m, length_type, species).value for m in lengths_m]
    return [all_kg * kg / math.fsum(usual) for kg in usual]

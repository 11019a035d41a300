"""Small, usual or large of its kind: what a crew's word on how to cut such fish may be of."""

from functools import lru_cache
from typing import Literal

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.fish.species import Species

Size = Literal["small", "usual", "large"]
# of the weight of a fish half as long as its kind is known to grow: common practice, no source
SMALL_BELOW, LARGE_FROM = 0.25, 2.0


def size_of(kg: float, species: Species) -> Size:
    """The size class of a fish [kg] among its kind.

    Args: kg above 0. The bounds are common practice, no source.
    """
    middle = _middle_kg(species)
    if kg < SMALL_BELOW * middle:
        return "small"
    return "large" if kg >= LARGE_FROM * middle else "usual"


@lru_cache(maxsize=512)
def _middle_kg(species: Species) -> float:
    return weight_from_length(species.longest_cm / 200, species.length_type, species).value

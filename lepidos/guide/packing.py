"""Bags and servings that a crew begins with."""

from functools import cache
from pathlib import Path
from typing import Literal

from pydantic import Field

from lepidos.core.fish.species import Known, Sourced
from lepidos.guide.reading import read


class UsualBag(Known):
    """A size of bag, flat [m]; length 0: a roll."""

    width_m: float = Field(ge=0.05, le=1.0)
    length_m: float = Field(ge=0.0, le=1.0)


class SealCheck(Known):
    """A sentence to read before the sealer, and when it matters."""

    when: Literal["tight", "bone_in", "soft", "wet", "thick", "several", "roll", "lone"]
    text: str


class PiecesInBags(Known):
    """Keys of pieces that need more care in a bag."""

    bone_in: frozenset[str]
    soft: frozenset[str]


class Packing(Sourced):
    """Sizes of bags, servings to choose from, and what to look at before the sealer."""

    bags: tuple[UsualBag, ...]
    servings_kg: tuple[float, ...]
    servings_oz: tuple[float, ...]
    per_bag: tuple[int, ...]
    advisory: tuple[str, ...]
    allergens: dict[str, str]
    pieces: PiecesInBags
    seal_checks: tuple[SealCheck, ...]


@cache
def usual_packing() -> Packing:
    """As the guide has it. Raises ValueError for a file that does not hold."""
    return Packing(**read(Path(__file__).with_name("packing.toml")))

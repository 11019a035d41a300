"""How bags freeze: what takes the heat off, and what a freezer takes a day."""

from functools import cache
from pathlib import Path
from typing import Literal

from pydantic import Field

from lepidos.core.fish.species import Known, Sourced
from lepidos.guide.reading import read


class Cooling(Known):
    """A way to take heat off a bag, with its heat transfer [W/(m² K)]."""

    name: str
    h: float = Field(ge=1, le=1000)


class Freezing(Sourced):
    """Temperatures [°C]: when a bag is hard, of fish that goes in, of a usual freezer."""

    hard_c: float
    start_c: float
    usual_c: float
    kg_per_litre_day: tuple[float, float]
    water: dict[Literal["lean", "medium", "fatty"], float]
    cooling: dict[str, Cooling]


@cache
def usual_freezing() -> Freezing:
    """As the guide has it. Raises ValueError for a file that does not hold."""
    return Freezing(**read(Path(__file__).with_name("freezing.toml")))

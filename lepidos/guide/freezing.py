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


class Pack(Known):
    """A way to close a bag; `keeps`: how long beside a vacuum sealed one."""

    name: str
    keeps: float = Field(gt=0, le=1)


class Thawing(Known):
    """A way to thaw: what is around the bag [°C], heat transfer [W/(m² K)]; 0: it is not thawed."""

    name: str
    celsius: float
    h: float = Field(ge=0, le=1000)
    say: str


class BinWhy(Known):
    """Why a bag is thrown away."""

    text: str


class Freezing(Sourced):
    """Temperatures [°C]: when a bag is hard, of fish that goes in, of a usual freezer."""

    hard_c: float
    start_c: float
    usual_c: float
    bare_keeps: float = Field(gt=0, le=1)
    old_from: float = Field(ge=0, le=1)
    old_loses: float = Field(ge=0, le=1)
    kg_per_litre_day: tuple[float, float]
    water: dict[Literal["lean", "medium", "fatty"], float]
    cooling: dict[str, Cooling]
    packs: dict[str, Pack]
    thawing: dict[str, Thawing]
    bin_why: tuple[BinWhy, ...]
    dishes: dict[str, tuple[str, ...]]
    kinds: dict[str, str]


class HoldRoute(Known):
    """A way to hold fish: see `core.freezer.raw_hold.Route`."""

    key: str
    hold_c: float
    hours: int = Field(gt=0)
    freeze_c: float | None = None


class HoldRule(Known):
    """Whose rule, in its words, kinds of fish that it exempts, and its routes."""

    name: str
    words: str
    exempt: tuple[str, ...]
    routes: tuple[HoldRoute, ...] = Field(min_length=1)


class Holds(Sourced):
    """Rules of raw fish; how thick a bag counts [m] that nobody knows."""

    unknown_thick_m: float = Field(gt=0, le=0.2)
    rules: dict[str, HoldRule]


@cache
def usual_freezing() -> Freezing:
    """As the guide has it. Raises ValueError for a file that does not hold."""
    return Freezing(**read(Path(__file__).with_name("freezing.toml")))


@cache
def raw_holds() -> Holds:
    """As the guide has them. Raises ValueError for a file that does not hold."""
    return Holds(**read(Path(__file__).with_name("holds.toml")))

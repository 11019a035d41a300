"""Zones of a side where meat stays on the bones or the skin, and what helps there."""

from functools import cache
from pathlib import Path

from lepidos.core.fish.species import Known, Point, Sourced
from lepidos.guide.reading import read


class KnifeZone(Known):
    """A zone: its outline in station coordinates, and the technique that keeps its meat."""

    key: str
    name: str
    outline: tuple[Point, ...]
    help: str


class KnifeZones(Sourced):
    """All zones; `without`: body plans that have none."""

    without: frozenset[str]
    zones: tuple[KnifeZone, ...]

    def one(self, key: str) -> KnifeZone | None:
        """A zone by its key."""
        return next((zone for zone in self.zones if zone.key == key), None)


@cache
def knife_zones() -> KnifeZones:
    """As the guide has them. Raises ValueError for a file that does not hold."""
    return KnifeZones(**read(Path(__file__).with_name("knife_zones.toml")))

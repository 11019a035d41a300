"""Zones of a fish coloured by how much meat was left there."""

from dataclasses import dataclass

from markupsafe import Markup

from lepidos.core.fish.species import Species
from lepidos.exchange import svg
from lepidos.guide.library import Guide
from lepidos.stations.yieldbook.millimetres import Millimetres, OfCutter
from lepidos.web.drawings.fish import drawn

DARKEST_MM = 4.0


@dataclass(frozen=True)
class GapDrawing:
    """A fish, and over it each zone: its path, how dark [0 to 1], its millimetres in words."""

    view_box: str
    fish: Markup
    zones: tuple[tuple[str, float, str], ...]


def gaps(guide: Guide, species: Species, view: Millimetres, cutter: OfCutter) -> GapDrawing:
    """The skin is left out: it lies over all others."""
    window, group = drawn(guide, species.key, False)
    body = guide.body_of(species)
    zones = []
    for gap in cutter.zones:
        if gap.zone == "skin":
            continue
        zone = view.zone(gap.zone)
        path = svg.path_of(body.path(zone.outline, closed=True), True)
        zones.append((path, min(1.0, gap.mm / DARKEST_MM), f"{zone.name}: {gap.mm:.1f} mm"))
    return GapDrawing(window.view_box, Markup(group), tuple(zones))  # noqa: S704 - our own

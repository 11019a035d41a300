"""A fillet with its marks and its thickness, to scale."""

from dataclasses import dataclass

from lepidos.core.pack.portions import mass_before
from lepidos.core.units import IN_M, System, format_length, format_mass
from lepidos.stations.pack.pack import PackView
from lepidos.web.drawings.fish import loop


@dataclass(frozen=True)
class FilletDrawing:
    """A fillet from above and from the side, in centimetres, with its marks.

    `shares`: how much of it lies before each hundredth of its length, for the page's script.
    """

    length_cm: float
    top: str
    side: str
    marks: tuple[tuple[float, str], ...]
    portions: tuple[tuple[float, str, str, bool, bool], ...]
    ticks: tuple[tuple[float, str], ...]
    height_cm: float
    side_y: float
    ruler_y: float
    thick: str
    thin: str
    shares: str


def fillet(pack: PackView, system: System) -> FilletDrawing | None:
    """The drawing of a fillet with its marks; None for a piece that is packed whole."""
    if pack.profile is None:
        return None
    cm = pack.plan.length_m * 100
    # width and thickness share one scale, that which the fillet's own weight gives them
    scale = pack.plan.thickest_m * 100 / max(pack.profile.thickness)
    thick = [t * scale for t in pack.profile.thickness]
    xs = [x * cm for x in pack.profile.x]
    start = min(x for x, _ in pack.outline)
    stretch = cm / (max(x for x, _ in pack.outline) - start)
    highest = max(y for _, y in pack.outline)
    top = [((x - start) * stretch, 2.2 + (highest - y) * scale) for x, y in pack.outline]
    side_y = max(y for _, y in top) + 1.2 + max(thick)
    side = [(x, side_y - t) for x, t in zip(xs, thick, strict=True)]
    portions = tuple(
        (
            (p.from_m + p.to_m) * 50,
            format_mass(p.kg, system),
            f"portion {p.index + 1}",
            p.tail,
            p.index in pack.in_bags,
        )
        for p in pack.plan.portions
    )
    step = 5 * IN_M * 100 / 2.5 if system == "imperial" else 5.0
    ticks = tuple(
        (k * step, f"{k * 2}" if system == "imperial" else f"{k * 5}")
        for k in range(int(cm / step) + 1)
    )
    ruler_y = side_y + 0.7
    return FilletDrawing(
        cm,
        loop(top),
        loop([*side, (cm, side_y), (0, side_y)]),
        tuple((m * 100, format_length(m, system)) for m in pack.plan.marks_m),
        portions,
        ticks,
        ruler_y + 2.2,
        side_y,
        ruler_y,
        format_length(pack.plan.thickest_m, system),
        format_length(pack.plan.thinnest_m, system),
        " ".join(f"{mass_before(pack.profile, k / 100):.5f}" for k in range(101)),
    )

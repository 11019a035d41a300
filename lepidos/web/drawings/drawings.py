"""View models of the drawings: the core's geometry placed on a page."""

import math
import time
from contextlib import suppress
from dataclasses import dataclass
from weakref import WeakKeyDictionary

from markupsafe import Markup, escape

from lepidos.core.cutting.plan import Slot
from lepidos.core.fish.anatomy import Body, zone_polygon
from lepidos.core.fish.bodyplan import Cut, Step
from lepidos.core.fish.section import section
from lepidos.core.fish.species import Species
from lepidos.core.units import IN_M, System, format_length, format_mass, from_c
from lepidos.exchange import qr, svg
from lepidos.guide.library import Guide
from lepidos.stations.cold.cold import Cold
from lepidos.stations.guide.planner import Planned
from lepidos.stations.pack.pack import PackView
from lepidos.stations.table.fish_view import TableView
from lepidos.stations.yieldbook.yieldbook import BookRow

# A species' drawing never changes while the app runs, and costs some milliseconds.
_DRAWN: WeakKeyDictionary[Body, dict[bool, tuple[svg.Frame, str]]] = WeakKeyDictionary()


def fish_svg(guide: Guide, species: Species, detail: bool = True) -> Markup:
    """A fish on its own, as wide as its box."""
    window, group = _drawn(guide, species.key, detail)
    return Markup(  # noqa: S704 - made of numbers and class names only
        f'<svg class="fish" viewBox="{window.view_box}" role="img" '
        f'aria-label="{escape(species.name)}">{group}</svg>'
    )


def window(guide: Guide, key: str) -> svg.Frame:
    """The window of a species' drawing, in drawing units."""
    return _drawn(guide, key, True)[0]


def symbols(guide: Guide, keys: set[str]) -> Markup:
    """Each species once, for `<use>`: a slab of sixty fish stays small."""
    parts = []
    for key in sorted(keys):
        parts.append(f'<g id="fish-{key}">{_drawn(guide, key, True)[1]}</g>')
    inside = f"<defs>{''.join(parts)}</defs>"
    return Markup(f'<svg class="visually-hidden" aria-hidden="true">{inside}</svg>')  # noqa: S704


def draw_ahead(guide: Guide) -> None:
    """Draw every species while nobody waits, so that the guide's first page opens at once."""
    time.sleep(3.0)  # whoever started the app gets the first seconds
    for key in tuple(guide.species):
        with suppress(KeyError):  # a species of the user's own may have gone meanwhile
            _drawn(guide, key, True)
        time.sleep(0.05)  # leaves the interpreter to whoever asks for a page


def view_boxes(guide: Guide, keys: set[str]) -> dict[str, str]:
    """The window of each species' drawing, for a picture of its own around a `<use>`."""
    return {key: _drawn(guide, key, True)[0].view_box for key in keys}


@dataclass(frozen=True)
class BenchZone:
    """A zone of the drawing: its path, what a touch weighs, what to say, how it stands."""

    piece: str
    slot: str
    path: str
    name: str
    weight: str
    x: float
    y: float
    state: str


@dataclass(frozen=True)
class BenchDrawing:
    """The fish at the bench with zones, bones and the present cut."""

    view_box: str
    flip: str
    fish: Markup
    bones: Markup
    zones: tuple[BenchZone, ...]
    cut: str
    cut_key: str


def bench(guide: Guide, table: TableView, system: System, side: str) -> BenchDrawing:
    """The drawing of one fish at the bench, with the zones of this side's pieces."""
    species, body, plan = table.species, guide.body_of(table.species), guide.plan_of(table.species)
    zones = []
    for planned in table.plan.pieces:
        if not planned.zone:
            continue
        zone = plan.zone(planned.zone)
        sided = guide.piece(zone.piece).sided
        kg = table.kg_of(zone.piece, side if sided else "")
        due = table.next and table.next.piece == zone.piece and table.next.side in {"", side}
        x, y = svg.place(body, zone.caption)
        zones.append(
            BenchZone(
                zone.piece,
                Slot(zone.piece, side if sided else "").key,
                svg.path_of(zone_polygon(body, plan, zone.key), True),
                zone.name,
                format_mass(kg, system) if kg else "",
                svg.UNIT - x if species.shape.faces == "right" else x,
                y,
                "done" if kg else "due" if due and not table.closed else "open",
            )
        )
    key = table.present.cut if table.present else ""
    cut = next((c for c in plan.cuts if c.key == key), None)
    window, fish = _drawn(guide, species.key, True)
    return BenchDrawing(
        window.view_box,
        svg.flip(species),
        Markup(fish),  # noqa: S704
        Markup(svg.bones(body, plan)),  # noqa: S704
        tuple(zones),
        _cut_path(guide, species, cut) if cut else "",
        key,
    )


@dataclass(frozen=True)
class PlanDrawing:
    """A fish with the zones of its pieces, one step's cut, and where its section is taken."""

    view_box: str
    flip: str
    fish: Markup
    bones: Markup
    zones: tuple[tuple[str, str, bool], ...]
    captions: tuple[tuple[str, float, float], ...]
    cut: str
    at: str


def plan_drawing(guide: Guide, planned: Planned, step: Step | None, station: float) -> PlanDrawing:
    """The drawing of a plan: the step's zone strong, its cut as the blade's path."""
    species = planned.species
    body, plan = guide.body_of(species), guide.plan_of(species)
    zones, captions = [], []
    for piece in planned.cut.pieces:
        if not piece.zone:
            continue
        zone = plan.zone(piece.zone)
        strong = step is not None and step.zone == zone.key
        zones.append((zone.piece, svg.path_of(zone_polygon(body, plan, zone.key), True), strong))
        x, y = svg.place(body, zone.caption)
        captions.append((zone.name, svg.UNIT - x if species.shape.faces == "right" else x, y))
    cut = next((c for c in plan.cuts if step is not None and c.key == step.cut), None)
    frame, fish = _drawn(guide, species.key, True)
    return PlanDrawing(
        frame.view_box,
        svg.flip(species),
        Markup(fish),  # noqa: S704
        Markup(svg.bones(body, plan)),  # noqa: S704
        tuple(zones),
        tuple(captions),
        _cut_path(guide, species, cut) if cut else "",
        svg.path_of([body.point(station, 1.0), body.point(station, -1.0)]),
    )


def step_drawing(guide: Guide, species: Species, step: Step) -> PlanDrawing:
    """One step alone on a fish: its zone, and its cut as the blade's path."""
    body, plan = guide.body_of(species), guide.plan_of(species)
    zone = next((z for z in plan.zones if z.key == step.zone), None)
    cut = next((c for c in plan.cuts if c.key == step.cut), None)
    frame, fish = _drawn(guide, species.key, False)
    return PlanDrawing(
        frame.view_box,
        svg.flip(species),
        Markup(fish),  # noqa: S704
        Markup(svg.bones(body, plan)),  # noqa: S704
        ((zone.piece, svg.path_of(zone_polygon(body, plan, zone.key), True), True),)
        if zone
        else (),
        (),
        _cut_path(guide, species, cut) if cut else "",
        "",
    )


def section_svg(guide: Guide, species: Species, station: float) -> Markup:
    """The section of a fish, a millimetre of drawing to a thousandth of its length."""
    found = section(guide.body_of(species), guide.plan_of(species), station)
    half, tall = found.width / 2 * 1.14 * svg.UNIT, found.depth / 2 * 1.06 * svg.UNIT
    parts = [
        f'<path class="skin skin-{species.shape.skin}" d="{svg.path_of(found.outline, True)}"/>'
    ]
    if found.cavity:
        parts.append(f'<path class="cavity" d="{svg.path_of(found.cavity, True)}"/>')
    parts += [f'<path class="rib" d="{svg.path_of(bone)}"/>' for bone in found.bones]
    if found.pin_bones:
        parts.append(f'<path class="pins" d="{svg.path_of(found.pin_bones)}"/>')
    x, y = found.spine
    parts.append(
        f'<circle class="vertebra" cx="{x * svg.UNIT:.1f}" cy="{-y * svg.UNIT:.1f}" '
        f'r="{found.spine_radius * svg.UNIT:.1f}"/>'
        f'<path class="cut-edge" d="{svg.path_of(found.blade)}"/>'
        f'<path class="cut" d="{svg.path_of(found.blade)}"/>'
    )
    box = f"{-half:.1f} {-tall:.1f} {2 * half:.1f} {2 * tall:.1f}"
    label = f"Section of {escape(species.name)}: bones, and the blade's way down one side"
    return Markup(  # noqa: S704 - made of numbers and class names only
        f'<svg class="section" viewBox="{box}" role="img" aria-label="{label}">'
        f"{''.join(parts)}</svg>"
    )


@dataclass(frozen=True)
class StripPart:
    """A stretch of the strip "where this fish went", as parts of the round weight."""

    name: str
    weight: str
    start: float
    width: float
    kind: str


@dataclass(frozen=True)
class Strip:
    """The mass balance as a strip, with the stretch that fillets usually take."""

    parts: tuple[StripPart, ...]
    usual: tuple[float, float]


_ORDER = ["fillet", "extra", "rest"]


def strip(guide: Guide, table: TableView, system: System) -> Strip:
    """Fillets first, so that the bracket of what is usual can be read against them."""
    by_piece: dict[str, float] = {}
    for part in table.balance.parts:
        by_piece[part.slot.piece] = by_piece.get(part.slot.piece, 0.0) + part.kg
    keys = sorted(by_piece, key=lambda k: _ORDER.index(guide.piece(k).counts_as))
    whole = max(table.balance.round_kg, table.balance.weighed_kg)
    parts, at = [], 0.0
    for key in keys:
        width = by_piece[key] / whole
        piece = guide.piece(key)
        name = piece.plural if piece.sided else piece.name
        parts.append(
            StripPart(name, format_mass(by_piece[key], system), at, width, piece.counts_as)
        )
        at += width
    if table.balance.rest_kg > 0:
        name = "unaccounted for" if table.closed else "still on the fish"
        rest = format_mass(table.balance.rest_kg, system)
        parts.append(StripPart(name, rest, at, 1 - at, "open"))
    usual = table.fillet_now if table.fillet_now and not table.closed else table.expected_fillet
    return Strip(tuple(parts), (usual.low / whole, min(1.0, usual.high / whole)))


@dataclass(frozen=True)
class FilletDrawing:
    """A fillet from above and from the side, in centimetres, with its marks."""

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
    sealed = {p.index for b in pack.bags if b.index in pack.sealed for p in b.portions}
    portions = tuple(
        (
            (p.from_m + p.to_m) * 50,
            format_mass(p.kg, system),
            next(f"bag {b.index + 1}" for b in pack.bags if p in b.portions),
            p.tail,
            p.index in sealed,
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
        _loop(top),
        _loop([*side, (cm, side_y), (0, side_y)]),
        tuple((m * 100, format_length(m, system)) for m in pack.plan.marks_m),
        portions,
        ticks,
        ruler_y + 2.2,
        side_y,
        ruler_y,
        format_length(pack.plan.thickest_m, system),
        format_length(pack.plan.thinnest_m, system),
    )


@dataclass(frozen=True)
class ColdChart:
    """The core's temperature from landing to now, in a picture of 720 by 190.

    `readings` are the probe's, with whether to doubt them.
    """

    line: str
    band: str
    x_marks: tuple[tuple[float, str], ...]
    y_marks: tuple[tuple[float, str], ...]
    y_unit: str
    readings: tuple[tuple[float, float, bool], ...]


def cold_chart(cold: Cold, system: System) -> ColdChart:
    """Curve, interval and axes; hours across, degrees up."""
    last = max(cold.hours[-1], 0.1)
    probed = [r.celsius for r in cold.readings]
    top = max(5.0, math.ceil(max([*cold.high_curve_c, *probed]) / 5) * 5.0)
    bottom = min(0.0, 5.0 * math.floor(min([*cold.low_curve_c, *probed]) / 5 + 0.6))

    def at(hour: float, celsius: float) -> tuple[float, float]:
        return 46 + hour / last * 660, 12 + (top - celsius) / (top - bottom) * 140

    line = [at(*p) for p in zip(cold.hours, cold.curve_c, strict=True)]
    upper = [at(*p) for p in zip(cold.hours, cold.high_curve_c, strict=True)]
    lower = [at(*p) for p in zip(cold.hours, cold.low_curve_c, strict=True)]
    step = next(s for s in (0.25, 0.5, 1, 2, 4, 8, 12, 24, 48, 96) if last / s <= 8)
    degrees = range(int(bottom), int(top) + 1, 5)
    shown = [round(from_c(d, "f")) if system == "imperial" else d for d in degrees]
    return ColdChart(
        "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in line),
        _loop(upper + lower[::-1]),
        tuple((at(k * step, 0)[0], f"{k * step:g}") for k in range(int(last / step) + 1)),
        tuple((at(0, d)[1], str(text)) for d, text in zip(degrees, shown, strict=True)),
        "°F" if system == "imperial" else "°C",
        tuple((*at(r.seconds / 3600, r.celsius), r in cold.doubtful) for r in cold.readings),
    )


def label_qr(text: str) -> Markup:
    """A label's QR code with its quiet zone."""
    rows = qr.matrix(text)
    size = len(rows) + 8
    return Markup(  # noqa: S704 - made of numbers only
        f'<svg viewBox="-4 -4 {size} {size}" role="img" aria-label="QR code">'
        f'<path d="{svg.qr_path(rows)}"/></svg>'
    )


@dataclass(frozen=True)
class YieldDot:
    """A fish's fillet yield on the chart (0 to 100), against its usual stretch."""

    code: str
    y: float
    value: float
    low: float
    high: float
    measured: bool


def yield_dots(rows: tuple[BookRow, ...]) -> tuple[YieldDot, ...]:
    """One line a finished fish that gave fillets."""
    figures = [(row, row.fillet_yield) for row in rows if row.closed and row.fillet_yield]
    return tuple(
        YieldDot(
            row.fish.code,
            26 + index * 22,
            figure.fraction * 100,
            row.expected[0] * 100,
            row.expected[1] * 100,
            figure.measured,
        )
        for index, (row, figure) in enumerate(figures)
    )


def _cut_path(guide: Guide, species: Species, cut: Cut) -> str:
    return svg.path_of(guide.body_of(species).path(cut.path))


def _loop(points: list[tuple[float, float]]) -> str:
    return "M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in points) + "Z"


def _drawn(guide: Guide, key: str, detail: bool) -> tuple[svg.Frame, str]:
    """Window and group of a species."""
    species = guide.species[key]
    body = guide.body_of(species)
    kept = _DRAWN.setdefault(body, {})
    if detail not in kept:
        group = svg.fish_group(species, body, detail)
        kept[detail] = (svg.frame(body), f'<g transform="{svg.flip(species)}">{group}</g>')
    return kept[detail]

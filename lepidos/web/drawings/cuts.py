"""A fish with its pieces and cuts: at the bench, in a plan, in a section."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from markupsafe import Markup, escape

from lepidos.core.cutting.model import Slot
from lepidos.core.fish.anatomy import zone_polygon
from lepidos.core.fish.blade import blade_paths
from lepidos.core.fish.bodyplan import BodyPlan, Step
from lepidos.core.fish.growth import body_at
from lepidos.core.fish.section import section
from lepidos.core.fish.species import Point, Species
from lepidos.core.units import System, format_mass
from lepidos.exchange import svg
from lepidos.guide.library import Guide
from lepidos.stations.guide.planner import Planned
from lepidos.stations.table.fish_view import TableView
from lepidos.web.drawings.fish import cut_path, drawn

NEAR_MARGIN = 40  # drawing units about what is shown near
MIN_NEAR = 300  # drawing units across, at least


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
class SpotMark:
    """A ring where something was cut out of the side shown; its number is that in the list."""

    number: int
    x: float
    y: float


@dataclass(frozen=True)
class BenchDrawing:
    """The fish at the bench with zones, bones, the present cut, and what was cut out.

    `view_box` shows all of it, `near` where the present step is. `flip` turns what is drawn in the
    fish's own geometry, `turn` all of it for a left hand; a place is `flipped` when one of the two
    applies.
    """

    view_box: str
    near: str
    turn: str
    flip: str
    flipped: bool
    fish: Markup
    bones: Markup
    zones: tuple[BenchZone, ...]
    cut: str
    spots: tuple[SpotMark, ...]


def bench(guide: Guide, table: TableView, system: System, side: str) -> BenchDrawing:
    """The drawing of one fish at the bench, with the zones of this side's pieces.

    It is dead by then, and a flatfish is turned over for its blind side.
    """
    species, body, plan = table.species, guide.body_of(table.species), guide.plan_of(table.species)
    left_handed = table.board is not None and table.board.board.hand == "left"
    look: svg.Look = "blind" if side == "B" and plan.lies_flat else "dead"
    flipped = svg.is_turned(species, look) != left_handed
    zones = []
    for planned in table.plan.pieces:
        if not planned.zone:
            continue
        zone = plan.zone(planned.zone)
        sided = guide.piece(zone.piece).sided
        rows = table.weighed(zone.piece, side if sided else "")
        kg = sum(row.kg for row in rows)
        about = "≈ " if any(row.low_kg is not None for row in rows) else ""
        due = table.next and table.next.piece == zone.piece and table.next.side in {"", side}
        x, y = svg.place(body, zone.caption)
        zones.append(
            BenchZone(
                zone.piece,
                Slot(zone.piece, side if sided else "").key,
                svg.path_of(zone_polygon(body, plan, zone.key), True),
                zone.name,
                f"{about}{format_mass(kg, system)}" if kg else "",
                svg.UNIT - x if flipped else x,
                y,
                "done" if kg else "due" if due and not table.closed else "open",
            )
        )
    spots = _spots(table, zones, side, flipped)
    window, (_, fish) = svg.frame(body, flipped), drawn(guide, species.key, True, look)
    bones = svg.bones(body, plan)
    if "headed" in table.now.facts.split():
        fish = svg.without_head(fish, body, svg.is_turned(species, look), "no-head")
        bones = svg.without_head(bones, body, False, "no-head-bones")
    return BenchDrawing(
        window.view_box,
        _near(guide, table, window, flipped),
        svg.TURNED if left_handed else "",
        svg.flip(species, look),
        flipped,
        Markup(fish),  # noqa: S704
        Markup(bones),  # noqa: S704
        tuple(zones),
        cut_path(guide, species, table.present),
        spots,
    )


def _near(guide: Guide, table: TableView, window: svg.Frame, flipped: bool) -> str:
    """The window on the present step's cut and zone, or on the piece that is due; else all."""
    body, plan = guide.body_of(table.species), guide.plan_of(table.species)
    step, due = table.present, table.next
    found: list[Point] = []
    if step:
        for path in blade_paths(body, table.species, plan, step):
            found += path
    zones = {z.key for z in plan.zones if due and z.piece == due.piece and not (step and step.zone)}
    if step and step.zone:
        zones.add(step.zone)
    for zone in plan.zones:
        if zone.key in zones:
            found += zone_polygon(body, plan, zone.key)
    # spines are counted by their tips, which stand far from the cut at their feet
    if not found or table.closed or (step and step.disarms):
        return window.view_box
    xs = [svg.UNIT * (1 - x if flipped else x) for x, _ in found]
    ys = [-svg.UNIT * y for _, y in found]
    left, right = min(xs) - NEAR_MARGIN, max(xs) + NEAR_MARGIN
    top, bottom = min(ys) - NEAR_MARGIN, max(ys) + NEAR_MARGIN
    # a cheek alone would fill the screen and say nothing of where it is
    wider = max(0.0, MIN_NEAR - (right - left)) / 2
    return svg.Frame(left - wider, top, right - left + 2 * wider, bottom - top).view_box


def _spots(
    table: TableView, zones: list[BenchZone], side: str, flipped: bool
) -> tuple[SpotMark, ...]:
    """The rings of a side; one that was not touched on the drawing stands by its piece's name."""
    found = []
    for number, seen in enumerate(table.seen, 1):
        row = seen.row
        if not row.piece or row.side not in {"", side}:
            continue
        if row.x is not None and row.y is not None:
            x, y = row.x * svg.UNIT, -row.y * svg.UNIT
            found.append(SpotMark(number, svg.UNIT - x if flipped else x, y))
        else:
            found += [SpotMark(number, z.x, z.y - 40) for z in zones if z.piece == row.piece]
    return tuple(found)


@dataclass(frozen=True)
class PlanDrawing:
    """A fish with the zones of its pieces, one step's cut, and where its section is taken.

    `cuts` are those of every step that is done on this side: the step's key, the blade's path, the
    step's title.
    """

    view_box: str
    flip: str
    fish: Markup
    bones: Markup
    zones: tuple[tuple[str, str, bool], ...]
    captions: tuple[tuple[str, float, float], ...]
    cut: str
    at: str
    cuts: tuple[tuple[str, str, str], ...] = ()


def plan_drawings(
    guide: Guide, planned: Planned, step: Step | None, station: float, dead: bool
) -> list[PlanDrawing]:
    """The drawing of a plan; of a flatfish first its eyed side, then its blind one."""
    looks: list[svg.Look] = ["dead" if dead else "alive"]
    if guide.plan_of(planned.species).lies_flat:
        looks.append("blind")
    return [_plan_drawing(guide, planned, step, station, look) for look in looks]


def _plan_drawing(
    guide: Guide, planned: Planned, step: Step | None, station: float, look: svg.Look
) -> PlanDrawing:
    """The step's zone strong, its cut as the blade's path."""
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
        captions.append((zone.name, svg.UNIT - x if svg.is_turned(species, look) else x, y))
    frame, fish = drawn(guide, species.key, True, look)
    bones = svg.bones(body, plan)
    if "headed" in planned.fish.facts:
        fish = svg.without_head(fish, body, svg.is_turned(species, look), f"no-head-{look}")
        bones = svg.without_head(bones, body, False, f"no-head-bones-{look}")
    return PlanDrawing(
        frame.view_box,
        svg.flip(species, look),
        Markup(fish),  # noqa: S704
        Markup(bones),  # noqa: S704
        tuple(zones),
        tuple(captions),
        cut_path(guide, species, step),
        svg.path_of([body.point(station, 1.0), body.point(station, -1.0)]),
        tuple(_cuts_on(guide, planned, look)),
    )


def _cuts_on(guide: Guide, planned: Planned, look: svg.Look) -> Iterator[tuple[str, str, str]]:
    """Of each step with a cut on the side that is drawn: its key, the blade's path, its title."""
    plan = guide.plan_of(planned.species)
    for step in planned.cut.steps:
        path = cut_path(guide, planned.species, step)
        if path and is_blind(plan, step) == (look == "blind"):
            yield step.key, path, step.title


def is_blind(plan: BodyPlan, step: Step | None) -> bool:
    """Whether a step is done on a flatfish's blind side."""
    return plan.lies_flat and step is not None and step.side == "B"


def step_drawing(guide: Guide, species: Species, step: Step) -> PlanDrawing:
    """One step alone on a fish: its zone, and its cut as the blade's path."""
    body, plan = guide.body_of(species), guide.plan_of(species)
    zone = next((z for z in plan.zones if z.key == step.zone), None)
    look: svg.Look = "blind" if is_blind(plan, step) else "alive"
    frame, fish = drawn(guide, species.key, False, look)
    return PlanDrawing(
        frame.view_box,
        svg.flip(species, look),
        Markup(fish),  # noqa: S704
        Markup(svg.bones(body, plan)),  # noqa: S704
        ((zone.piece, svg.path_of(zone_polygon(body, plan, zone.key), True), True),)
        if zone
        else (),
        (),
        cut_path(guide, species, step),
        "",
    )


def section_svg(
    guide: Guide, species: Species, station: float, length_m: float, kg: float | None
) -> Markup:
    """The section of a fish, a millimetre of drawing to a thousandth of its length [m, total].

    `kg` is the fish's round weight where it is known.
    """
    body = body_at(guide.body_of(species), species, length_m, kg)
    found = section(body, guide.plan_of(species), station)
    half, tall = found.width / 2 * 1.14 * svg.UNIT, found.depth / 2 * 1.06 * svg.UNIT
    if found.lies_flat:
        half, tall = tall, half * 1.3

    def path(points: Sequence[Point], closed: bool = False) -> str:
        # a flatfish lies on the board as it is worked, its upper side up
        turned = [(-y, x) for x, y in points] if found.lies_flat else points
        text = "L".join(f"{x * svg.UNIT:.1f} {-y * svg.UNIT:.1f}" for x, y in turned)
        return f"M{text}{'Z' if closed else ''}"

    shapes = [
        (f"skin skin-{species.shape.skin}", found.outline, True),
        *(("red", wedge, True) for wedge in found.red),
        ("cavity", found.cavity, True), ("skull", found.skull, True),
        *(("rib", bone, False) for bone in found.bones),
        ("pins", found.pin_bones, False),
        ("cut-edge", found.blade, False), ("cut", found.blade, False),
    ]  # fmt: skip
    parts = [f'<path class="{name}" d="{path(d, closed)}"/>' for name, d, closed in shapes if d]
    if found.spine_radius and not found.skull:
        x, y = (-found.spine[1], found.spine[0]) if found.lies_flat else found.spine
        radius = min(found.spine_radius, found.width / 3) * svg.UNIT
        spine = f'cx="{x * svg.UNIT:.1f}" cy="{-y * svg.UNIT:.1f}" r="{radius:.1f}"'
        # under the blade, whose two paths come last
        parts.insert(-2 if found.blade else len(parts), f'<circle class="vertebra" {spine}/>')
    box = f"{-half:.1f} {-tall:.1f} {2 * half:.1f} {2 * tall:.1f}"
    label = f"Section of {escape(species.name)}: bones, and the blade's way down one side"
    return Markup(  # noqa: S704 - made of numbers and class names only
        f'<svg class="section" viewBox="{box}" role="img" aria-label="{label}">'
        f"{''.join(parts)}</svg>"
    )

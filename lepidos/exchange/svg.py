"""Fish as SVG, from the core's geometry. Colours are classes, so that a theme can choose them."""

import itertools
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from lepidos.core.fish.anatomy import Body
from lepidos.core.fish.bodyplan import BodyPlan
from lepidos.core.fish.fins import FinDrawing, fin_drawing, tail_drawing
from lepidos.core.fish.species import Fin, Mark, Point, Shape, Species

UNIT = 1000  # drawing units per total length
MARGIN = 12
TURNED = f"translate({UNIT} 0) scale(-1 1)"  # the other way round, in its own window
# as it is landed, some hours later, and a flatfish turned over
Look = Literal["alive", "dead", "blind"]


@dataclass(frozen=True)
class Frame:
    """The picture's window in drawing units: a fish from snout to tail tip with its fins."""

    left: float
    top: float
    width: float
    height: float

    @property
    def view_box(self) -> str:
        """The `viewBox` attribute."""
        return f"{self.left:.0f} {self.top:.0f} {self.width:.0f} {self.height:.0f}"


def frame(body: Body, turned: bool = False) -> Frame:
    """The window that holds the whole fish, fins and spread included; `turned`: as by `flip`."""
    xs, ys = [0.0, 1.0], []
    for fin in [*(fin_drawing(body, f) for f in body.shape.fins), tail_drawing(body)]:
        xs += [p[0] for p in fin.outline]
        ys += [p[1] for p in fin.outline]
    for part in (body.outline(), *(_stations(body, p) for p in (body.shape.pelvic,) if p)):
        ys += [p[1] for p in part]
    left, right = min(xs) * UNIT - MARGIN, max(xs) * UNIT + MARGIN
    if turned:
        left, right = UNIT - right, UNIT - left
    top, bottom = -max(ys) * UNIT - MARGIN, -min(ys) * UNIT + MARGIN
    return Frame(left, top, right - left, bottom - top)


def is_turned(species: Species, look: Look = "alive") -> bool:
    """Whether it faces right, back upwards; a flatfish's blind side the other way than the eyed."""
    return (species.shape.faces == "right") != (look == "blind")


def flip(species: Species, look: Look = "alive") -> str:
    """The transform that turns a right-facing fish round."""
    return TURNED if is_turned(species, look) else ""


def fish_group(species: Species, body: Body, detail: bool = True, look: Look = "alive") -> str:
    """The fish itself as an SVG group: fins, body, marks, eye, gill cover, lateral line."""
    shape = species.shape
    parts: list[str] = []
    fins = [
        fin_drawing(body, fin, 11) if detail else fin_drawing(body, _uncounted(fin), 6)
        for fin in shape.fins
    ]
    parts += [_fin(f) for f in [*fins, tail_drawing(body)]]
    if shape.pelvic:
        parts.append(f'<path class="fin" d="{_d(_stations(body, shape.pelvic), True)}"/>')
    parts.append(f'<path class="{_skin(shape, look)}" d="{_d(body.outline(), True)}"/>')
    if len(shape.eyes) == 1:  # a flatfish lies on its side: no darker back
        parts.append(f'<path class="back" d="{_d(_back_shade(body), True)}"/>')
    if detail:
        parts += _marks(body, look)
        line = body.path(shape.lateral_line)
        parts.append(f'<path class="lateral" d="{_d(line)}"/>')
    gill = [(0.93, 0.62), (1.0, 0.1), (0.98, -0.3), (0.86, -0.8)]
    parts.append(f'<path class="gill" d="{_smooth(body.path(gill))}"/>')
    parts.append(f'<path class="mouth" d="{_smooth(body.path(shape.mouth))}"/>')
    for line in shape.barbels:
        parts.append(f'<path class="mouth" d="{_smooth(_stations(body, line))}"/>')
    if shape.barbel and not shape.barbels:
        x, y = body.point(0.3, -1.0)
        parts.append(f'<path class="mouth" d="{_d([(x, y), (x + 0.004, y - 0.026)])}"/>')
    parts.append(
        f'<path class="fin pectoral" d="{_smooth(_stations(body, shape.pectoral), True)}"/>'
    )
    for x, y, r in shape.eyes if look != "blind" else ():
        cx, cy, radius = x * UNIT, -y * UNIT, r * UNIT
        parts.append(f'<circle class="eye-ring" cx="{cx:.0f}" cy="{cy:.0f}" r="{radius:.1f}"/>')
        parts.append(f'<circle class="eye" cx="{cx:.0f}" cy="{cy:.0f}" r="{radius * 0.55:.1f}"/>')
    if detail and species.counted:
        parts += [_sting(at) for at in _stings(species.counted.stings, body, fins)]
    return "".join(parts)


def _stings(where: Sequence[str], body: Body, fins: Sequence[FinDrawing]) -> Iterator[Point]:
    """The tips of the spines that sting, as many as are seen from this side."""
    shape = body.shape
    for fin in fins:
        if fin.name in where:
            yield from (tip for _, tip in fin.spines)
    others: dict[str, Point | None] = {
        "pectoral": max(shape.pectoral, key=lambda p: p[0]),
        "pelvic": min(shape.pelvic, key=lambda p: p[1]) if shape.pelvic else None,
        "gill cover": (1.02, 0.45),
        "tail": (2.6, 0.0),
    }
    yield from (body.point(*at) for name, at in others.items() if at and name in where)


def _sting(at: Point) -> str:
    """A ring round the tip of a spine that stings: a shape, for whoever sees no colour."""
    return f'<circle class="sting" cx="{at[0] * UNIT:.0f}" cy="{-at[1] * UNIT:.0f}" r="9"/>'


def path_of(points: Sequence[Point], closed: bool = False) -> str:
    """The `d` attribute of a line in total lengths."""
    return _d(points, closed)


def place(body: Body, stations: Point) -> tuple[float, float]:
    """Station coordinates in drawing units, for a caption."""
    x, y = body.point(*stations)
    return x * UNIT, -y * UNIT


def without_head(drawn: str, body: Body, turned: bool, name: str) -> str:
    """What is drawn of a fish, from the edge of the gill cover on: so it lies without its head.

    `turned`: it is drawn facing right; `name` is the clip's own on the page.
    """
    edge = body.point(1.0, 0.0)[0] * UNIT
    left, right = (-UNIT, UNIT - edge) if turned else (edge, 2 * UNIT)
    top, end = body.point(1.0, 1.0), body.point(1.0, -1.0)
    x = UNIT - edge if turned else edge
    cut = f'<path class="gill" d="M{x:.0f} {-top[1] * UNIT:.0f}L{x:.0f} {-end[1] * UNIT:.0f}"/>'
    return (
        f'<clipPath id="{name}"><rect x="{left:.0f}" y="{-UNIT}" width="{right - left:.0f}" '
        f'height="{2 * UNIT}"/></clipPath><g clip-path="url(#{name})">{drawn}</g>{cut}'
    )


def bones(body: Body, plan: BodyPlan) -> str:
    """Backbone and pin bones, as lines."""
    spine = f'<path class="spine" d="{_d(body.path(plan.backbone))}"/>'
    pins = f'<path class="pins" d="{_d(body.path(plan.pin_bones))}"/>' if plan.pin_bones else ""
    return spine + pins


def _stations(body: Body, points: Iterable[Point]) -> list[Point]:
    return [body.point(s, v) for s, v in points]


def _back_shade(body: Body) -> list[Point]:
    upper = body.path([(0.02, 0.99), (1, 0.99), (2, 0.99), (3, 0.97)])
    lower = body.path([(3, 0.25), (2, 0.42), (1, 0.45), (0.02, 0.3)])
    return [*upper, *lower]


def _uncounted(fin: Fin) -> Fin:
    """For a small drawing, in which nobody counts."""
    return fin.model_copy(update={"spines": 0, "spiny": fin.spiny or fin.spines > 3})


def _fin(fin: FinDrawing) -> str:
    lines = (("spiny", fin.spines), ("soft", fin.rays))
    drawn = (
        f'<path class="rays {kind}" d="{" ".join(_d(ray) for ray in rays)}"/>'
        for kind, rays in lines
        if rays
    )
    return f'<path class="fin" d="{_d(fin.outline, True)}"/>{"".join(drawn)}'


def _skin(shape: Shape, look: Look) -> str:
    """The classes of the body's colour; nothing but white below a flatfish."""
    if look == "blind":
        return "skin skin-white"
    if look == "alive":
        return f"skin skin-{shape.skin}"
    return f"skin skin-{shape.skin_dead}" if shape.skin_dead else f"skin skin-{shape.skin} pale"


def _is_seen(mark: Mark, look: Look) -> bool:
    if look == "blind":
        return False
    return mark.dead != ("shows" if look == "alive" else "goes")


def _marks(body: Body, fish_look: Look) -> list[str]:
    drawn = []
    for mark in body.shape.marks:
        if not _is_seen(mark, fish_look):
            continue
        paler = " pale" if fish_look == "dead" and mark.dead == "pales" else ""
        if mark.kind == "line":
            drawn.append(
                f'<path class="mark-line mark-{mark.colour}-line{paler}" '
                f'd="{_smooth(_stations(body, mark.at))}" '
                f'stroke-width="{mark.size * UNIT:.0f}"/>'
            )
            continue
        for s, v in mark.at:
            x, y = body.point(s, v)
            cx, cy, r = x * UNIT, -y * UNIT, mark.size * UNIT
            look = f'class="mark mark-{mark.colour}{paler}"'
            if mark.kind == "bars":
                top, low = body.point(s, 0.94), body.point(s + 0.02, -v)
                drawn.append(
                    f'<path {look} d="M{top[0] * UNIT - r:.0f} {-top[1] * UNIT:.0f}'
                    f"h{2 * r:.0f}L{low[0] * UNIT + r * 0.3:.0f} {-low[1] * UNIT:.0f}"
                    f'h{-0.6 * r:.0f}Z"/>'
                )
            elif mark.kind == "waves":
                drawn.append(
                    f'<path class="mark-line wave mark-{mark.colour}-line{paler}" '
                    f'd="M{cx - r * 0.6:.0f} {cy - r:.0f}q{r:.0f} {r * 0.6:.0f} {r * 0.3:.0f} '
                    f'{r:.0f}t{r * 0.4:.0f} {r:.0f}"/>'
                )
            else:
                drawn.append(f'<circle {look} cx="{cx:.0f}" cy="{cy:.0f}" r="{r:.1f}"/>')
    return drawn


def _d(points: Sequence[Point], closed: bool = False) -> str:
    text = "L".join(f"{x * UNIT:.0f} {-y * UNIT:.0f}" for x, y in points)
    return f"M{text}{'Z' if closed else ''}"


def _smooth(points: Sequence[Point], closed: bool = False) -> str:
    """A soft line: quadratic curves through the middles of the segments."""
    ring = [(x * UNIT, -y * UNIT) for x, y in points]
    if closed:
        ring = [*ring, ring[0], ring[1]]
    middles = [((a[0] + b[0]) / 2, (a[1] + b[1]) / 2) for a, b in itertools.pairwise(ring)]
    start = middles[0] if closed else ring[0]
    text = f"M{start[0]:.0f} {start[1]:.0f}"
    for knot, middle in zip(ring[1:-1], middles[1:], strict=False):
        text += f"Q{knot[0]:.0f} {knot[1]:.0f} {middle[0]:.0f} {middle[1]:.0f}"
    if not closed:
        text += f"L{ring[-1][0]:.0f} {ring[-1][1]:.0f}"
    return text + ("Z" if closed else "")


def qr_path(rows: Sequence[Sequence[bool]]) -> str:
    """Dark modules of a QR code as one path, a module being one unit."""
    return "".join(
        f"M{x} {y}h1v1h-1z" for y, row in enumerate(rows) for x, dark in enumerate(row) if dark
    )

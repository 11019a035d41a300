"""A cut across the fish: its section at any point, the bones in it, and the blade's way over them.

In total lengths, the middle of the body at 0, back upwards. The section is an ellipse (see
`anatomy`); where ribs and gut lie is anatomy in outline, common practice, no source.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from lepidos.core.errors import require
from lepidos.core.fish.anatomy import Body, Polygon
from lepidos.core.fish.bodyplan import BodyPlan, Inside
from lepidos.core.fish.species import Point

RIB_IN = 0.7  # ribs run at this part of the half-width
RIBS_TO = -0.8  # and down to this height on the side (v)
BONE = 0.04  # the backbone's radius, as a part of the depth
CAVITY = 0.58  # the gut's room, as a part of the half-width
TUBE = 0.78  # the room in a squid's tube, as a part of its section
WING_FROM = 0.3  # a wing is cut off here, as a part of the half-breadth
SKULL = 0.6  # the head's bones, as a part of its section
RED_HIGH = 0.16  # half the height of the bloodline's wedge at the skin (v)


@dataclass(frozen=True)
class Section:
    """A section's outline and what lies in it; `blade` is one side's cut, outermost point first.

    Of the head there is a skull and no blade. `red` is the bloodline of each side; `lies_flat`: it
    lies on the board with what is drawn as its side up.
    """

    depth: float
    width: float
    outline: Polygon
    spine: Point
    spine_radius: float
    bones: tuple[Polygon, ...]
    cavity: Polygon
    pin_bones: Polygon
    blade: Polygon
    red: tuple[Polygon, ...] = ()
    skull: Polygon = ()
    lies_flat: bool = False


class _Frame:
    """Points of a section: `at` by side, height v from -1 to 1, and part of the half-width."""

    def __init__(self, depth: float, width: float) -> None:
        self.depth, self.width = depth, width

    def at(self, side: float, v: float, part: float = 1.0) -> Point:
        half = part * self.width / 2 * float(np.sqrt(max(0.0, 1 - v * v)))
        return side * half, v * self.depth / 2

    def ring(self, part: float = 1.0, around: int = 61) -> Polygon:
        return tuple(
            (
                part * self.width / 2 * float(np.sin(t)),
                part * self.depth / 2 * float(np.cos(t)),
            )
            for t in np.linspace(0, 2 * np.pi, around)
        )


def section(body: Body, plan: BodyPlan, s: float) -> Section:
    """The section at station `s` along the fish, 0.2 to 2.95. Raises OutOfRange."""
    require("station", s, 0.2, 2.95, "")
    x = body.point(s, 0.0)[0]
    frame = _Frame(float(body.depth(x)), float(body.width(x)))
    v0 = _height(plan.backbone, s)
    found = Section(
        frame.depth, frame.width, frame.ring(), (0.0, v0 * frame.depth / 2), BONE * frame.depth,
        (), (), (), (), lies_flat=plan.lies_flat,
    )  # fmt: skip
    if plan.inside.cut == "tube":
        return _tube(found, frame, s)
    if plan.inside.cut == "wings":
        return _wings(found, frame, plan.inside, s)
    if s < 1:
        return replace(found, skull=frame.ring(SKULL))
    return _sides(found, frame, plan, s, v0)


def _sides(found: Section, frame: _Frame, plan: BodyPlan, s: float, v0: float) -> Section:
    """Two sides on a backbone, over ribs and gut where they are."""
    inside = plan.inside
    gut, ribs = _is_in(inside.gut, s), _is_in(inside.ribs, s)
    bones: list[Polygon] = []
    if not plan.boneless:
        bones.append(((0.0, v0 * frame.depth / 2), (0.0, 0.86 * frame.depth / 2)))
        if not gut:
            bones.append(((0.0, v0 * frame.depth / 2), (0.0, -0.86 * frame.depth / 2)))
    heights = np.linspace(v0, RIBS_TO, 14)
    if ribs:
        for side in (-1.0, 1.0):
            line = [frame.at(side, float(v), RIB_IN * _spread(float(v), v0)) for v in heights]
            bones.append(tuple(line))
    if inside.y_bones:
        bones += [_y_bone(frame, side, v0) for side in (-1.0, 1.0)]
    cavity: Polygon = ()
    if gut:
        right = [frame.at(1, float(v), CAVITY * _spread(float(v), v0)) for v in heights[2:]]
        cavity = tuple(right + [(-px, py) for px, py in right[::-1]])
    pins: Polygon = ()
    if plan.pin_bones and plan.pin_bones[0][0] <= s <= plan.pin_bones[-1][0]:
        vp = _height(plan.pin_bones, s)
        pins = (frame.at(1, vp, 0.12), frame.at(1, vp, 0.78))
    usual = _blade(frame.at, v0, gut, plan.lies_flat)
    blade = _to_the_seam(frame, v0) if inside.loins else usual
    red = tuple(_red(frame, side, v0, inside.red) for side in (-1.0, 1.0) if inside.red)
    return replace(found, bones=tuple(bones), cavity=cavity, pin_bones=pins, blade=blade, red=red)


def _wings(found: Section, frame: _Frame, inside: Inside, s: float) -> Section:
    """A ray: rods of gristle in the middle of each wing, the gut between, a cut off each side."""
    gut: Polygon = ()
    if _is_in(inside.gut, s):
        heights = np.linspace(WING_FROM - 0.06, -(WING_FROM - 0.06), 9)
        near = [frame.at(1, float(v), CAVITY) for v in heights]
        gut = tuple(near + [(-px, py) for px, py in near[::-1]])
    rods = tuple(
        ((0.0, side * WING_FROM * frame.depth / 2), (0.0, side * 0.9 * frame.depth / 2))
        for side in (-1.0, 1.0)
    )
    blade = (frame.at(1, WING_FROM), frame.at(-1, WING_FROM))
    return replace(found, bones=rods, cavity=gut, blade=blade)


def _tube(found: Section, frame: _Frame, s: float) -> Section:
    """A squid: a tube with its pen along the back, slit along the pen; before it head and arms."""
    found = replace(found, spine_radius=0.0)
    if s < 1:
        return found
    wall = TUBE * frame.width / 2
    pen = ((wall, -0.12 * frame.depth / 2), (wall, 0.12 * frame.depth / 2))
    slit = (frame.at(1, 0.0), frame.at(1, 0.0, TUBE))
    return replace(found, bones=(pen,), cavity=frame.ring(TUBE), blade=slit)


def _is_in(stretch: Point | None, s: float) -> bool:
    return stretch is not None and stretch[0] <= s <= stretch[1]


def _red(frame: _Frame, side: float, v0: float, inwards: float) -> Polygon:
    """The bloodline: a wedge from the skin in, at the height of the backbone."""
    return (
        frame.at(side, v0 + RED_HIGH), frame.at(side, v0), frame.at(side, v0 - RED_HIGH),
        frame.at(side, v0, 1 - inwards),
    )  # fmt: skip


def _y_bone(frame: _Frame, side: float, v0: float) -> Polygon:
    """A forked bone in the meat of the back, drawn in one stroke."""
    fork = frame.at(side, v0 + 0.3, 0.45)
    return (
        frame.at(side, v0 + 0.14, 0.16), fork, frame.at(side, v0 + 0.42, 0.72), fork,
        frame.at(side, v0 + 0.52, 0.5),
    )  # fmt: skip


def _to_the_seam(frame: _Frame, v0: float) -> Polygon:
    """The high loin of a giant: down beside the spines, then out along the seam to the skin."""
    down = [frame.at(1, 0.97, 0.6)]
    down += [frame.at(1, float(v), 0.1) for v in np.linspace(0.85, v0, 8)]
    return (*down, *(frame.at(1, v0, part) for part in (0.4, 0.7, 1.0)))


def _height(line: Sequence[Point], s: float) -> float:
    return float(np.interp(s, [p[0] for p in line], [p[1] for p in line]))


def _spread(v: float, v0: float) -> float:
    """Ribs leave the backbone and reach their distance from it by a third of their way."""
    return min(1.0, 0.12 + 2.6 * (v0 - v) / (v0 - RIBS_TO))


def _blade(at: Callable[..., Point], v0: float, walled: bool, flat: bool) -> Polygon:
    beside = 0.1
    if flat:  # over the spine, flat on the bones from edge to edge
        return tuple(at(1, float(v), beside) for v in np.linspace(0.9, -0.9, 19))
    way = [at(1, 0.97, 0.6), *(at(1, float(v), beside) for v in np.linspace(0.85, v0, 8))]
    if walled:  # over the ribs, or along the wall of the gut
        over = np.linspace(v0, RIBS_TO, 12)
        way += [at(1, float(v), min(0.9, RIB_IN * _spread(float(v), v0) + 0.08)) for v in over]
        way.append(at(1, -0.93, 1.0))
    else:
        way += [at(1, float(v), beside) for v in np.linspace(v0, -0.9, 8)]
    return tuple(way)

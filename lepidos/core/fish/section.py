"""A cut across the fish: its section at any point, the bones in it, and the blade's way over them.

In total lengths, the middle of the body at 0, back upwards. The section is an ellipse (see
`anatomy`); where ribs and gut lie is anatomy in outline, common practice, no source.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from lepidos.core.errors import require
from lepidos.core.fish.anatomy import Body, Polygon
from lepidos.core.fish.bodyplan import BodyPlan
from lepidos.core.fish.species import Point

RIB_IN = 0.7  # ribs run at this part of the half-width
RIBS_TO = -0.8  # and down to this height on the side (v)
BONE = 0.04  # the backbone's radius, as a part of the depth
CAVITY = 0.58  # the gut's room, as a part of the half-width


@dataclass(frozen=True)
class Section:
    """A section's outline and what lies in it; `blade` is one side's cut, outermost point first."""

    depth: float
    width: float
    outline: Polygon
    spine: Point
    spine_radius: float
    bones: tuple[Polygon, ...]
    cavity: Polygon
    pin_bones: Polygon
    blade: Polygon


def section(body: Body, plan: BodyPlan, s: float) -> Section:
    """The section at station `s` along the fish, 0.2 to 2.95. Raises OutOfRange."""
    require("station", s, 0.2, 2.95, "")
    x = body.point(s, 0.0)[0]
    depth, width = float(body.depth(x)), float(body.width(x))

    def at(side: float, v: float, part: float = 1.0) -> Point:
        return side * part * width / 2 * float(np.sqrt(max(0.0, 1 - v * v))), v * depth / 2

    ring = tuple(
        (width / 2 * float(np.sin(t)), depth / 2 * float(np.cos(t)))
        for t in np.linspace(0, 2 * np.pi, 61)
    )
    v0 = _height(plan.backbone, s)
    flat = plan.lies_flat
    ribs = 1.02 <= s <= 2.05 and not flat
    up = ((0.0, v0 * depth / 2), (0.0, 0.86 * depth / 2))
    down = ((0.0, v0 * depth / 2), (0.0, -0.86 * depth / 2))
    heights = np.linspace(v0, RIBS_TO, 14)
    bones: list[Polygon] = [up]
    cavity: Polygon = ()
    if ribs:
        for side in (-1.0, 1.0):
            curve = [at(side, float(v), RIB_IN * _spread(float(v), v0)) for v in heights]
            bones.append(tuple(curve))
        right = [at(1, float(v), CAVITY * _spread(float(v), v0)) for v in heights[2:]]
        cavity = tuple(right + [(-px, py) for px, py in right[::-1]])
    else:
        bones.append(down)
    pins: Polygon = ()
    if plan.pin_bones and plan.pin_bones[0][0] <= s <= plan.pin_bones[-1][0]:
        vp = _height(plan.pin_bones, s)
        pins = (at(1, vp, 0.12), at(1, vp, 0.78))
    return Section(
        depth, width, ring, (0.0, v0 * depth / 2), BONE * depth, tuple(bones), cavity,
        pins, _blade(at, v0, ribs, flat),
    )  # fmt: skip


def _height(line: Sequence[Point], s: float) -> float:
    return float(np.interp(s, [p[0] for p in line], [p[1] for p in line]))


def _spread(v: float, v0: float) -> float:
    """Ribs leave the backbone and reach their distance from it by a third of their way."""
    return min(1.0, 0.12 + 2.6 * (v0 - v) / (v0 - RIBS_TO))


def _blade(at: Callable[..., Point], v0: float, ribs: bool, flat: bool) -> Polygon:
    beside = 0.1
    if flat:  # over the spine, flat on the bones from edge to edge
        return tuple(at(1, float(v), beside) for v in np.linspace(0.9, -0.9, 19))
    way = [at(1, 0.97, 0.6), *(at(1, float(v), beside) for v in np.linspace(0.85, v0, 8))]
    if ribs:
        over = np.linspace(v0, RIBS_TO, 12)
        way += [at(1, float(v), min(0.9, RIB_IN * _spread(float(v), v0) + 0.08)) for v in over]
        way.append(at(1, -0.93, 1.0))
    else:
        way += [at(1, float(v), beside) for v in np.linspace(v0, -0.9, 8)]
    return tuple(way)

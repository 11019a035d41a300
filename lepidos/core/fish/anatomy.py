"""The geometry of a fish from its proportions: outline, fins, zones, cut lines, areas, volume.

Lengths are in parts of total length (snout at x = 0, tail tip at x = 1, back towards +y), so
multiply by the fish's own length for metres. Everything that is drawn comes from here.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from lepidos.core.fish.bodyplan import BodyPlan
from lepidos.core.fish.species import Point, Shape

Polygon = tuple[Point, ...]
Floats = NDArray[np.float64]

# Mass of a whole fish per volume [kg/m³]: a little above sea water (from memory; a fish with a
# swim bladder is close to neutral, muscle alone is about 1050 to 1060).
FISH_DENSITY = 1050.0
MUSCLE_DENSITY = 1060.0  # kg/m³, lean fish muscle (from memory: 1050 to 1060 in most handbooks)
# Where the body narrows to the tail, its section flattens to this part of its width (practice).
TAIL_WIDTH = 0.45
_EDGE_STEPS = 14  # points of a zone's edge between two knots
MIN_STEP = 0.0005  # between two knots of an outline: closer ones make no smooth edge


def area(polygon: Sequence[Point]) -> float:
    """Area inside a closed polygon by the shoelace formula, in squared units of its points.

    >>> area([(0, 0), (2, 0), (2, 1), (0, 1)])
    2.0
    """
    xs, ys = np.array([p[0] for p in polygon]), np.array([p[1] for p in polygon])
    return float(abs(np.dot(xs, np.roll(ys, -1)) - np.dot(ys, np.roll(xs, -1))) / 2)


@dataclass(frozen=True, eq=False)
class Body:
    """A species' shape made continuous. Build it once a species with `Body.of`.

    `girth` is a factor on its width, see `growth.body_at`.
    """

    shape: Shape
    _back: PchipInterpolator = field(repr=False)
    _belly: PchipInterpolator = field(repr=False)
    girth: float = 1.0

    @classmethod
    def of(cls, shape: Shape) -> "Body":
        """Raises ValueError when the outline's knots do not run from snout to tail root."""
        return cls(shape, _edge(shape.back), _edge(shape.belly))

    @property
    def root(self) -> float:
        """x of the tail's root."""
        return self.shape.tail.root

    def back_y(self, x: float | Floats) -> Floats:
        """Height of the back edge at x."""
        return np.asarray(self._back(np.sqrt(np.clip(x, 0, self.root))))

    def belly_y(self, x: float | Floats) -> Floats:
        """Height of the belly edge at x (below the axis, so usually negative)."""
        return np.asarray(self._belly(np.sqrt(np.clip(x, 0, self.root))))

    def depth(self, x: float | Floats) -> Floats:
        """Depth of the body at x, back edge to belly edge, fins left out."""
        return self.back_y(x) - self.belly_y(x)

    def width(self, x: float | Floats) -> Floats:
        """Width of the body at x, side to side: an elliptic section that flattens to the tail."""
        anchors = [0.0, self.shape.head, self.shape.vent, self.root]
        flat = np.interp(x, anchors, [0.85, 1.0, 1.0, TAIL_WIDTH])
        return self.depth(x) * self.shape.width_per_depth * self.girth * flat

    def volume(self, samples: int = 801) -> float:
        """Volume of the body without fins, in cubed total lengths: ∫ π/4 · depth · width dx."""
        x = np.linspace(0, self.root, samples)
        return float(np.trapezoid(np.pi / 4 * self.depth(x) * self.width(x), x))

    def point(self, s: float, v: float) -> Point:
        """Station coordinates (see `bodyplan`) to a point of the drawing."""
        return self.points(np.array([[s, v]]))[0]

    def points(self, stations: Floats) -> Polygon:
        """Many station coordinates at once, as rows of (s, v)."""
        anchors = [0, self.shape.head, self.shape.vent, self.root, 1]
        x = np.interp(stations[:, 0], [0, 1, 2, 3, 4], anchors)
        top, bottom = self.back_y(x), self.belly_y(x)
        y = (top + bottom) / 2 + stations[:, 1] * (top - bottom) / 2
        return tuple(zip(x.tolist(), y.tolist(), strict=True))

    def path(self, stations: Sequence[Point], closed: bool = False) -> Polygon:
        """A line through station coordinates that follows the body between them."""
        ends = np.array([*stations, stations[0]] if closed else stations, dtype=float)
        runs = []
        for start, end in pairwise(ends):
            reach = max(abs(end[0] - start[0]), abs(end[1] - start[1]) / 2)
            steps = max(1, math.ceil(_EDGE_STEPS * reach))
            runs.append(start + (end - start) * (np.arange(steps) / steps)[:, None])
        if not closed:
            runs.append(ends[-1:])
        return self.points(np.concatenate(runs))

    def outline(self, samples: int = 46) -> Polygon:
        """The body's edge without fins: along the back to the tail's root and back below."""
        # denser at the snout, where the edge turns fastest
        x = np.linspace(0, 1, samples) ** 1.6 * self.root
        upper = list(zip(x.tolist(), self.back_y(x).tolist(), strict=True))
        lower = list(zip(x.tolist(), self.belly_y(x).tolist(), strict=True))
        return tuple(upper + lower[:0:-1])


@dataclass(frozen=True)
class FilletProfile:
    """Width and thickness of a piece along its length, linear between the knots.

    `x` runs 0 at the head end to 1 at the tail end; `width` and `thickness` are relative (their
    scale comes from the piece's own length and weight).
    """

    x: tuple[float, ...]
    width: tuple[float, ...]
    thickness: tuple[float, ...]


def zone_polygon(body: Body, plan: BodyPlan, key: str) -> Polygon:
    """The outline of a zone on this fish."""
    return body.path(plan.zone(key).outline, closed=True)


def zone_extent(body: Body, plan: BodyPlan, key: str) -> tuple[float, float]:
    """Where a zone starts and ends along the fish, in parts of total length."""
    xs = [p[0] for p in zone_polygon(body, plan, key)]
    return min(xs), max(xs)


def zone_at(body: Body, plan: BodyPlan, keys: Sequence[str], at: Point) -> str:
    """Which of some zones a point of the drawing lies in; the nearest when in none, "" of none.

    Where zones lie over each other the smaller one is meant.
    """
    zones = sorted((area(p), key, p) for key in keys for p in [zone_polygon(body, plan, key)])
    for _, key, polygon in zones:
        if _contains(polygon, at):
            return key
    return min(zones, key=lambda zone: _nearest(zone[2], at))[1] if zones else ""


def fillet_profile(body: Body, plan: BodyPlan, key: str, knots: int = 25) -> FilletProfile:
    """Relative width and thickness of the meat under a zone, from head end to tail end.

    Width is the zone's height on the side; thickness the half-width of the elliptic section,
    averaged over the zone, times the plan's share that is meat. Anatomy, not measurement: the
    portion model carries its own uncertainty (common practice, no source).
    """
    polygon = np.array(zone_polygon(body, plan, key))
    start, end = float(polygon[:, 0].min()), float(polygon[:, 0].max())
    pad = (end - start) * 0.004
    xs = np.linspace(start + pad, end - pad, knots)
    widths, thicknesses = [], []
    for x in xs:
        low, high = _span_at(polygon, float(x))
        widths.append(max(high - low, 1e-4))
        middle = float(body.back_y(x) + body.belly_y(x)) / 2
        half_depth = float(body.depth(x)) / 2
        heights = np.clip((np.linspace(low, high, 9) - middle) / half_depth, -0.98, 0.98)
        bulge = float(np.sqrt(1 - heights**2).mean())
        thicknesses.append(max(float(body.width(x)) / 2 * bulge * plan.meat_per_half_width, 1e-4))
    return FilletProfile(
        tuple(float(x) for x in np.linspace(0, 1, knots)), tuple(widths), tuple(thicknesses)
    )


def volume_weight_kg(body: Body, total_length_m: float) -> float:
    """Weight of a fish of these proportions by its volume [kg]; a check on the guide."""
    return body.volume() * total_length_m**3 * FISH_DENSITY


def _edge(knots: Sequence[Point]) -> PchipInterpolator:
    # over the root of x the edge meets the snout upright, so snouts come out round
    xs = [p[0] for p in knots]
    if xs[0] != 0 or min(np.diff(xs), default=0.0) < MIN_STEP:
        raise ValueError(f"an outline starts at the snout (x = 0) and its x rise by {MIN_STEP:g}")
    return PchipInterpolator(np.sqrt(xs), [p[1] for p in knots])


def _span_at(polygon: Floats, x: float) -> tuple[float, float]:
    following = np.roll(polygon, -1, axis=0)
    crosses = (polygon[:, 0] - x) * (following[:, 0] - x) <= 0
    a, b = polygon[crosses], following[crosses]
    run = b[:, 0] - a[:, 0]
    share = np.where(np.abs(run) < 1e-12, 0.0, (x - a[:, 0]) / np.where(run == 0, 1, run))
    ys = a[:, 1] + share * (b[:, 1] - a[:, 1])
    return float(ys.min()), float(ys.max())


def _contains(polygon: Polygon, at: Point) -> bool:
    """Whether a point lies inside: a ray from it to the right crosses the edge an odd number of
    times."""
    inside = False
    for (ax, ay), (bx, by) in pairwise((*polygon, polygon[0])):
        if (ay > at[1]) != (by > at[1]) and at[0] < ax + (at[1] - ay) / (by - ay) * (bx - ax):
            inside = not inside
    return inside


def _nearest(polygon: Polygon, at: Point) -> float:
    """How far the nearest knot of an edge is; the knots of a zone are close."""
    return min(math.hypot(x - at[0], y - at[1]) for x, y in polygon)

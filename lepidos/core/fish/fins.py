"""Fins and tail as they are drawn: outline, spines and rays, from the body that they stand on."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.interpolate import PchipInterpolator

from lepidos.core.fish.anatomy import Body, Floats, Polygon
from lepidos.core.fish.species import Fin, Line, Point, Tail

UPPER_LOBE = 0.68  # part of an uneven tail's span that lies above its middle (practice)
SOFT_RAY_ROOM = 0.75  # a soft ray that is drawn takes this much of a spine's room (practice)


@dataclass(frozen=True)
class FinDrawing:
    """A fin's outline, its spines, each as a line from foot to tip, and its soft rays."""

    name: str
    outline: Polygon
    spines: tuple[tuple[Point, Point], ...]
    rays: tuple[tuple[Point, Point], ...]


def fin_drawing(body: Body, fin: Fin, rays: int = 9) -> FinDrawing:
    """One fin on the edge it stands on: every spine of it, and some of its soft rays."""
    edge, sign = (body.back_y, 1.0) if fin.on == "back" else (body.belly_y, -1.0)
    start, end = fin.base
    outer, heights = _rim_of(fin.edge)
    spines, soft = _rays_of(fin, rays)
    feet = np.concatenate([spines, soft])
    # all the points that stand on the edge at once: the rim's, the base's, the rays' feet
    t = np.concatenate([outer, np.arange(11) / 10, feet])
    x = start + (end - start) * t
    lift = np.full(len(t), -0.004)
    lift[:25] = heights
    y = edge(x) + sign * lift
    points = list(zip(x.tolist(), y.tolist(), strict=True))
    rim, base, feet_at = points[:25], points[25:36], points[36:]
    lines = [(foot, _tip(rim, t)) for foot, t in zip(feet_at, feet, strict=True)]
    return FinDrawing(
        fin.name, tuple(base + rim[::-1]), tuple(lines[: len(spines)]),
        tuple(lines[len(spines) :]),
    )  # fmt: skip


@lru_cache(maxsize=2048)  # many fins have the same edge, finlets all of them
def _rim_of(edge: Line) -> tuple[Floats, Floats]:
    """Parts of the base and heights of 25 points of a fin's outer edge, made smooth."""
    ts, heights = np.array(edge).T
    along, fine = np.linspace(0, 1, len(ts)), np.linspace(0, 1, 25)
    return PchipInterpolator(along, ts)(fine), PchipInterpolator(along, heights)(fine)


def tail_drawing(body: Body) -> FinDrawing:
    """The tail fin."""
    root = body.root
    return _tail(body.shape.tail, float(body.back_y(root)), float(body.belly_y(root)))


def _rays_of(fin: Fin, rays: int) -> tuple[Floats, Floats]:
    """Where spines and soft rays stand, in parts of the base.

    A soft ray that is drawn stands for some, and takes less room than a spine.
    """
    if fin.spines == 0:
        even = np.minimum(0.96, np.arange(1, rays + 1) / (rays + 1))
        return (even, even[:0]) if fin.spiny else (even[:0], even)
    behind = 0 if fin.spiny else rays
    reach = fin.spines / (fin.spines + SOFT_RAY_ROOM * behind)
    first = (np.arange(fin.spines) + 0.5) / fin.spines * reach
    return first, reach + (np.arange(behind) + 0.5) / max(1, behind) * (0.97 - reach)


def _tip(rim: Sequence[Point], t: float) -> Point:
    """The point of a fin's outer edge over a part of its base, between the edge's points."""
    at = t * (len(rim) - 1)
    k = min(len(rim) - 2, int(at))
    (x0, y0), (x1, y1) = rim[k], rim[k + 1]
    return x0 + (at - k) * (x1 - x0), y0 + (at - k) * (y1 - y0)


def _tail(tail: Tail, top: float, bottom: float) -> FinDrawing:
    middle = (top + bottom) / 2
    upper, lower = (1.0, middle + tail.span / 2), (1.0, middle - tail.span / 2)
    reach = 1 - tail.root
    if tail.shape == "rounded":
        upper = (tail.root + reach * 0.72, upper[1])
        lower = (tail.root + reach * 0.72, lower[1])
    elif tail.shape == "uneven":
        upper = (1.0, middle + tail.span * UPPER_LOBE)
        lower = (tail.root + reach * 0.5, middle - tail.span * (1 - UPPER_LOBE))
    elif tail.shape == "pointed":
        upper = lower = (1.0, middle)
    root_top, root_bottom = (tail.root - 0.006, top), (tail.root - 0.006, bottom)
    bend = tail.root + reach * (0.25 if tail.shape in {"forked", "notched"} else 0.4)
    leading = _quadratic(root_top, (bend, top + (upper[1] - top) * 0.35), upper)
    trailing = _quadratic(lower, (bend, bottom + (lower[1] - bottom) * 0.35), root_bottom)
    if tail.shape == "rounded":
        rim = _quadratic(upper, (1 + reach * 0.28, middle), lower)
    elif tail.shape == "uneven":
        notch = (tail.root + reach * 0.55, middle)
        rim = _quadratic(upper, (tail.root + reach * 0.8, upper[1] * 0.6 + middle * 0.4), notch)
        rim += _quadratic(notch, (tail.root + reach * 0.5, middle), lower)
    elif tail.shape == "pointed":
        rim = [upper] * 11
    else:
        fork = (1 - tail.notch, middle)
        near = 1 - tail.notch * 0.75
        rim = _quadratic(upper, (near, middle + tail.span * 0.2), fork)
        rim += _quadratic(fork, (near, middle - tail.span * 0.2), lower)
    foot = [(tail.root, bottom + (top - bottom) * k / 10) for k in range(1, 10)][::-1]
    rays = tuple((foot[k], rim[round((k + 1) / 10 * (len(rim) - 1))]) for k in range(len(foot)))
    return FinDrawing("tail", tuple(leading + rim + trailing), (), rays)


def _quadratic(a: Point, b: Point, c: Point, steps: int = 10) -> list[Point]:
    """A curve from a to c that is drawn towards b."""
    return [
        (
            (1 - t) ** 2 * a[0] + 2 * t * (1 - t) * b[0] + t * t * c[0],
            (1 - t) ** 2 * a[1] + 2 * t * (1 - t) * b[1] + t * t * c[1],
        )
        for t in (k / steps for k in range(steps + 1))
    ]

"""Meat cut out around a wound, a worm or a stain: how much it probably was, and what that changes.

The shape is that of the species, so a spot touched on its drawing has a thickness of meat under it.
"""

from dataclasses import replace

import numpy as np

from lepidos.core.errors import require
from lepidos.core.estimate import Estimate
from lepidos.core.fish.anatomy import MUSCLE_DENSITY, Body
from lepidos.core.fish.bodyplan import BodyPlan
from lepidos.core.fish.species import Point
from lepidos.core.limits import MAX_ACROSS_M, MIN_ACROSS_M

# However much was cut out, this part of a piece stays to be expected (practice).
MIN_LEFT = 0.05
_STEPS = 41  # places along a spot


def spot_kg(body: Body, plan: BodyPlan, at: Point, across_m: float, total_length_m: float) -> float:
    """Meat that goes with a round spot [kg]: a plug as deep as it is wide, or down to the bone.

    Args:
        at: Its middle in parts of total length, as in `anatomy`; what lies off the body is nothing.
        across_m: Its width, 0.002 to 0.5 m, the rim of clean meat in it.
        total_length_m: Of the fish, 0.02 to 20 m.
    Raises: OutOfRange.
    Source: the volume is geometry; that a plug is cut no deeper than wide is common practice.
    """
    require("width of the spot", across_m, MIN_ACROSS_M, MAX_ACROSS_M, "m")
    require("total length", total_length_m, 0.02, 20, "m")
    radius = across_m / 2 / total_length_m
    steps = np.linspace(-radius, radius, _STEPS)
    dx, dy = (grid.ravel() for grid in np.meshgrid(steps, steps))
    inside = np.hypot(dx, dy) <= radius
    x, y = at[0] + dx[inside], at[1] + dy[inside]
    on_fish = (x >= 0) & (x <= body.root)
    middle = (body.back_y(x) + body.belly_y(x)) / 2
    height = np.where(on_fish, (y - middle) / np.maximum(body.depth(x) / 2, 1e-9), 1.0)
    bulge = np.sqrt(np.clip(1 - height**2, 0, 1))
    thick_m = body.width(x) / 2 * bulge * plan.meat_per_half_width * total_length_m
    area_m2 = np.pi * (across_m / 2) ** 2 / len(x)
    return float(np.minimum(thick_m, across_m).sum() * area_m2 * MUSCLE_DENSITY)


def without(usual: Estimate, kg: float) -> Estimate:
    """What a piece is to weigh after `kg` of it were cut out, 0 or more.

    Example:
        >>> e = Estimate(0.5, 0.4, 0.6, 0.8, "kg", "f", "s")
        >>> after = without(e, 0.1)
        >>> round(after.value, 2), round(after.low, 2), round(after.high, 2)
        (0.4, 0.3, 0.5)
    """
    if not kg > 0:
        return usual
    value, low, high = (max(at - kg, at * MIN_LEFT) for at in (usual.value, usual.low, usual.high))
    formula = f"{usual.formula}; {kg * 1000:.0f} g cut out"
    return replace(usual, value=value, low=low, high=high, formula=formula)

"""The blade's ways of a step: its cut, or along the feet of the spines that it takes off."""

import math

from lepidos.core.fish.anatomy import Body, Polygon
from lepidos.core.fish.bodyplan import BodyPlan, Step
from lepidos.core.fish.fins import fin_drawing
from lepidos.core.fish.species import Loop, Species

GILL_COVER = "gill cover"
BESIDE = 0.012  # of the total length: how far the shears reach past the outer spines (practice)
# across the gill cover's spine and the tail before its own, in station coordinates (memory)
ACROSS = {GILL_COVER: ((1.0, 0.62), (1.02, 0.28)), "tail": ((2.45, 1.0), (2.45, -1.0))}


def blade_paths(body: Body, species: Species, plan: BodyPlan, step: Step) -> tuple[Polygon, ...]:
    """Where the blade goes in a step, each way from its first point to its last, in total lengths.

    A step that takes venomous spines off goes along the feet of every one of them, fin by fin, and
    across what bears the others; any other follows its cut. None when it has neither.
    """
    if step.disarms and species.counted:
        paths = [_at_the_feet(body, name) for name in _taken(species, plan, step)]
        if all(paths) and paths:
            # the longest last: the blade is drawn at its end, and would hide a short one
            return tuple(sorted(paths, key=lambda path: math.dist(path[0], path[-1])))
    cut = next((c for c in plan.cuts if c.key == step.cut), None)
    return (body.path(cut.path),) if cut else ()


def _taken(species: Species, plan: BodyPlan, step: Step) -> list[str]:
    """What bears the spines that a step takes off: gill covers have a step of their own."""
    stings = species.counted.stings if species.counted else ()
    # by its place: a plan may word a step in another way than its body plan does
    if step.zone == "head":
        return [name for name in stings if name == GILL_COVER]
    apart = any(s.disarms and s.zone == "head" for s in plan.steps)
    return [name for name in stings if not (apart and name == GILL_COVER)]


def _at_the_feet(body: Body, name: str) -> Polygon:
    shape = body.shape
    fin = next((f for f in shape.fins if f.name == name), None)
    if fin is not None:
        feet = [foot for foot, _ in fin_drawing(body, fin).spines]
        if not feet:
            return ()
        (first_x, first_y), (last_x, last_y) = feet[0], feet[-1]
        return ((first_x - BESIDE, first_y), *feet, (last_x + BESIDE, last_y))
    roots: dict[str, Loop | tuple[()]] = {"pectoral": shape.pectoral, "pelvic": shape.pelvic}
    root = roots.get(name)
    if root:
        return body.path((root[0], root[-1]))
    return body.path(ACROSS[name]) if name in ACROSS else ()

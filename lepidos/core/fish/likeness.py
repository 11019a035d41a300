"""The shape of a fish that is drawn after another's, with proportions of its own."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from pydantic import Field, model_validator

from lepidos.core.fish.anatomy import Body
from lepidos.core.fish.species import Fin, Line, Loop, Mark, Point, Shape, Sourced, Tail

# what of a fish's drawing is its own where it is given
OWN_PARTS = (
    "barbel", "barbels", "faces", "skin", "skin_dead", "marks", "mouth", "pectoral", "lateral_line",
)  # fmt: skip


class Likeness(Sourced):
    """Proportions in parts of total length; what is None is the other fish's.

    `depth` is the body's greatest; `eye` and `fins` are factors on their size; `without` names
    fins that this fish has not, `own_fins` are its own, instead of the other's of the same name;
    `pelvic` false: it has none. `back` and `belly` are an outline of its own, given together, x in
    parts of total length and heights to any scale; `eye_at` is where its eye is: x, and the height
    there from -1 at the belly to 1 at the back.
    """

    like: str
    depth: float | None = Field(default=None, gt=0.03, lt=0.9)
    head: float | None = Field(default=None, gt=0.05, lt=0.5)
    vent: float | None = Field(default=None, gt=0.1, lt=0.9)
    width_per_depth: float | None = Field(default=None, gt=0.05, le=1.2)
    eye: float = Field(default=1.0, gt=0.2, lt=4)
    fins: float = Field(default=1.0, gt=0.2, lt=4)
    tail: Tail | None = None
    barbel: bool | None = None
    barbels: tuple[Line, ...] | None = None
    faces: str | None = None
    skin: str | None = None
    skin_dead: str | None = None
    marks: tuple[Mark, ...] | None = None
    without: tuple[str, ...] = ()
    own_fins: tuple[Fin, ...] = ()
    pelvic: bool = True
    back: Line | None = None
    belly: Line | None = None
    eye_at: Point | None = None
    mouth: Line | None = None
    pectoral: Loop | None = None
    lateral_line: Line | None = None

    @model_validator(mode="after")
    def _outline_is_whole(self) -> "Likeness":
        if (self.back is None) != (self.belly is None):
            raise ValueError("give back and belly of an own outline, or neither")
        return self


def reshape(base: Shape, own: Likeness) -> Shape:
    """The other fish's shape, stretched to these proportions.

    Lengths along the fish are stretched between snout, gill cover, vent, tail root and tail tip;
    heights all by one factor, so that the greatest depth is as asked. Raises ValueError when the
    gill cover, the vent and the tail's root do not follow one another.
    """
    head, vent = own.head or base.head, own.vent or base.vent
    tail = own.tail or base.tail
    if not head < vent < tail.root:
        raise ValueError("gill cover, vent and tail root must follow one another")
    before = Body.of(base)
    high = (own.depth or _deepest(before)) / _deepest(before)
    old, new = [0, base.head, base.vent, base.tail.root, 1], [0, head, vent, tail.root, 1]

    def along(x: float) -> float:
        return float(np.interp(x, old, new))

    def edge(knots: Sequence[Point]) -> tuple[Point, ...]:
        return tuple((along(x), y * high) for x, y in knots)

    def fin(one: Fin) -> Fin:
        heights = tuple((t, h * own.fins) for t, h in one.edge)
        return one.model_copy(
            update={"base": (along(one.base[0]), along(one.base[1])), "edge": heights}
        )

    if own.tail is None:
        tail = tail.model_copy(update={"root_depth": tail.root_depth * high})
    values = base.model_dump()
    values |= {"head": head, "vent": vent, "tail": tail}
    values |= {"back": edge(base.back), "belly": edge(base.belly)}
    if own.back and own.belly:
        values |= _own_outline(values, own.back, own.belly, own.depth or _deepest(before))
    eye = own.eye * head / base.head
    eyes = [(along(x), y * high, r * eye) for x, y, r in base.eyes]
    if own.eye_at:
        eyes = [(*_eye(Body.of(Shape.model_validate(values)), own.eye_at), eyes[0][2])]
    replaced = {*own.without, *(f.name for f in own.own_fins)}
    values |= {
        "source": own.source,
        "note": own.note,
        "width_per_depth": own.width_per_depth or base.width_per_depth,
        "eyes": tuple(eyes),
        "fins": (*(fin(f) for f in base.fins if f.name not in replaced), *own.own_fins),
    }
    if not own.pelvic:
        values["pelvic"] = ()
    told = {name: getattr(own, name) for name in OWN_PARTS}
    values |= {name: part for name, part in told.items() if part is not None}
    if own.skin is not None and own.skin_dead is None:
        values["skin_dead"] = None  # the other's belongs to the other's colour
    return Shape.model_validate(values)


def _own_outline(
    values: dict[str, Any], back: Sequence[Point], belly: Sequence[Point], depth: float
) -> dict[str, Any]:
    """Back and belly of its own, scaled to the greatest depth."""
    drawn = Shape.model_validate(values | {"back": back, "belly": belly})
    factor = depth / _deepest(Body.of(drawn))
    edges = {"back": back, "belly": belly}
    return {name: tuple((x, y * factor) for x, y in edge) for name, edge in edges.items()}


def _eye(body: Body, at: Point) -> Point:
    """Where an eye lies that is told by x and its height between belly and back."""
    x, v = at
    top, bottom = float(body.back_y(x)), float(body.belly_y(x))
    return x, (top + bottom) / 2 + v * (top - bottom) / 2


def _deepest(body: Body) -> float:
    """The greatest depth, in total lengths."""
    return float(np.max(body.depth(np.linspace(0, body.root, 400))))

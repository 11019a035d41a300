"""A body plan: the template of zones, cut lines, pieces and steps that a species fills in.

Positions are *station coordinates* (s, v), so that one plan fits every fish of its kind:
s runs 0 snout, 1 edge of the gill cover, 2 vent, 3 root of the tail, 4 tip of the tail;
v runs from −1 on the belly edge over 0 in the middle to +1 on the back edge.
"""

from typing import Literal

from pydantic import Field, model_validator

from lepidos.core.fish.species import Known, Line, Loop, Name, Point, Sourced
from lepidos.core.limits import require_weight

CountsAs = Literal["fillet", "extra", "rest"]


class Zone(Known):
    """A named region of one side; `piece` is what is cut from it."""

    key: str
    name: str
    piece: str
    outline: Loop
    caption: Point
    circle: float = Field(default=0.0, ge=0, le=1)


class Cut(Known):
    """The blade's path over the side, from first point to last."""

    key: str
    path: Line


class PlannedPiece(Known):
    """A piece that this body plan gives, and from which size on it is worth taking."""

    piece: str
    zone: str = ""
    from_kg: float = Field(default=0.0, ge=0)
    below_kg: float = Field(default=1e9, gt=0)
    from_cm: float = Field(default=0.0, ge=0)
    below_cm: float = Field(default=1e9, gt=0)
    method: tuple[str, ...] = ()
    share_of: str = ""
    share: float = Field(default=1.0, gt=0, le=1)


class Step(Known):
    """One step. Conditions all hold for it to be in the plan; "" and empty mean always.

    `method` are choices as "question:option", all of which must have been made; `purposes` those
    of which one must be the plan's. `feel` is what the hand feels, hears or sees; `wrong` what goes
    wrong and `rescue` what then; `unless_fact` and `only_fact` are of the fish as it came; `makes`
    is what is true of the fish once it is done; `whole` steps belong to a fish that is cooked
    whole; those of a `phase` are done to the whole table before the first cut; one with `disarms`,
    its button, takes venomous spines off: until it is ticked no piece is offered for the scale;
    `counts` is how many they are. Minutes: `minutes` + `minutes_per_kg` · kg.

    `needs` are parts ("head", "gut", "cheeks") without which it makes no sense, `takes` those that
    are gone after it; the `headless` words are said when the head is off by then.
    """

    key: str
    title: str = Field(min_length=1)
    why: str = Field(min_length=1)
    tool: str
    zone: str = ""
    cut: str = ""
    side: Literal["", "A", "B", "both"] = ""
    gives: tuple[str, ...] = ()
    caution: str = ""
    unless_fact: str = ""
    only_fact: str = ""
    makes: Literal["", "bled", "gutted"] = ""
    trait: str = ""
    unless_trait: str = ""
    skin: Literal["", "on", "off"] = ""
    from_kg: float = Field(default=0.0, ge=0)
    below_kg: float = Field(default=1e9, gt=0)
    from_cm: float = Field(default=0.0, ge=0)
    below_cm: float = Field(default=1e9, gt=0)
    method: tuple[str, ...] = ()
    purposes: tuple[str, ...] = ()
    feel: str = ""
    wrong: str = ""
    rescue: str = ""
    whole: bool = False
    disarms: str = ""
    counts: int = Field(default=0, ge=0, le=60)
    phase: Literal["", "look", "hurts", "bleed", "surface"] = ""
    needs: tuple[str, ...] = ()
    takes: tuple[str, ...] = ()
    headless_title: str = ""
    headless_why: str = ""
    headless_feel: str = ""
    minutes: float = Field(default=0.3, ge=0, le=600)
    minutes_per_kg: float = Field(default=0.0, ge=0, le=60)


class PlanPace(Known):
    """Minutes for a fish from gut to fillets: base + per_kg · kg^⅔, since meat is cut by area."""

    base_min: float = Field(gt=0, le=600)
    per_kg_min: float = Field(ge=0, le=60)

    def minutes(self, kg: float) -> float:
        """For one fish, without learning. Raises OutOfRange."""
        return self.base_min + self.per_kg_min * float(require_weight(kg) ** (2 / 3))


class Inside(Known):
    """What a cut across such a fish shows (anatomy in outline, common practice, no source).

    `ribs` and `gut` are the stations between which they lie; `red` is how far the bloodline reaches
    in, as a part of the half-width; `loins`: each side comes off as two, along the seam.
    """

    cut: Literal["sides", "wings", "tube"] = "sides"
    ribs: Point | None = (1.02, 2.05)
    gut: Point | None = (1.02, 2.05)
    red: float = Field(default=0.12, ge=0, lt=0.9)
    y_bones: bool = False
    loins: bool = False


class BodyPlan(Sourced):
    """Everything needed to draw and cut one family of fish; `lies_flat`: on its blind side.

    `boneless`: gristle, or none at all. `skinned`: its way of cutting takes the skin off whatever
    was asked. `whole_below_kg`: by purpose the weight below which it is cooked on its bones,
    whatever others are. `pace` is how long the usual way takes: the steps' minutes are parts of
    that; without it they stand as they are.
    """

    key: str
    name: Name
    side_names: dict[str, str]
    meat_per_half_width: float = Field(gt=0.1, le=1)
    zones: tuple[Zone, ...] = Field(min_length=1)
    cuts: tuple[Cut, ...]
    backbone: Line
    pin_bones: Line | tuple[()] = ()
    inside: Inside = Inside()
    lies_flat: bool = False
    skinned: bool = False
    boneless: bool = False
    whole_below_kg: dict[str, float] = Field(default_factory=dict)
    pace: PlanPace | None = None
    pieces: tuple[PlannedPiece, ...] = Field(min_length=1)
    steps: tuple[Step, ...] = Field(min_length=1)

    @model_validator(mode="after")
    def _two_sides(self) -> "BodyPlan":
        if set(self.side_names) != {"A", "B"}:
            raise ValueError("name both sides, A and B")
        return self

    @property
    def ways(self) -> tuple[str, ...]:
        """Every way of a method, as "question:option", that some step or piece depends on."""
        steps = [way for step in self.steps for way in step.method]
        return tuple(dict.fromkeys([*steps, *(way for p in self.pieces for way in p.method)]))

    def __hash__(self) -> int:
        # by identity, as a species
        return id(self)

    def call(self, piece: str, side: str) -> str:
        """What a piece is called here: "fillet A", and on a flatfish "fillet, blind side"."""
        if not side:
            return piece
        name = self.side_names[side]
        return f"{piece} {side}" if name == f"side {side}" else f"{piece}, {name}"

    def zone(self, key: str) -> Zone:
        """The zone of that key. Raises KeyError."""
        return next(z for z in self.zones if z.key == key)


class Piece(Known):
    """A row of the piece catalogue: what a thing on the scale is called and counts as.

    `counts_as`: "fillet" goes into the fillet yield's numerator, "extra" is eaten too but is
    not fillet, "rest" is neither. `loads`: whether it comes on the scale at once, or in several.
    `worth_asking`: asked about before something that `takes_the_rest` goes. `wished_for`: parties
    may ask for it. `of_plan_only`: it is weighed only where a plan gives it. `bare`: it has no skin
    to speak of.
    """

    key: str
    name: str
    plural: str
    counts_as: CountsAs
    sided: bool
    yield_key: str = ""
    tail_apart: bool = False
    use: str = ""
    loads: Literal["one", "many"] = "one"
    worth_asking: bool = False
    wished_for: bool = False
    of_plan_only: bool = False
    bare: bool = False
    takes_the_rest: bool = False

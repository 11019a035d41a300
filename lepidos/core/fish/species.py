"""What the guide knows of one kind of fish, as frozen values. Every part names its source."""

from functools import lru_cache
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

LengthType = Literal["total", "fork", "standard", "lower_jaw_fork", "disc_width", "mantle"]
Side = Literal["A", "B", ""]
Skin = Literal["grey", "green", "brown", "blue", "gold", "sand", "red", "white"]
Coordinate = Annotated[float, Field(ge=-10, le=10)]  # of a drawing: nothing lies outside
Point = tuple[Coordinate, Coordinate]
Line = Annotated[tuple[Point, ...], Field(min_length=2, max_length=400)]
Loop = Annotated[tuple[Point, ...], Field(min_length=3, max_length=400)]
Name = Annotated[str, Field(min_length=1, max_length=60)]
Share = Annotated[float, Field(gt=0, lt=1)]
# Body plans without a tail fin to measure to.
TAILLESS = frozenset({"ray", "squid", "eel"})
# how far the root of a drawn tail may lie off a fish's own, as a ratio of lengths (practice)
DRAWN_SD = 0.02


class Known(BaseModel):
    """Base of guide values: frozen, finite, and a misspelt key is an error and not a default."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Sourced(Known):
    """Values with the key of their source in `guide/sources.toml`."""

    source: str
    note: str = ""


class LengthWeight(Sourced):
    """W [g] = a · L [cm] ^ b (Le Cren 1951; Ricker 1975), L of the stated type.

    `sd_log` is the residual standard deviation of ln W; `n` is the number of fish behind the
    fit where it is known; the range is the one the source measured, in cm.
    """

    a: float = Field(ge=1e-5, le=1)
    b: float = Field(ge=2, le=3.6)
    sd_log: float = Field(gt=0, lt=1)
    length_type: LengthType
    smallest_cm: float = Field(ge=0.1, le=10_000)
    largest_cm: float = Field(ge=0.1, le=10_000)
    n: int | None = Field(default=None, ge=3)

    @model_validator(mode="after")
    def _smallest_first(self) -> "LengthWeight":
        if not self.smallest_cm < self.largest_cm:
            raise ValueError("smallest_cm must be less than largest_cm")
        return self


class Ratio(Sourced):
    """A positive figure (a ratio, a number of days) with one standard deviation."""

    mean: float = Field(ge=0.01, le=1000)
    sd: float = Field(ge=0, le=1000)


class Fraction(Known):
    """A part's mass per *round* mass: mean and one standard deviation, both sides together."""

    mean: Share
    sd: Share


class Yields(Sourced):
    """Where a round fish goes. `fillet_skin_on` holds what `fillet_skinless` and `skin` hold."""

    gut: Fraction
    head: Fraction
    frame: Fraction
    fillet_skin_on: Fraction
    fillet_skinless: Fraction
    collar: Fraction | None = None
    cheek: Fraction | None = None
    belly: Fraction | None = None
    fin_muscle: Fraction | None = None

    @model_validator(mode="after")
    def _fits_in_the_fish(self) -> "Yields":
        named = (self.gut, self.head, self.frame, self.fillet_skin_on)
        extras = (self.collar, self.cheek, self.fin_muscle)
        total = sum(f.mean for f in named) + sum(f.mean for f in extras if f)
        if total > 1:
            raise ValueError(f"the parts add up to {total:.2f} of the fish")
        if self.fillet_skinless.mean >= self.fillet_skin_on.mean:
            raise ValueError("a skinless fillet must be lighter than one with its skin")
        return self


class Keeping(Sourced):
    """Months of good eating at −18 °C in a sealed bag, by fat class."""

    fat: Literal["lean", "medium", "fatty"]
    months: int = Field(gt=0, le=24)


class Fin(Known):
    """A fin on the back or the belly edge.

    `base` is where it starts and ends, as parts of total length; `edge` its outer edge as
    (part of the base, height in total lengths). `spiny`: all its rays are spines; of any other the
    `spines` stand foremost, soft rays behind. `spines` is their number, 0 where nobody counted.
    """

    name: str
    on: Literal["back", "belly"]
    base: Point
    edge: Line
    spiny: bool = False
    spines: int = Field(default=0, ge=0, le=80)

    @model_validator(mode="after")
    def _runs_from_head_to_tail(self) -> "Fin":
        if not 0 <= self.base[0] < self.base[1] <= 1:
            raise ValueError(f"the base of the {self.name} must run from head to tail, 0 to 1")
        return self


class Counts(Sourced):
    """What one measures and counts on a kind of fish: head and greatest depth in parts of total
    length, the spines of each fin by its name, and where those are that sting.

    `stings` names fins of which every spine does, or "pectoral", "pelvic" (one a side), "gill
    cover" (one a side), "tail".
    """

    head: Share
    depth: Share
    spines: dict[str, Annotated[int, Field(ge=1, le=80)]] = Field(default={}, max_length=12)
    stings: tuple[str, ...] = Field(default=(), max_length=6)


class Tail(Known):
    """The tail: where its root is and how high, its span, and how deep it is cut.

    "uneven" has a longer upper lobe, as a shark's; "pointed" runs out in the body's line.
    """

    root: float = Field(ge=0.5, le=0.999)
    root_depth: float = Field(gt=0, le=1)
    span: float = Field(gt=0, le=2)
    shape: Literal["forked", "straight", "rounded", "notched", "uneven", "pointed"]
    notch: float = Field(default=0.0, ge=0, le=0.5)


class Mark(Known):
    """What one sees on the skin, in station coordinates.

    `at` is where each stands; of a line, which runs along the fish, the points it goes through.
    `dead` is what comes of it some hours after death; one that "shows" is only seen then.
    """

    kind: Literal["bars", "waves", "spots", "blotch", "knobs", "line"]
    colour: str = Field(pattern=r"^[a-z]{1,20}$")
    size: float = Field(gt=0, le=0.5)
    at: tuple[Point, ...] = Field(max_length=400)
    dead: Literal["stays", "pales", "goes", "shows"] = "stays"

    @model_validator(mode="after")
    def _line_has_two_ends(self) -> "Mark":
        if self.kind == "line" and len(self.at) < 2:
            raise ValueError("a line goes through at least two points")
        return self


class Shape(Sourced):
    """Proportions in parts of total length, snout at 0, tail tip at 1, back upwards.

    `barbel`: one on the chin; `barbels` are those of a fish with more, and feelers, as lines in
    station coordinates, as many as are seen from one side. `skin` is the colour of a living or
    just landed fish, `skin_dead` that of some hours later; None: the same, only paler.
    """

    back: Loop
    belly: Loop
    head: float = Field(gt=0.05, lt=0.5)
    vent: float = Field(gt=0.1, lt=0.9)
    width_per_depth: float = Field(gt=0.05, le=1.2)
    eyes: tuple[tuple[Coordinate, Coordinate, Annotated[float, Field(gt=0, le=0.2)]], ...] = Field(
        min_length=1, max_length=2
    )
    mouth: Line
    lateral_line: Line
    pectoral: Loop
    pelvic: Loop | tuple[()] = ()
    barbel: bool = False
    barbels: tuple[Line, ...] = Field(default=(), max_length=8)
    faces: Literal["left", "right"] = "left"
    skin: Skin = "grey"
    skin_dead: Skin | None = None
    fins: tuple[Fin, ...]
    tail: Tail
    marks: tuple[Mark, ...] = Field(default=(), max_length=60)

    @model_validator(mode="after")
    def _parts_follow_one_another(self) -> "Shape":
        if not self.head < self.vent < self.tail.root:
            raise ValueError("gill cover, vent and tail root must follow one another")
        return self


class Species(Known):
    """One kind of fish. `key` is its file's name; `code` starts the codes of its fish: P1, P2.

    `climate`: whose law of spoilage it follows, see core/cold/spoilage.py. `venom_spines` is how
    many are counted off before the knife; 0 where their number varies. `waters`: where it is met,
    by key. `nearest`: the kind that it is cut like, of a fish that the guide lacks.
    """

    key: str
    name: Name
    plural: Name
    scientific: str = Field(max_length=80)
    kind: str = "other fish"
    code: str = Field(pattern=r"^[A-Z]{1,2}$")
    other_names: tuple[Name, ...] = ()
    body_plan: str
    summary: str
    parasites: str = ""
    longest_cm: float = Field(gt=5, lt=500)
    longest_source: str
    length_type: LengthType
    traits: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    venom_spines: int = Field(default=0, ge=0, le=60)
    skin_eaten: bool = True
    length_weight: LengthWeight
    total_per_fork: Ratio
    total_per_standard: Ratio | None = None
    total_per_lower_jaw_fork: Ratio | None = None
    total_per_disc_width: Ratio | None = None
    total_per_mantle: Ratio | None = None
    round_per_gutted: Ratio
    yields: Yields
    ice_life: Ratio
    climate: Literal["temperate", "tropical"] = "temperate"
    keeping: Keeping
    shape: Shape
    counted: Counts | None = None
    waters: tuple[str, ...] = ()
    nearest: str = ""

    def warns_of(self, general: str) -> bool:
        """Whether it carries a general caution, or one of its own in the place of it."""
        return any(own == general or own.startswith(f"{general}_") for own in self.cautions)

    @model_validator(mode="after")
    def _ratios_can_be(self) -> "Species":
        for name, low, high in (
            ("total_per_fork", 1.0, 2.0), ("total_per_standard", 1.0, 2.0),
            ("total_per_lower_jaw_fork", 1.0, 3.0), ("total_per_disc_width", 0.5, 5.0),
            ("total_per_mantle", 1.0, 5.0), ("round_per_gutted", 1.0, 3.0),
            ("ice_life", 0.5, 100.0),
        ):  # fmt: skip
            ratio: Ratio | None = getattr(self, name)
            if ratio is not None and not (low <= ratio.mean <= high and ratio.sd <= ratio.mean):
                raise ValueError(f"{name} must be {low:g} to {high:g}, its sd no more than it")
        for kind in (self.length_type, self.length_weight.length_type):
            if kind != "total" and kind not in self.total_per:
                raise ValueError(f"give total_per_{kind}, since it is measured so")
        return self

    @property
    def total_per(self) -> dict[LengthType, Ratio]:
        """Total length per length of each type that is taken of this kind; standard length by its
        drawing where nobody measured it and it has a tail fin.
        """
        return _total_per(self)

    @property
    def length_types(self) -> tuple[LengthType, ...]:
        """How such a fish may be measured, the usual way first."""
        has_tail = self.body_plan not in TAILLESS
        taken = [kind for kind in self.total_per if kind != "fork" or has_tail]
        return tuple(dict.fromkeys((self.length_type, "total", *taken)))

    def __hash__(self) -> int:
        return id(self)  # species are read once, and answers kept for one are looked up often


@lru_cache(maxsize=4096)  # asked of every fish on every page
def _total_per(one: Species) -> dict[LengthType, Ratio]:
    found: dict[LengthType, Ratio | None] = {
        "fork": one.total_per_fork,
        "standard": one.total_per_standard,
        "lower_jaw_fork": one.total_per_lower_jaw_fork,
        "disc_width": one.total_per_disc_width,
        "mantle": one.total_per_mantle,
    }
    if found["standard"] is None and one.body_plan not in TAILLESS:
        drawn = 1 / one.shape.tail.root
        found["standard"] = Ratio(mean=drawn, sd=DRAWN_SD, source=one.shape.source)
    return {kind: ratio for kind, ratio in found.items() if ratio is not None}

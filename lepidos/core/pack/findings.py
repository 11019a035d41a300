"""What a cutter saw, what follows from it, and where by-products may go."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

from pydantic import Field

from lepidos.core.errors import require
from lepidos.core.fish.species import Known, Sourced
from lepidos.core.limits import MAX_ACROSS_M, MIN_ACROSS_M, require_weight

Raw = Literal["", "hold", "never"]
MIN_KEEPING = 0.4  # however much was seen, the months are not cut below this part (practice)


class FindingKind(Known):
    """One thing that may be seen, and its consequences (see `guide/findings.toml`).

    `keeping` is a factor on the months in the freezer; `gives` a piece that the fish then has;
    `step` one more step to do, with its reason. `spot`: it has a place on the fish and is cut out.
    `at`: the steps at which it is usually seen.
    """

    key: str
    name: str
    touch: str
    say: str
    counted: bool = False
    places: tuple[str, ...] = ()
    raw: Raw = ""
    keeping: float = Field(default=1.0, gt=0, le=1)
    label: str = ""
    caution: str = ""
    step: str = ""
    why: str = ""
    gives: str = ""
    hint: str = ""
    spot: bool = False
    at: tuple[str, ...] = ()


class SpotSize(Known):
    """How wide a spot is, by something everybody knows [m]."""

    key: str
    name: str
    across_m: float = Field(ge=MIN_ACROSS_M, le=MAX_ACROSS_M)


class FindingKinds(Sourced):
    """The whole list, and how wide a spot may be said to be."""

    kinds: tuple[FindingKind, ...]
    spot_sizes: tuple[SpotSize, ...]

    def usual_at(self, step: str) -> tuple[FindingKind, ...]:
        """What is usually seen at a step, and is noted without a number."""
        return tuple(s for s in self.kinds if step in s.at and not s.counted)

    def one(self, key: str) -> FindingKind | None:
        """By key."""
        return next((s for s in self.kinds if s.key == key), None)


class ByproductUse(Known):
    """Where a by-product may go; `used` counts as use of the fish, no `pieces` means any.

    `takes_poison`: also parts that must not be used (see `hazards.never_used`)."""

    key: str
    name: str
    used: bool
    pieces: tuple[str, ...]
    caution: str
    cautions: dict[str, str] = Field(default_factory=dict)
    takes_poison: bool = False

    def suits(self, piece: str) -> bool:
        """Whether it is offered for a piece."""
        return not self.pieces or piece in self.pieces

    def caution_of(self, piece: str) -> str:
        """The caution that goes with sending a piece there."""
        return self.cautions.get(piece, self.caution)


class ByproductUses(Sourced):
    """The whole list."""

    uses: tuple[ByproductUse, ...]

    def one(self, key: str) -> ByproductUse | None:
        """By key."""
        return next((f for f in self.uses if f.key == key), None)


@dataclass(frozen=True)
class Consequences:
    """What everything that was seen on a fish comes to."""

    raw: Raw
    keeping: float
    labels: tuple[str, ...]
    cautions: tuple[str, ...]
    gives: tuple[str, ...]
    hints: tuple[str, ...]


def consequences(seen: Sequence[FindingKind]) -> Consequences:
    """The strictest of each: "never" over "hold", keeping factors multiplied, labels once."""
    keeping = 1.0
    for sight in {s.key: s for s in seen}.values():
        keeping *= sight.keeping
    raws = {s.raw for s in seen}
    return Consequences(
        "never" if "never" in raws else "hold" if "hold" in raws else "",
        max(MIN_KEEPING, keeping),
        tuple(dict.fromkeys(s.label for s in seen if s.label)),
        tuple(dict.fromkeys(s.caution for s in seen if s.caution)),
        tuple(dict.fromkeys(s.gives for s in seen if s.gives)),
        tuple(dict.fromkeys(s.hint for s in seen if s.hint)),
    )


def shortened(packed: date, best: date, factor: float) -> date:
    """A best-by date with its time cut to `factor`, 0 to 1.

    Raises: OutOfRange.
    Example:
        >>> shortened(date(2026, 1, 1), date(2026, 1, 11), 0.5)
        datetime.date(2026, 1, 6)
    """
    require("keeping factor", factor, 0.0, 1.0, "")
    return packed + timedelta(days=int((best - packed).days * factor))


@dataclass(frozen=True)
class WholeUse:
    """How much of a fish is used: used, decided to be waste, and not decided, of its weight."""

    used_kg: float
    waste_kg: float
    undecided_kg: float
    round_kg: float

    @property
    def fraction(self) -> float:
        """Part of the round weight that is used."""
        return min(1.0, self.used_kg / self.round_kg)


def whole_use(round_kg: float, parts: Sequence[tuple[float, bool | None]]) -> WholeUse:
    """Add up the weighed parts of a fish [kg], each used, not used, or not decided (None).

    Args: round_kg within `limits`.
    Raises: OutOfRange.
    """
    require_weight(round_kg)
    used = sum(kg for kg, how in parts if how)
    waste = sum(kg for kg, how in parts if how is False)
    return WholeUse(used, waste, sum(kg for kg, how in parts if how is None), round_kg)

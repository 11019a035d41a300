"""The lengths that people take of a fish, and one from another by the kind's own ratios."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from lepidos.core.errors import OutOfRange
from lepidos.core.fish.species import LengthType, Ratio


@dataclass(frozen=True)
class LengthKind:
    """What a length is called, in a line of text and on its own, and how it is taken."""

    short: str
    name: str
    how: str


LENGTHS: dict[LengthType, LengthKind] = {
    "total": LengthKind("total", "total length", "snout to the tip of the tail, lobes together"),
    "fork": LengthKind("fork", "fork length", "snout to the middle of the tail's edge"),
    "standard": LengthKind("standard", "standard length", "snout to where the tail fin begins"),
    "lower_jaw_fork": LengthKind(
        "lower jaw to fork", "lower jaw to fork length", "tip of the lower jaw to the fork"
    ),
    "disc_width": LengthKind("disc width", "disc width", "wing tip to wing tip"),
    "mantle": LengthKind("mantle", "mantle length", "the tube's edge over the back to its tip"),
}
# all of them, for a sentence
KINDS_OF_LENGTH = ", ".join(k.short for k in LENGTHS.values()).replace(", mantle", " or mantle")


def length_name(kind: str, short: bool = False) -> str:
    """What a length of this type is called, as in “60 cm fork”; of no type that we know, itself.

    >>> length_name("lower_jaw_fork"), length_name("fork", short=True), length_name("pre-anal")
    ('lower jaw to fork length', 'fork', 'pre-anal')
    """
    one = next((of for key, of in LENGTHS.items() if key == kind), None)
    if one is None:
        return kind
    return one.short if short else one.name


class NotTaken(OutOfRange):
    """A length that nobody takes of such a fish: the width of a cod."""

    def __init__(self, kind: str, length_m: float, known: Iterable[str]) -> None:
        super().__init__("length", length_m, 0, 0, "m")
        others = ", ".join(length_name(one, short=True) for one in known)
        self.args = (f"no {length_name(kind)} is taken of such a fish; use {others}",)


def to_length_type(
    length_m: float, have: LengthType, want: LengthType, total_per: Mapping[LengthType, Ratio]
) -> float:
    """A length as another type of it, by the kind's mean ratios [m].

    Args: total_per: total length per length of each other type, as `Species.total_per`.
    Raises: NotTaken when such a length is not taken of this kind of fish.

    >>> swordfish = {"lower_jaw_fork": Ratio(mean=1.35, sd=0.05, source="memory")}
    >>> round(to_length_type(2.0, "lower_jaw_fork", "total", swordfish), 2)
    2.7
    """
    if have == want:
        return length_m
    for kind in (have, want):
        if kind != "total" and kind not in total_per:
            raise NotTaken(kind, length_m, ("total", *total_per))
    total = length_m if have == "total" else length_m * total_per[have].mean
    return total if want == "total" else total / total_per[want].mean


def ratio_spread(
    have: LengthType, want: LengthType, total_per: Mapping[LengthType, Ratio]
) -> float:
    """Relative standard deviation that a change of type brings into a length, 0 of the same."""
    if have == want:
        return 0.0
    parts = [total_per[kind] for kind in (have, want) if kind != "total"]
    return float(sum((ratio.sd / ratio.mean) ** 2 for ratio in parts) ** 0.5)

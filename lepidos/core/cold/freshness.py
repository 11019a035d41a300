"""Looking a fish over: demerit points after the idea of the Quality Index Method.

Each mark is scored from 0 (as caught) upwards; the points of all marks add up to an index that
rises in a straight line with days on ice and is at its maximum when the fish is no longer good
(Bremner 1985; Larsen, Heldbo, Jespersen & Nielsen 1992, both memory). Ours has five quick marks
and is no published scheme: the sum and the straight line are the method's, the marks are not.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from pydantic import Field

from lepidos.core.errors import OutOfRange, require
from lepidos.core.fish.sketch import Stroke
from lepidos.core.fish.species import Known

SEEN_SD = 0.15  # of the index, as a part of its maximum: one person, one look (memory)
MODEL_SD = 0.25  # of modelled ice-days, as a part of themselves, and at least this many days:
MODEL_MIN_D = 0.3  # see above (memory)


class Grade(Known):
    """What one sees at a mark, and its demerit points."""

    points: int = Field(ge=0, le=3)
    word: str
    sketch: tuple[Stroke, ...] = ()


class DemeritMark(Known):
    """One thing to look at, from good to bad."""

    key: str
    name: str
    look: str
    grades: tuple[Grade, ...] = Field(min_length=2)

    @property
    def worst(self) -> int:
        """The most points it can give."""
        return max(g.points for g in self.grades)


@dataclass(frozen=True)
class Index:
    """Demerit points given, the most that these marks can give, and how many marks were seen."""

    points: int
    most: int
    seen: int

    @property
    def share(self) -> float:
        """Points of the most possible."""
        return self.points / self.most


def quality_index(scores: Mapping[str, int], marks: Mapping[str, DemeritMark]) -> Index | None:
    """The sum of the marks that were looked at; None when none was.

    Raises: OutOfRange for points that a mark does not have.
    """
    points = most = 0
    for key, score in scores.items():
        mark = marks[key]
        if score not in {g.points for g in mark.grades}:
            raise OutOfRange(mark.name, score, 0, mark.worst, "points")
        points += score
        most += mark.worst
    return Index(points, most, len(scores)) if scores else None


@dataclass(frozen=True)
class IceAge:
    """Days on ice that a fish is worth now, with one standard deviation, and what is left."""

    days: float
    sd: float
    life_days: float

    @property
    def left_days(self) -> float:
        """Days of good eating left on ice; never below 0."""
        return max(0.0, self.life_days - self.days)


def ice_age(modelled_days: float | None, index: Index | None, life_days: float) -> IceAge | None:
    """What the thermometer's history and the eye say together.

    The eye: index ÷ most × life. The model: integrated ice-days. Each is weighed by its variance;
    fewer marks seen make the eye's wider. None when neither has anything to say.

    Args: modelled_days 0 to 1000; life_days above 0. Raises: OutOfRange.
    """
    require("ice life", life_days, 0.1, 1000, "days")
    known: list[tuple[float, float]] = []
    if modelled_days is not None:
        require("ice-days", modelled_days, 0, 1000, "days")
        known.append((modelled_days, max(MODEL_MIN_D, MODEL_SD * modelled_days)))
    if index is not None:
        spread = SEEN_SD * life_days * (5 / index.seen) ** 0.5
        known.append((index.share * life_days, spread))
    if not known:
        return None
    weights = [1 / sd**2 for _, sd in known]
    total = sum(weights)
    days = sum(w * d for w, (d, _) in zip(weights, known, strict=True)) / total
    return IceAge(days, total**-0.5, life_days)

"""What must not be eaten or brought ashore, or only with care, by any of its names."""

from functools import cache, cached_property
from pathlib import Path
from typing import Literal

from lepidos.core.fish.species import Known, Sourced
from lepidos.guide.names import ALIKE, FITS, IS, folded, likeness, resemblance
from lepidos.guide.reading import read

MIN_LETTERS = 3  # fewer are in half of all names


class Danger(Known):
    """A kind of danger in a sentence, and who decides; `stop`: such a fish is no food at all."""

    title: str
    text: str
    decides: str
    stop: bool


class Warned(Known):
    """A fish, or a state of fish: which part of it, why, and what to do, an order a line.

    `local_names` begin with their language, as in "it:pesce palla". `sure` is A (would be signed),
    B (fair) or C (a guess).
    """

    key: str
    name: str
    other_names: tuple[str, ...] = ()
    local_names: tuple[str, ...] = ()
    scientific: tuple[str, ...] = ()
    groups: tuple[str, ...]
    part: str
    why: str
    do: tuple[str, ...]
    where: str
    sure: Literal["A", "B", "C"]

    @cached_property
    def names(self) -> tuple[str, ...]:
        """Every name that finds it, in small letters without accents."""
        local = (name.partition(":")[2] for name in self.local_names)
        own = (self.name, self.name.partition(" (")[0])
        every = (*own, *self.other_names, *local, *self.scientific)
        return tuple(dict.fromkeys(folded(name) for name in every))

    def resembles(self, wanted: str) -> float:
        """How much its name that is most like a name resembles it, 0 to 100."""
        return max(resemblance(wanted, name) for name in self.names)


class DoNotEat(Sourced):
    """All that is warned of, with the dangers they are of."""

    groups: dict[str, Danger]
    kinds: tuple[Warned, ...]

    def dangers(self, one: Warned) -> tuple[Danger, ...]:
        """What it can do, the worst first."""
        return tuple(self.groups[key] for key in self.groups if key in one.groups)

    def stops(self, one: Warned) -> bool:
        """Whether it is no food at all, or not to be brought ashore."""
        return any(danger.stop for danger in self.dangers(one))

    def warning(self, called: str, known: float | None = None) -> str:
        """What to know before anybody eats a fish that the guide has under no such name.

        Of one that is no food at all, of which this is a name or a word of it, and of the others by
        their very names only. `known`, how much the guide's own names resemble it (0 to 100): also
        of one whose name resembles it more than they. "" where nothing is known.
        """
        wanted = folded(called)[:60]
        found = self.search(called, most=len(self.kinds), least=FITS if known is None else ALIKE)
        hits = [
            one
            for one in found
            if wanted in one.names
            or (self.stops(one) and (known is None or one.resembles(wanted) > known))
        ]
        if not hits:
            return ""
        danger = self.dangers(hits[0])[0]
        return f"“{called}” may be: {hits[0].name}. {danger.text} {danger.decides}"

    def search(self, text: str, most: int = 4, least: float = ALIKE) -> list[Warned]:
        """Those that a name finds; the best first, of them what is no food.

        `least`: FITS, and a name that only resembles it does not find it, for a name that another
        fish bears as it is written: a witch is not what is sold *with* a smell.
        """
        wanted = folded(text)[:60]
        least = IS if len(wanted) < MIN_LETTERS else least
        scored = [(max(likeness(wanted, name) for name in one.names), one) for one in self.kinds]
        found = [(-score, not self.stops(one), one) for score, one in scored if score >= least]
        return [one for *_, one in sorted(found, key=lambda row: row[:2])][:most]


@cache
def do_not_eat() -> DoNotEat:
    """As the guide has it. Raises ValueError for a file that does not hold."""
    found = DoNotEat(**read(Path(__file__).with_name("do_not_eat.toml")))
    if unknown := {group for one in found.kinds for group in one.groups} - set(found.groups):
        raise ValueError(f"do_not_eat.toml: unknown groups {sorted(unknown)}")
    keys = [one.key for one in found.kinds]
    if len(set(keys)) < len(keys):
        raise ValueError("do_not_eat.toml: two kinds share a key")
    return found

"""What a fish would give: what is known of it from whom, and what another way would change."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.cutting.differences import differences
from lepidos.core.cutting.model import FishToCut, Skin
from lepidos.core.errors import OutOfRange, Refused, Unknown
from lepidos.core.estimate import Estimate
from lepidos.core.fish.species import Species
from lepidos.core.yields.balance import expected_fillet
from lepidos.core.yields.forecast import Learned
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.own_measures import as_measured
from lepidos.stations.table.forecasts import learned
from lepidos.store.schedule import boards

LEVEL = 0.8  # of the intervals that are told: four of five
BIGGER = 1.2  # a fish this many times as long
MAX_NAMED = 60


@dataclass(frozen=True)
class WhatIfSource:
    """The same forecast with more and more known: from whom, of how many fish, its interval."""

    words: str
    fish: int
    fillet: Estimate

    @property
    def width(self) -> float:
        """Of its interval, as a part of its middle."""
        return (self.fillet.high - self.fillet.low) / self.fillet.value


@dataclass(frozen=True)
class OtherWay:
    """Something else: what it would give, its minutes beside the usual ones."""

    words: str
    fillet: Estimate
    minutes: float | None


@dataclass(frozen=True)
class WhatIf:
    """A fish of a length, its weight (`by_guide` alone; `weight` with `weighed` fish of the crew's
    own), what is foreseen by whom, and other ways.
    """

    species: Species
    length_m: float
    weight: Estimate
    by_guide: Estimate
    weighed: int
    skin: Skin
    cutter: str
    sources: tuple[WhatIfSource, ...]
    others: tuple[OtherWay, ...]

    @property
    def fillet(self) -> Estimate:
        """With all that is known."""
        return self.sources[-1].fillet


def what_if(ctx: AppContext, name: str, length_m: float, skin: Skin, cutter: str) -> WhatIf:
    """Raises Refused with the field."""
    try:
        species = ctx.guide.find(name)
    except Unknown as error:
        raise Refused({"species": str(error)}) from error
    with ctx.store.reading():
        taught = learned(ctx, species)
        measured, weighed = as_measured(ctx, species)
    try:
        weight = weight_from_length(length_m, "total", measured, LEVEL)
        by_guide = weight_from_length(length_m, "total", species, LEVEL)
    except OutOfRange as error:
        raise Refused({"length": str(error)}) from error

    def foreseen(of: Species, skin: Skin) -> Estimate:
        return expected_fillet(weight, of, skin, LEVEL)

    crew = taught.species_for("", weight.value)
    sources = [WhatIfSource("the guide alone", 0, foreseen(species, skin))]
    if taught.learned_from:
        sources.append(
            WhatIfSource("and your crew's fish", taught.learned_from, foreseen(crew, skin))
        )
    best = crew
    if own := taught.of_cutter(cutter):
        best = taught.species_for(cutter, weight.value)
        sources.append(WhatIfSource(f"and {cutter}'s own", own, foreseen(best, skin)))
    found = WhatIf(measured, length_m, weight, by_guide, weighed, skin, cutter, tuple(sources), ())
    return replace(found, others=tuple(_others(ctx, found, best, taught)))


def _others(ctx: AppContext, found: WhatIf, best: Species, taught: Learned) -> Iterator[OtherWay]:
    """The other skin, a longer fish, and each method's other way."""
    weight, length_m, skin = found.weight, found.length_m, found.skin
    other: Skin = "off" if skin == "on" else "on"
    yield OtherWay(f"Skin {other}", expected_fillet(weight, best, other, LEVEL), None)
    try:
        longer = weight_from_length(length_m * BIGGER, "total", found.species, LEVEL)
    except OutOfRange:
        pass  # such a fish is longer than any
    else:
        of = taught.species_for(found.cutter, longer.value)
        words = f"A fish {(BIGGER - 1) * 100:.0f} % longer"
        yield OtherWay(words, expected_fillet(longer, of, skin, LEVEL), None)
    asked = FishToCut(weight.value, length_m, skin)
    plan = ctx.guide.plan_of(found.species)
    for one in differences(asked, found.species, plan, ctx.guide.pieces, ctx.guide.methods):
        text = one.method.options[one.other].split(":")[0]
        words = f"{one.method.question} {text[:1].upper()}{text[1:]}"
        yield OtherWay(words, found.fillet.scaled(one.fillet_factor), one.minutes)


def cutters_known(ctx: AppContext) -> list[str]:
    """Everybody who ever had a board."""
    with ctx.store.reading():
        return sorted(set(boards.names().values()))[:MAX_NAMED]

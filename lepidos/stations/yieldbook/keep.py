"""Before a trip: how many fish of a size to keep for what is wished and not yet frozen."""

from dataclasses import dataclass

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.cutting.model import Skin
from lepidos.core.errors import OutOfRange, Refused, Unknown
from lepidos.core.estimate import Estimate
from lepidos.core.fish.species import Species
from lepidos.core.yields.balance import expected_fillet
from lepidos.core.yields.keep import fish_needed
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.own_measures import as_measured
from lepidos.stations.table.forecasts import learned
from lepidos.store.deck import rulecards
from lepidos.store.pack import bags
from lepidos.store.records import RuleCardRow

LEVEL = 0.8  # of the intervals that are told: four of five
MAX_PORTIONS = 1000
MAX_SERVING_KG = 2.0


@dataclass(frozen=True)
class Wanted:
    """What is wished: so many servings of a weight, of a fish of a total length [m]."""

    species: str
    length_m: float
    portions: int
    serving_kg: float
    skin: Skin = "on"


@dataclass(frozen=True)
class ToKeep:
    """How many fish: `fish` None: no number is sure enough. `frozen`: servings in the freezer that
    count, `need_kg` what is still to be caught; cards of the crew's own for the kind.
    """

    species: Species
    length_m: float
    weight: Estimate
    fillet: Estimate
    frozen: float
    need_kg: float
    fish: int | None
    learned_from: int
    cards: tuple[RuleCardRow, ...]


def how_many(ctx: AppContext, wanted: Wanted) -> ToKeep:
    """Raises Refused with the field."""
    problems = {}
    if not 1 <= wanted.portions <= MAX_PORTIONS:
        problems["portions"] = f"1 to {MAX_PORTIONS} servings"
    if not 0.02 <= wanted.serving_kg <= MAX_SERVING_KG:
        problems["serving"] = "A serving is between 20 g and 2 kg"
    try:
        species = ctx.guide.find(wanted.species)
    except Unknown as error:
        raise Refused({**problems, "species": str(error)}) from error
    with ctx.store.reading():
        measured, _ = as_measured(ctx, species)
    try:
        weight = weight_from_length(wanted.length_m, "total", measured, LEVEL)
    except OutOfRange as error:
        problems["length"] = str(error)
    if problems:
        raise Refused(problems)
    with ctx.store.reading():
        taught = learned(ctx, species)
        frozen = bags.servings_in([p for p in ctx.guide.pieces if ctx.is_fillet(p)])
        cards = tuple(rulecards.of_species(species.key))
    fillet = expected_fillet(weight, taught.species_for("", weight.value), wanted.skin, LEVEL)
    need_kg = max(0, wanted.portions - frozen) * wanted.serving_kg
    return ToKeep(
        species,
        wanted.length_m,
        weight,
        fillet,
        frozen,
        need_kg,
        fish_needed(need_kg, fillet),
        taught.learned_from,
        cards,
    )

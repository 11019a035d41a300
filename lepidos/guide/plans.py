"""The plan that the guide makes for a fish, held against the checker."""

from lepidos.core.cutting.checker import Fault, check_plan
from lepidos.core.cutting.hazards import cautions_by_step, never_used
from lepidos.core.cutting.plan import FishToCut, plan_cut
from lepidos.core.fish.species import Species
from lepidos.guide.library import Guide


def check(guide: Guide, species: Species, fish: FishToCut) -> list[Fault]:
    """The faults of the plan for this fish; none when it holds. Raises as `plan_cut`."""
    cut = plan_cut(fish, species, guide.plan_of(species), guide.pieces, guide.methods)
    return check_plan(
        cut,
        species,
        guide.pieces,
        guide.checks,
        cautions_by_step(cut, species, guide.cautions),
        kg=fish.round_kg,
        facts=fish.facts,
        purpose=cut.purpose,
        whole=guide.methods.purposes[cut.purpose].whole,
        never=never_used(species, guide.cautions),
    )

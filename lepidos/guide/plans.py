"""The plan that the guide makes for a fish, held against the checker."""

from collections.abc import Iterable, Iterator

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.cutting.checker import check_plan
from lepidos.core.cutting.hazards import cautions_by_step, never_used
from lepidos.core.cutting.model import FishToCut
from lepidos.core.cutting.plan import plan_cut
from lepidos.core.cutting.stand_ins import step_tool
from lepidos.core.cutting.tool_check import Fault, check_tools
from lepidos.core.fish.bodyplan import Step
from lepidos.core.fish.species import Species
from lepidos.guide.library import Guide


class ToolSets:
    """Steps held against sets of tools to hand; what is found of a step's words is kept."""

    def __init__(self, guide: Guide, sets: Iterable[frozenset[str]]) -> None:
        self._tools, self._sets = guide.tools, tuple(sets)
        self._names = {key: tool.name for key, tool in guide.tools.items()}
        self._kept: dict[str, list[Fault]] = {}

    def faults(self, steps: Iterable[Step]) -> list[Fault]:
        """Those of the steps that name a tool which is not there, and nothing instead."""
        return [fault for step in steps for fault in self._of(step)]

    def _of(self, step: Step) -> list[Fault]:
        if step.tool not in self._kept:
            found = []
            for to_hand in self._sets:
                one = step_tool(step.tool, self._tools, to_hand)
                found += check_tools({step.key: (one.tool, one.note)}, self._names, to_hand)
            self._kept[step.tool] = found
        return self._kept[step.tool]


def check(
    guide: Guide, species: Species, fish: FishToCut, tools: ToolSets | None = None
) -> list[Fault]:
    """The faults of the plan for this fish, also with few tools to hand; none when it holds.

    Raises as `plan_cut`.
    """
    cut = plan_cut(fish, species, guide.plan_of(species), guide.pieces, guide.methods)
    without = tools.faults(cut.steps) if tools else []
    return without + check_plan(
        cut,
        species,
        guide.pieces,
        guide.checks,
        cautions_by_step(cut, species, guide.cautions),
        kg=fish.round_kg,
        facts=fish.facts,
        purpose=cut.purpose,
        pieces=fish.pieces,
        whole=guide.methods.is_whole(cut.purpose, guide.plan_of(species), fish.round_kg),
        never=never_used(species, guide.cautions),
        parts={key: one.part for key, one in guide.cautions.items() if one.part},
    )


# a plan with one of these faults hurts someone: it is not taken in
GRAVE = frozenset(
    {"what hurts goes first", "nothing poisonous is a piece", "every caution is said"}
)
SIZES = (0.15, 0.5, 0.9)  # of the way from the smallest measured to the largest
STATES = (
    frozenset[str](),
    frozenset({"bled", "gutted"}),
    frozenset({"bled", "gutted", "headed"}),
)


def faults_of(guide: Guide, species: Species) -> list[Fault]:
    """Each kind of fault that the plans of a species have, over sizes, purposes and states; once.

    What is forgotten is not told of a plan with cuts of its own: the checker does not know them.
    """
    own_cuts = any(
        step.cut and step.key not in guide.checks.steps for step in guide.plan_of(species).steps
    )
    found: dict[tuple[str, str, str], Fault] = {}
    for fish in _samples(guide, species):
        for fault in check(guide, species, fish):
            if not (own_cuts and fault.rule == "nothing is forgotten"):
                found.setdefault((fault.rule, fault.step, fault.words), fault)
    return list(found.values())


def _samples(guide: Guide, species: Species) -> Iterator[FishToCut]:
    fit = species.length_weight
    for part in SIZES:
        cm = fit.smallest_cm + part * (fit.largest_cm - fit.smallest_cm)
        kg = weight_from_length(cm / 100, fit.length_type, species).value
        for purpose in guide.methods.purposes:
            for facts in STATES:
                yield FishToCut(kg, cm / 100, "on", facts, purpose)

"""What the other way of a method would change: steps, minutes, tools, the fillet."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace

from lepidos.core.cutting.methods import Method, Methods, Taken
from lepidos.core.cutting.plan import FishToCut, plan_cut
from lepidos.core.fish.bodyplan import BodyPlan, Piece, Step
from lepidos.core.fish.species import Species


@dataclass(frozen=True)
class Difference:
    """What the other way of a method would change: steps, minutes, the fillet's factor, tools.

    `tools` are those taken up there, each with the one it replaces here.
    """

    method: Method
    taken: Taken
    other: str
    added: tuple[str, ...]
    left_out: tuple[str, ...]
    minutes: float
    fillet_factor: float
    tools: tuple[tuple[str, str], ...]


def differences(
    fish: FishToCut,
    species: Species,
    plan: BodyPlan,
    catalogue: Mapping[str, Piece],
    methods: Methods,
) -> tuple[Difference, ...]:
    """Each method that this plan asks about: the way taken, and what the other would change."""
    own = plan_cut(fish, species, plan, catalogue, methods)
    keys = {s.key for s in own.steps}
    found = []
    for method in methods.methods:
        if method.key not in own.taken:
            continue
        taken = own.taken[method.key]
        other = method.other(taken.option)
        asked = replace(fish, methods={**fish.methods, method.key: other})
        there = plan_cut(asked, species, plan, catalogue, methods)
        others = {s.key for s in there.steps}
        found.append(
            Difference(
                method,
                taken,
                other,
                tuple(s.title for s in there.steps if s.key not in keys),
                tuple(s.title for s in own.steps if s.key not in others),
                there.minutes - own.minutes,
                there.fillet_factor / own.fillet_factor,
                tuple(dict.fromkeys(_changed(own.steps, there.steps))),
            )
        )
    return tuple(found)


def _changed(here: Iterable[Step], there: Iterable[Step]) -> Iterator[tuple[str, str]]:
    before = {s.key: s.tool for s in here}
    for step in there:
        if step.tool != before.get(step.key, step.tool):
            yield step.tool, before[step.key]

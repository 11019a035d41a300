"""What the other way of a method would change: steps, minutes, tools, the fillet."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from lepidos.core.cutting.methods import Method, Methods, TakenWay
from lepidos.core.cutting.model import FishToCut
from lepidos.core.cutting.plan import plan_cut
from lepidos.core.fish.bodyplan import BodyPlan, Piece, Step
from lepidos.core.fish.species import Species


@dataclass(frozen=True)
class Difference:
    """What the other way of a method would change: steps, minutes, the fillet's factor, tools.

    `tools` are those taken up there, each with the one it replaces here; `at` is the key of the
    step of this plan at which it is decided.
    """

    method: Method
    taken: TakenWay
    other: str
    added: tuple[str, ...]
    left_out: tuple[str, ...]
    minutes: float
    fillet_factor: float
    tools: tuple[tuple[str, str], ...]
    at: str


def differences(
    fish: FishToCut,
    species: Species,
    plan: BodyPlan,
    catalogue: Mapping[str, Piece],
    methods: Methods,
) -> tuple[Difference, ...]:
    """Each method whose other way would change a step, a tool or a piece, and what it changes."""
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
        tools = tuple(dict.fromkeys(_changed(own.steps, there.steps)))
        if keys == others and not tools and own.pieces == there.pieces:
            continue
        found.append(
            Difference(
                method,
                taken,
                other,
                tuple(s.title for s in there.steps if s.key not in keys),
                tuple(s.title for s in own.steps if s.key not in others),
                there.minutes - own.minutes,
                there.fillet_factor / own.fillet_factor,
                tools,
                _at(own.steps, there.steps),
            )
        )
    return tuple(found)


def _changed(here: Iterable[Step], there: Iterable[Step]) -> Iterator[tuple[str, str]]:
    before = {s.key: s.tool for s in here}
    for step in there:
        if step.tool != before.get(step.key, step.tool):
            yield step.tool, before[step.key]


def _at(here: Sequence[Step], there: Sequence[Step]) -> str:
    """The first step that the other way does not have, or does otherwise, or has one more after."""
    others = {s.key: s.tool for s in there}
    for step in here:
        if others.get(step.key) != step.tool:
            return step.key
    keys = [s.key for s in here]
    before = keys[0]
    for step in there:
        if step.key not in keys:
            break
        before = step.key
    return before

"""Where the work on a fish stands, and what comes next."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lepidos.core.cutting.model import CuttingPlan, Slot
from lepidos.core.fish.bodyplan import Piece, Step


@dataclass(frozen=True)
class Progress:
    """Where the work on a fish stands: each step "done", "now" or "later", and what comes next."""

    states: tuple[str, ...]
    present: Step | None
    next: Slot | None


def progress(
    plan: CuttingPlan, done: Sequence[Slot | str], catalogue: Mapping[str, Piece]
) -> Progress:
    """Where the work stands after what was done so far.

    What follows is the first thing that is still to be weighed. Gut, head and such that were
    passed over are let go: they went unweighed. Meat that was passed over is come back to. Steps
    without a weight are done once something behind them is, except those that take the venomous
    spines off: until each is ticked, nothing is next for the scale.

    Args:
        done: Slots that were weighed and keys of steps that were ticked, in any order.
    """
    weighed = {slot.key for slot in done if isinstance(slot, Slot)}
    ticked = {key for key in done if isinstance(key, str)}
    step_of = {slot.key: i for i in reversed(range(len(plan.steps)))
               for slot in plan.slots_of(plan.steps[i])}  # fmt: skip
    reached = max(
        (i for i, step in enumerate(plan.steps)
         if step.key in ticked or any(s.key in weighed for s in plan.slots_of(step))),
        default=-1,
    )  # fmt: skip
    last = max((i for i, s in enumerate(plan.slots) if s.key in weighed), default=-1)
    behind = [s for s in plan.slots if step_of.get(s.key, 0) < reached]
    following = next(
        (
            s
            for i, s in enumerate(plan.slots)
            if s.key not in weighed
            and plan.steps[step_of[s.key]].key not in ticked
            and (
                catalogue[s.piece].counts_as == "fillet"
                or (i > last and s not in behind)
                or step_of[s.key] == reached
            )
        ),
        None,
    )
    armed = [i for i, step in enumerate(plan.steps) if step.disarms and step.key not in ticked]
    if armed:
        following = None
    at = step_of[following.key] if following else min(armed, default=len(plan.steps))
    for i in range(reached + 1, at):
        if not plan.slots_of(plan.steps[i]) and plan.steps[i].key not in ticked:
            at = i
            break
    states = []
    for i, step in enumerate(plan.steps):
        slots = plan.slots_of(step)
        finished = all(s.key in weighed for s in slots) if slots else i < reached and i not in armed
        is_done = step.key in ticked or finished
        states.append("now" if i == at else "done" if is_done else "later")
    return Progress(tuple(states), plan.steps[at] if at < len(plan.steps) else None, following)

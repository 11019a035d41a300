"""Are the tools of a plan there? A part of the checker, which shares no code with the planner."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from lepidos.core.fish.bodyplan import Step


@dataclass(frozen=True)
class Fault:
    """Something that does not hold: the rule, the step ("" for the whole plan), and it in words."""

    rule: str
    step: str
    words: str


def check_tools(
    steps: Mapping[str, tuple[str, str]], names: Mapping[str, str], to_hand: Collection[str]
) -> list[Fault]:
    """Steps that are to be done with a tool that is not there, and that nobody tells to do without.

    Args:
        steps: By step, with what it is done and what is said of that.
        names: The guide's tools by key, as steps name them.
        to_hand: Keys of those that are there; none: all are.
    """
    found = []
    missing = [name for key, name in names.items() if to_hand and key not in to_hand]
    for key, (tool, note) in steps.items():
        others = "".join(name for name in names.values() if name not in missing and name in tool)
        found += [
            Fault("tools are there", key, f"there is no {name}, and nothing says so")
            for name in missing
            if name in tool and name not in note and name not in others
        ]
    return found


def named_twice(step: Step) -> list[Fault]:
    """A step whose tools name one tool twice."""
    named = [t.strip() for part in step.tool.split(",") for t in part.split(" and ")]
    twice = {t for t in named if named.count(t) > 1}
    return [Fault("tools are there", step.key, f"{t} is named twice") for t in sorted(twice)]

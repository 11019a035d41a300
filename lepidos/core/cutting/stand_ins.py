"""With what a step is done when its own tool is not to hand."""

import re
from collections.abc import Collection, Mapping
from dataclasses import dataclass

from lepidos.core.fish.species import Known

_PARTS = re.compile(r", | and ")


class Tool(Known):
    """A tool, what it is for, its care; what does instead, and what to do without."""

    key: str
    name: str
    kind: str
    use: str
    care: str
    instead: tuple[str, ...] = ()
    without: str


@dataclass(frozen=True)
class StepTool:
    """With what a step is done, given what is to hand, and what to know when it is not."""

    tool: str
    note: str = ""


def step_tool(named: str, tools: Mapping[str, Tool], to_hand: Collection[str]) -> StepTool:
    """The tool of a step, or what does instead. With nothing named as to hand, everything is.

    Args: `named` the step's own words; `tools` the guide's, by key; `to_hand` keys of them.
    """
    if not to_hand:
        return StepTool(named)
    found: dict[str, None] = {}
    notes: dict[str, None] = {}
    for part in _PARTS.split(named):
        key = _tool_in(part, tools)
        if not key or key in to_hand:
            found[part] = None
            continue
        other = next((o for o in tools[key].instead if o in to_hand), None)
        name = tools[key].name
        found[tools[other].name if other else part] = None
        notes[f"instead of the {name}" if other else f"no {name} to hand: {tools[key].without}"] = (
            None
        )
    return StepTool(" and ".join(found), "; ".join(notes))


def _tool_in(part: str, tools: Mapping[str, Tool]) -> str:
    """The tool that some words name, the longest name that they hold; "" when none."""
    holding = (key for key, tool in tools.items() if re.search(rf"\b{tool.name}s?\b", part))
    return max(holding, key=lambda key: len(tools[key].name), default="")

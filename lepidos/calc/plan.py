"""`lepidos calc plan`: a cutting plan for any fish, purpose, method and tools."""

from typing import Annotated, Any, Literal

import typer

from lepidos.calc.said import plan_told
from lepidos.calc.shared import AsJson, LengthKind, SpeciesName, calc, estimate_of, show
from lepidos.core.errors import BadInput
from lepidos.guide.library import load_guide
from lepidos.stations.guide.planner import STATES, AskPlan, Planned, plan_fish


@calc.command("plan")
def plan(
    species: SpeciesName,
    length_cm: Annotated[float, typer.Option(help="Length [cm]")],
    length_type: LengthKind = "total",
    round_kg: Annotated[float, typer.Option(help="Round weight [kg]; 0: from the length")] = 0.0,
    purpose: Annotated[str, typer.Option(help="What it is for: freezer, grill, fry, raw …")] = (
        "freezer"
    ),
    state: Annotated[str, typer.Option(help="whole, gutted or headed")] = "whole",
    skin: Annotated[Literal["on", "off"], typer.Option(help="Skin on or off")] = "on",
    method: Annotated[
        list[str] | None,
        typer.Option("--method", "--school", help="A way, as head:off; repeatable"),
    ] = None,
    tool: Annotated[list[str] | None, typer.Option(help="A tool to hand; repeatable")] = None,
    as_json: AsJson = False,
) -> None:
    """The ordered steps for this fish, each with its reason; the pieces with grams."""
    guide = load_guide()
    if state not in STATES:
        raise BadInput(f"“{state[:40]}” is not a state; use {', '.join(STATES)}")
    ways = dict(way.partition(":")[::2] for way in method or ())
    if unknown := set(tool or ()) - set(guide.tools):
        raise BadInput(f"There is no tool “{sorted(unknown)[0][:40]}”")
    planned = plan_fish(
        guide,
        AskPlan(
            guide.find(species).key,
            length_cm / 100,
            length_type,
            round_kg or None,
            purpose,
            state,
            skin,
            ways,
            frozenset(tool or ()),
        ),
    )
    if as_json:
        show(as_values(planned), as_json)
    else:
        typer.echo(plan_told(planned))


def as_values(planned: Planned) -> dict[str, Any]:
    """A plan as plain values."""
    return {
        "species": planned.species.key,
        "round_kg": planned.fish.round_kg,
        "purpose": planned.fish.purpose,
        "skin": planned.cut.skin,
        "minutes": planned.cut.minutes * planned.count,
        "better_whole": planned.better_whole,
        "fillet_thickness_mm": planned.thickness_m * 1000,
        "steps": [
            {
                "key": step.key,
                "what": step.title,
                "why": step.why,
                "tool": tool.tool,
                "tool_note": tool.note,
                "zone": step.zone,
                "cut": step.cut,
                "side": step.side,
                "feel": step.feel,
                "wrong": step.wrong,
                "rescue": step.rescue,
                "caution": next(iter(planned.cautions.get(step.key, ())), ""),
                "cautions": list(planned.cautions.get(step.key, ())),
                "minutes": planned.cut.minutes_of[step.key],
                "gives": list(step.gives),
            }
            for step, tool in zip(planned.cut.steps, planned.tools, strict=True)
        ],
        "pieces": {key: estimate_of(value) for key, value in planned.expected.items()},
        "not_worth": [
            {"piece": n.piece.key, "kg": n.kg, "from_kg": n.from_kg, "from_cm": n.from_cm}
            for n in planned.not_worth
        ],
        "choices": [
            {
                "method": d.method.key,
                "way": d.taken.option,
                "because": d.taken.because,
                "other": d.other,
                "other_minutes": d.minutes,
                "other_fillet_factor": d.fillet_factor,
                "other_tools": [{"tool": new, "instead_of": old} for new, old in d.tools],
            }
            for d in planned.differences
        ],
    }

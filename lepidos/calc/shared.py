"""What the commands of `lepidos calc` share: the group, options, how a result is shown."""

import json
from typing import Annotated, Any

import typer

from lepidos.calc.said import told
from lepidos.core.estimate import Estimate
from lepidos.core.fish.species import LengthType

calc = typer.Typer(no_args_is_help=True)

AsJson = Annotated[bool, typer.Option("--json", help="Print JSON")]
SpeciesName = Annotated[str, typer.Option(help="A species of the guide, by any of its names")]
LengthKind = Annotated[LengthType, typer.Option(help="What the length is")]
Level = Annotated[float, typer.Option(help="Probability of the interval")]


def estimate_of(estimate: Estimate) -> dict[str, Any]:
    """An estimate as plain values."""
    return {
        "value_kg": estimate.value,
        "low_kg": estimate.low,
        "high_kg": estimate.high,
        "level": estimate.level,
        "formula": estimate.formula,
        "source": estimate.source,
        "notes": list(estimate.notes),
    }


def show(found: dict[str, Any], as_json: bool) -> None:
    """Print a result as JSON, or in lines for people."""
    typer.echo(json.dumps(found, ensure_ascii=False) if as_json else told(found))

"""`lepidos calc bench`: the order of work from a JSON table."""

import time
from pathlib import Path
from random import Random
from typing import Annotated

import typer
from pydantic import BaseModel, ConfigDict, ValidationError

from lepidos.calc.shared import AsJson, calc, show
from lepidos.core.errors import BadInput
from lepidos.core.schedule import scheduler
from lepidos.core.schedule.model import Cutter, Job


class BenchFish(BaseModel):
    """A fish of `calc bench`'s table; times in minutes from now."""

    model_config = ConfigDict(extra="forbid")
    key: str
    cut_min: float | list[float]
    by_min: float = 1e6
    from_min: float = 0.0
    weight: float = 1.0
    kind: str = "white"


class BenchTable(BaseModel):
    """`calc bench`'s table: fish, cutters, and minutes between kinds as "dark>white"."""

    model_config = ConfigDict(extra="forbid")
    fish: list[BenchFish]
    cutters: list[str] = ["cutter 1"]
    last_kind: str = ""
    changeover_min: dict[str, float] = {}


@calc.command("bench")
def bench_order(
    file: Annotated[Path, typer.Argument(help="JSON: fish, cutters, changeover_min")],
    seconds: Annotated[float, typer.Option(help="How long to improve [s]")] = 2.0,
    seed: Annotated[int, typer.Option(help="Seed of the search")] = 1,
    as_json: AsJson = False,
) -> None:
    """What to cut next, by whom, and when the table is clear; proven for small tables."""
    try:
        asked = BenchTable.model_validate_json(file.read_text("utf-8"))
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise BadInput(f"{file}: {where}: {first['msg']}") from error
    jobs = [
        Job(
            fish.key,
            fish.from_min * 60,
            fish.by_min * 60,
            fish.weight,
            fish.kind,
            tuple(m * 60 for m in minutes_of(fish, len(asked.cutters))),
        )
        for fish in asked.fish
    ]
    boards = [Cutter(name, last_kind=asked.last_kind) for name in asked.cutters]
    changes = {}
    for name, minutes in asked.changeover_min.items():
        one, _, other = name.partition(">")
        changes[one, other] = minutes * 60
    table = scheduler.Bench(jobs, boards, changes)
    began = time.monotonic()
    first_answer = table.dispatch()
    found = table.exact() or table.improve(
        first_answer,
        Random(seed),  # noqa: S311 - a search, no secret
        gone=lambda: (time.monotonic() - began) / max(1e-3, seconds),
    )
    show(
        {
            "how": found.how,
            "proven": found.proven,
            "weighted_lateness_min": found.lateness / 60,
            "dispatch_rule_lateness_min": first_answer.lateness / 60,
            "clear_min": found.clear_s / 60,
            "turns": [
                {
                    "key": t.key,
                    "cutter": t.cutter,
                    "start_min": t.start_s / 60,
                    "end_min": t.end_s / 60,
                    "late_min": t.late_s / 60,
                }
                for t in found.turns
            ],
        },
        as_json,
    )


def minutes_of(fish: BenchFish, cutters: int) -> list[float]:
    return fish.cut_min if isinstance(fish.cut_min, list) else [fish.cut_min] * cutters

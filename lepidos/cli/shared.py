"""What several commands need: their options, the settings chosen, the log opened."""

from collections.abc import Callable
from pathlib import Path
from typing import Annotated

import typer

from lepidos.core.errors import Refused
from lepidos.settings import Settings
from lepidos.stations.base.context import AppContext
from lepidos.stations.trips import trips
from lepidos.web.app import make_context

DataDir = Annotated[Path | None, typer.Option(help="Folder of the data file")]
Trip = Annotated[str, typer.Option(help="A trip's id, or “latest”")]


def settings_of(**chosen: object) -> Settings:
    """The settings, with those that the command was given; None stands for not given."""
    return Settings(**{k: v for k, v in chosen.items() if v is not None})  # type: ignore[arg-type]


def with_context(
    data_dir: Path | None, do: Callable[[AppContext], None], make: bool = False
) -> None:
    """Do something with the log, and close it. `make`: begin a log where there is none.

    Raises FileProblem when the file cannot be used, and as `do`.
    """
    ctx = make_context(settings_of(data_dir=data_dir), make, attach=False)
    try:
        do(ctx)
    finally:
        ctx.store.close()


def trip_id_of(ctx: AppContext, trip: str) -> str:
    """The id of a trip that was named, or of the latest. Raises Refused when there is none."""
    found = trips.latest_trip_id(ctx) if trip == "latest" else trip
    if found is None:
        raise Refused({"": "There is no trip yet; start one in the app"})
    return found

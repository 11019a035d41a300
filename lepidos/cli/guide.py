"""Commands for those who know fish and write the guide's files."""

import json
from pathlib import Path
from typing import Annotated

import typer

from lepidos.core.errors import Refused
from lepidos.core.fish.species import Species
from lepidos.guide.file_schemas import file_schemas
from lepidos.guide.label_words import label_languages
from lepidos.guide.library import FOLDER, Guide, load_guide
from lepidos.guide.plans import faults_of
from lepidos.guide.problems import GuideProblem
from lepidos.stations.guide.tryout import try_out

guide = typer.Typer(no_args_is_help=True, help="The guide: fish, cuts, cautions, words.")


@guide.command("check")
def check(
    fish: Annotated[
        list[str] | None, typer.Argument(help="Draw and plan only these; all when none is named")
    ] = None,
    folder: Annotated[Path, typer.Option(help="The guide's files")] = FOLDER,
) -> None:
    """Read every file; draw, cool and cut each fish; ask the checker of every plan."""
    try:
        found = load_guide(folder)
        label_languages(folder)
    except ValueError as error:
        for line in error.said if isinstance(error, GuideProblem) else (str(error),):
            where = f"{error.where}: " if isinstance(error, GuideProblem) else ""
            typer.echo(f"{where}{line}", err=True)
        raise typer.Exit(1) from None
    if unknown := set(fish or ()) - set(found.species):
        raise Refused({"": f"The guide has no {', '.join(sorted(unknown))}"})
    chosen = [found.species[key] for key in fish or found.species]
    bad = [line for one in chosen for line in _faults(found, one)]
    for line in bad:
        typer.echo(line, err=True)
    if bad:
        raise typer.Exit(1)
    typer.echo(f"{len(chosen)} fish hold; {len(found.plans)} plans, {len(found.cautions)} cautions")


def _faults(found: Guide, one: Species) -> list[str]:
    try:
        try_out(found, [one])
    except ValueError as error:
        return [str(error)]
    return [f"{one.key}, step {f.step}: {f.rule}: {f.words}" for f in faults_of(found, one)]


@guide.command("schema")
def schema(
    folder: Annotated[Path, typer.Argument(help="Where to write the files")],
) -> None:
    """Write a JSON Schema for each kind of guide file, for use in an editor."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, found in file_schemas().items():
        path = folder / f"{name}.schema.json"
        path.write_text(json.dumps(found, indent=1, ensure_ascii=False) + "\n", "utf-8")
        typer.echo(str(path))

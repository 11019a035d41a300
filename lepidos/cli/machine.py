"""Commands that say how things are: what this machine lacks, the settings, the version."""

import typer

from lepidos import __version__
from lepidos.cli.shared import DataDir, settings_of
from lepidos.core.errors import Conflict
from lepidos.settings import Settings
from lepidos.stations.health.checks import Check, check_all
from lepidos.stations.health.copies import Copies
from lepidos.store.file.running import only_one
from lepidos.web.app import make_context
from lepidos.web.health.machine import check_machine


def doctor(data_dir: DataDir = None) -> None:
    """Say what is right and wrong with this machine: file, copies, clock, devices, fonts, browser.

    Ends with 1 when something needs a look. Also while the app is running.
    """
    chosen = settings_of(data_dir=data_dir)
    runs = _is_running(chosen)
    ctx = make_context(chosen, make=False, attach=not runs)
    try:
        copies = Copies(chosen.data_file, chosen.backup_folder)
        found = check_all(ctx, copies, chosen.host, chosen.open_to_all, chosen.share)
        found += check_machine(chosen)
    finally:
        ctx.scales.close()
        ctx.store.close()
    if runs and chosen.scale:
        found = [one for one in found if not one.name.startswith("Scale")]
        said = "The running app listens to it; its page How the app is says how it is."
        found.append(Check("Scale", True, said))
    for one in found:
        typer.echo(f"{'well' if one.well else 'LOOK'}  {one.name}: {one.said}")
    if not all(one.well for one in found):
        raise typer.Exit(1)


def _is_running(chosen: Settings) -> bool:
    try:
        with only_one(chosen.data_file):
            return False
    except Conflict:
        return True


def settings() -> None:
    """List every setting with its default and what it is for."""
    typer.echo(f"The data file is {settings_of().data_file}")
    for name, field in Settings.model_fields.items():
        default = "" if field.default_factory else f" (default: {field.default!r})"
        typer.echo(f"LEPIDOS_{name.upper()}{default}: {field.description}")


def version() -> None:
    """Print the version."""
    typer.echo(__version__)

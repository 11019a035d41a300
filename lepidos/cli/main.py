"""The `lepidos` command: what there is to ask for, and how an error is told."""

import typer
from pydantic import ValidationError

from lepidos import cli
from lepidos.calc import calc
from lepidos.cli import log, machine, serving
from lepidos.cli.guide import guide
from lepidos.core.errors import LepidosError
from lepidos.store.file.file_problems import FileProblem

commands = typer.Typer(no_args_is_help=True, help=cli.__doc__, pretty_exceptions_enable=False)
commands.command()(serving.run)
commands.command()(serving.demo)
commands.command("import")(log.import_catch)
commands.command()(log.export)
commands.command()(log.backup)
commands.command()(log.restore)
commands.command()(serving.scale)
commands.command()(machine.doctor)
commands.command()(machine.settings)
commands.command()(machine.version)
commands.add_typer(calc, name="calc", help="The core's models, one by one.")
commands.add_typer(log.bundle, name="bundle")
commands.add_typer(guide, name="guide")


def main() -> None:
    """Entry point: our own errors become one sentence and exit code 2."""
    try:
        commands()
    except ValidationError as error:
        for problem in error.errors():
            name = "_".join(str(part) for part in problem["loc"]).upper()
            typer.echo(f"Setting LEPIDOS_{name}: {problem['msg']}", err=True)
        raise SystemExit(2) from None
    except FileProblem as problem:
        typer.echo(f"lepidos: {problem.what}\n  {problem.means}\n  {problem.do}", err=True)
        raise SystemExit(2) from None
    except (LepidosError, OSError, UnicodeDecodeError) as error:
        typer.echo(f"lepidos: {error}", err=True)
        raise SystemExit(2) from None

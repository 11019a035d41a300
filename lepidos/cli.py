"""The command line: run the app, look after the data file, and the core's models for scripts."""

import shutil
import signal
import socket
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated
from zoneinfo import ZoneInfo

import segno
import typer
from platformdirs import user_data_path
from pydantic import ValidationError

from lepidos import __version__
from lepidos.calc import calc
from lepidos.core.errors import Conflict, LepidosError, Refused
from lepidos.demo.clock import demo_clock
from lepidos.demo.scenario import play
from lepidos.devices.line_simulator import LineSimulator
from lepidos.exchange.text_files import text_of
from lepidos.settings import Settings
from lepidos.stations.base.context import AppContext
from lepidos.stations.bundle.bring_in import BringIn, Coming, bring_in
from lepidos.stations.bundle.read import contents, read_bundle
from lepidos.stations.bundle.write import write_bundle
from lepidos.stations.deck import catch_import
from lepidos.stations.health.checks import Check, check_all
from lepidos.stations.health.copies import Copies
from lepidos.stations.trips import trips
from lepidos.stations.yieldbook import yieldbook
from lepidos.store.database import Store
from lepidos.store.file_problems import DamagedFile, FileProblem
from lepidos.store.ids import clock_is_behind
from lepidos.store.restore import restore as restore_file
from lepidos.store.running import only_one
from lepidos.web.api.views import yieldbook as yieldbook_views
from lepidos.web.health.machine import check_machine
from lepidos.web.shell.addresses import shared_at
from lepidos.web.shell.app import clock_of, make_app, make_context
from lepidos.web.shell.serve import certificates_of, serve

cli = typer.Typer(no_args_is_help=True, help=__doc__, pretty_exceptions_enable=False)
cli.add_typer(calc, name="calc", help="The core's models, one by one.")

DataDir = Annotated[Path | None, typer.Option(help="Folder of the data file")]
Trip = Annotated[str, typer.Option(help="A trip's id, or “latest”")]


def _settings(**chosen: object) -> Settings:
    return Settings(**{k: v for k, v in chosen.items() if v is not None})  # type: ignore[arg-type]


@cli.command()
def run(
    data_dir: DataDir = None,
    host: Annotated[str | None, typer.Option(help="Address to listen on")] = None,
    port: Annotated[int | None, typer.Option(help="Port to listen on")] = None,
    share: Annotated[
        bool | None, typer.Option("--share", help="Let phones and tablets in, over TLS")
    ] = None,
) -> None:
    """Start the app on your own data."""
    _serve(_settings(data_dir=data_dir, host=host, port=port, share=share))


@cli.command()
def demo(
    data_dir: DataDir = None,
    host: Annotated[str | None, typer.Option(help="Address to listen on")] = None,
    port: Annotated[int | None, typer.Option(help="Port to listen on")] = None,
    fresh: Annotated[bool, typer.Option(help="Start the demo day again")] = False,
    only_data: Annotated[bool, typer.Option(help="Make the demo data and stop")] = False,
) -> None:
    """Start the app on an invented day, in a folder of its own."""
    folder = data_dir or user_data_path("lepidos-demo")
    settings = _settings(data_dir=folder, host=host, port=port, demo=True)
    mark = folder / "this-is-demo-data"
    if settings.data_file.exists() and not mark.exists():
        raise Refused({"": f"{folder} holds your own data; the demo stays away from it"})
    if fresh and mark.exists():
        shutil.rmtree(folder)
    if not only_data and settings.clock_at is None:
        settings = settings.model_copy(update={"clock_at": _demo_clock(settings)})
    if not settings.data_file.exists():
        folder.mkdir(parents=True, exist_ok=True)
        mark.write_text("Made by lepidos demo; may be deleted.\n", "utf-8")
        typer.echo("Making the demo day …")
        ctx = make_context(settings)
        try:
            play(ctx)
        finally:
            ctx.store.close()
    if not only_data:
        _serve(settings)


def _demo_clock(settings: Settings) -> datetime:
    newest = ""
    if settings.data_file.exists():
        store = Store.open(settings.data_file)
        newest = store.newest_id()
        store.close()
    return demo_clock(newest, datetime.now(UTC), ZoneInfo(settings.zone_name))


@cli.command("import")
def import_catch(
    file: Annotated[Path, typer.Argument(help="CSV: code, species, length, length_type, weight")],
    trip: Trip = "latest",
    accept: Annotated[bool, typer.Option(help="Land the good rows; without it only check")] = False,
    again: Annotated[bool, typer.Option(help="Also a file that was landed before")] = False,
    data_dir: DataDir = None,
) -> None:
    """Check a file of fish row by row, and land its good rows with --accept."""
    text = text_of(file.read_bytes())

    def do(ctx: AppContext) -> None:
        trip_id = _trip_id(ctx, trip)
        report = catch_import.check_file(ctx, trip_id, text)
        for row in report.bad:
            typer.echo(f"line {row.line}: {row.problem}", err=True)
        typer.echo(f"{len(report.good)} rows can be landed, {len(report.bad)} cannot")
        if accept:
            order = catch_import.AcceptRows(trip_id, text, again=again)
            key = ctx.ids.new(ctx.clock())
            typer.echo(catch_import.accept_rows(ctx, key, order).sentence)

    _with_context(data_dir, do)


@cli.command()
def export(
    target: Annotated[Path, typer.Argument(help="File to write: .csv or .json")],
    trip: Trip = "latest",
    data_dir: DataDir = None,
) -> None:
    """Write a trip's yield book as CSV or JSON."""
    if target.suffix not in {".csv", ".json"}:
        raise Refused({"": "Name a .csv or a .json file"})

    def do(ctx: AppContext) -> None:
        trip_id = _trip_id(ctx, trip)
        if target.suffix == ".csv":
            target.write_text(yieldbook.book_csv(ctx, trip_id), "utf-8", newline="")
        else:
            book = yieldbook_views.book(yieldbook.view_book(ctx, trip_id))
            target.write_text(book.model_dump_json(indent=2), "utf-8")
        typer.echo(f"Written to {target}")

    _with_context(data_dir, do)


bundle = typer.Typer(no_args_is_help=True, help="The whole log as one open file.")
cli.add_typer(bundle, name="bundle")


@bundle.command("write")
def bundle_write(
    target: Annotated[Path, typer.Argument(help="Zip to write; must not be there yet")],
    data_dir: DataDir = None,
) -> None:
    """Write the whole log as a data package, also while the app is running."""

    def do(ctx: AppContext) -> None:
        with target.open("xb") as file:
            for piece in write_bundle(ctx):
                file.write(piece)
        typer.echo(f"Written to {target}")

    _with_context(data_dir, do)


@bundle.command("read")
def bundle_read(
    source: Annotated[Path, typer.Argument(help="Zip that another Lepidos wrote")],
    accept: Annotated[bool, typer.Option(help="Bring it in; without it only look")] = False,
    data_dir: DataDir = None,
) -> None:
    """Check a bundle and say what is in it; merge it into the log with --accept."""

    def do(ctx: AppContext) -> None:
        coming = Coming("", source.name)
        beside = ctx.store.path.parent / f"incoming-{source.stem}.log"
        log, digest = read_bundle(ctx, source, beside, coming.told)
        try:
            found = contents(ctx, log)
            typer.echo(
                f"{found.trips} trips, {found.fish} fish, {found.bags} bags; "
                f"{found.known_trips}, {found.known_fish}, {found.known_bags} of them here already"
            )
            if accept:
                key, order = ctx.ids.new(ctx.clock()), BringIn(digest, source.name)
                done, report = bring_in(ctx, key, log, order, coming)
                typer.echo(done.sentence)
                for said in report.met:
                    typer.echo(said)
        finally:
            log.close()

    _with_context(data_dir, do, make=True)  # a new machine may begin with what another one wrote


@cli.command()
def backup(
    target: Annotated[Path, typer.Argument(help="File to write; must not be there yet")],
    data_dir: DataDir = None,
) -> None:
    """Write a consistent copy of the data file, also while the app is running."""

    def do(ctx: AppContext) -> None:
        ctx.store.backup(target)
        typer.echo(f"Backed up to {target}")

    _with_context(data_dir, do)


@cli.command()
def restore(
    source: Annotated[Path, typer.Argument(help="Copy to go back to, such as one in backups/")],
    data_dir: DataDir = None,
) -> None:
    """Put a copy in the place of the data file; what was there is set aside. Stop the app first."""
    chosen = _settings(data_dir=data_dir)
    with only_one(chosen.data_file):
        aside = restore_file(chosen.data_file, source, datetime.now(UTC))
    typer.echo(f"{chosen.data_file} is what {source} was")
    if aside:
        typer.echo(f"What was there before is in {aside}")


@cli.command()
def scale(
    port: Annotated[int, typer.Option(help="Port to serve on")] = 7878,
    per_second: Annotated[float, typer.Option(help="Readings a second")] = 20.0,
) -> None:
    """Serve a simulated scale on a TCP line, to attach with LEPIDOS_SCALE=socket://127.0.0.1:PORT."""
    simulator = LineSimulator(port, per_second)
    typer.echo(f"A scale is on socket://127.0.0.1:{simulator.port}  (Ctrl+C stops it)")
    signal.signal(signal.SIGTERM, _end_well)
    try:
        simulator.serve_forever()
    except KeyboardInterrupt:
        typer.echo("")
    finally:
        simulator.server_close()


@cli.command()
def doctor(data_dir: DataDir = None) -> None:
    """Say what is right and wrong with this machine: file, copies, clock, devices, fonts, browser.

    Ends with 1 when something needs a look. Also while the app is running.
    """
    chosen = _settings(data_dir=data_dir)
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


@cli.command()
def settings() -> None:
    """List every setting with its default and what it is for."""
    typer.echo(f"The data file is {_settings().data_file}")
    for name, field in Settings.model_fields.items():
        default = "" if field.default_factory else f" (default: {field.default!r})"
        typer.echo(f"LEPIDOS_{name.upper()}{default}: {field.description}")


@cli.command()
def version() -> None:
    """Print the version."""
    typer.echo(__version__)


def _serve(chosen: Settings) -> None:
    # uvicorn stops politely and then raises the signal again; asked to stop is a good end
    signal.signal(signal.SIGTERM, _end_well)
    with only_one(chosen.data_file):
        _check(chosen)
        typer.echo(f"Lepidos is at http://{chosen.host}:{chosen.port}/  (Ctrl+C stops it)")
        if chosen.is_shared:
            _say_how_to_come(chosen)
        serve(make_app(chosen), chosen)


def _say_how_to_come(chosen: Settings) -> None:
    for address in shared_at(chosen):
        typer.echo(f"Phones and tablets open {address}/ and are let in at Settings, Who is aboard")
    if chosen.share:
        typer.echo(f"This boat's fingerprint is {certificates_of(chosen).fingerprint}")
        segno.make(f"{shared_at(chosen)[0]}/trust", error="m").terminal(compact=True)
    elif chosen.open_to_all:
        typer.echo("LEPIDOS_OPEN_TO_ALL: whoever is on this network can read and change everything")
    else:
        typer.echo("Over plain HTTP: who listens on this network reads it all. Better: --share")


def _check(chosen: Settings) -> None:
    """What would stop the start is told in a sentence, before anything else begins."""
    wanted = [(chosen.host, chosen.port, "--port")]
    if chosen.share:
        wanted.append(("0.0.0.0", chosen.share_port, "LEPIDOS_SHARE_PORT"))  # noqa: S104 - shared
    for host, port, other in wanted:
        with socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET) as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind((host, port))
            except OSError as error:
                said = f"{host}, port {port}: {error.strerror}. Choose another with {other}"
                raise Refused({"": said}) from error
    store = Store.open(chosen.data_file)
    try:
        if (found := store.check()) != "ok":
            raise DamagedFile(chosen.data_file, found)
        if late := clock_is_behind(store.newest_id(), clock_of(chosen)()):
            typer.echo(late, err=True)
    finally:
        store.close()


def _end_well(_number: int, _frame: object) -> None:
    raise SystemExit(0)


def _with_context(
    data_dir: Path | None, do: Callable[[AppContext], None], make: bool = False
) -> None:
    ctx = make_context(_settings(data_dir=data_dir), make, attach=False)
    try:
        do(ctx)
    finally:
        ctx.store.close()


def _trip_id(ctx: AppContext, trip: str) -> str:
    found = trips.latest_trip_id(ctx) if trip == "latest" else trip
    if found is None:
        raise Refused({"": "There is no trip yet; start one in the app"})
    return found


def main() -> None:
    """Entry point: our own errors become one sentence and exit code 2."""
    try:
        cli()
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


if __name__ == "__main__":
    main()

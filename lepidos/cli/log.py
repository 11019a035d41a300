"""Commands that look after the log: fish and bundles in, a book and copies out."""

from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from typing import Annotated

import typer

from lepidos.cli.shared import DataDir, Trip, settings_of, trip_id_of, with_context
from lepidos.core.errors import Refused
from lepidos.exchange.text_files import text_of
from lepidos.guide.library import load_guide
from lepidos.stations.base.context import AppContext
from lepidos.stations.bundle.bring_in import BringIn, Coming, bring_in
from lepidos.stations.bundle.read import contents, read_bundle
from lepidos.stations.bundle.whole import check_whole
from lepidos.stations.bundle.write import write_bundle
from lepidos.stations.deck import catch_import
from lepidos.stations.yieldbook import yieldbook
from lepidos.store.bundle.restore import is_own_copy
from lepidos.store.bundle.restore import restore as restore_file
from lepidos.store.file.running import only_one
from lepidos.web.api.views import yieldbook as yieldbook_views


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
        trip_id = trip_id_of(ctx, trip)
        report = catch_import.check_file(ctx, trip_id, text)
        for row in report.bad:
            typer.echo(f"line {row.line}: {row.problem}", err=True)
        typer.echo(f"{len(report.good)} rows can be landed, {len(report.bad)} cannot")
        if accept:
            order = catch_import.AcceptRows(trip_id, text, again=again)
            key = ctx.ids.new(ctx.clock())
            typer.echo(catch_import.accept_rows(ctx, key, order).sentence)

    with_context(data_dir, do)


def export(
    target: Annotated[Path, typer.Argument(help="File to write: .csv or .json")],
    trip: Trip = "latest",
    data_dir: DataDir = None,
) -> None:
    """Write a trip's yield book as CSV or JSON."""
    if target.suffix not in {".csv", ".json"}:
        raise Refused({"": "Name a .csv or a .json file"})

    def do(ctx: AppContext) -> None:
        trip_id = trip_id_of(ctx, trip)
        if target.suffix == ".csv":
            target.write_text(yieldbook.book_csv(ctx, trip_id), "utf-8", newline="")
        else:
            book = yieldbook_views.book(yieldbook.view_book(ctx, trip_id))
            target.write_text(book.model_dump_json(indent=2), "utf-8")
        typer.echo(f"Written to {target}")

    with_context(data_dir, do)


bundle = typer.Typer(no_args_is_help=True, help="The whole log as one open file.")


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

    with_context(data_dir, do)


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

    with_context(data_dir, do, make=True)  # a new machine may begin with what another one wrote


def backup(
    target: Annotated[Path, typer.Argument(help="File to write; must not be there yet")],
    data_dir: DataDir = None,
) -> None:
    """Write a consistent copy of the data file, also while the app is running."""

    def do(ctx: AppContext) -> None:
        ctx.store.backup(target)
        typer.echo(f"Backed up to {target}")

    with_context(data_dir, do)


def restore(
    source: Annotated[Path, typer.Argument(help="Copy to go back to, such as one in backups/")],
    data_dir: DataDir = None,
    as_it_is: Annotated[
        bool, typer.Option(help="Take all of a file from elsewhere, with rights and settings")
    ] = False,
) -> None:
    """Put a copy in the place of the data file; what was there is set aside. Stop the app first.

    A file that is not from this data folder is checked like a bundle, and who was let in and the
    settings stay this machine's own.
    """
    chosen, now = settings_of(data_dir=data_dir), datetime.now(UTC)
    is_own = as_it_is or is_own_copy(chosen.data_file, source)
    check = None if is_own else partial(check_whole, load_guide(), now)
    with only_one(chosen.data_file):
        aside = restore_file(chosen.data_file, source, now, check)
    typer.echo(f"{chosen.data_file} is what {source} was")
    if check:
        typer.echo("Who was let in and the settings are this machine's own; see --as-it-is")
    if aside:
        typer.echo(f"What was there before is in {aside}")

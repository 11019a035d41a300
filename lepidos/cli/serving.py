"""Commands that start something which then runs: the app, the demo, a simulated scale."""

import shutil
import signal
import socket
from datetime import UTC, datetime
from typing import Annotated
from zoneinfo import ZoneInfo

import segno
import typer
from platformdirs import user_data_path

from lepidos.cli.shared import DataDir, settings_of
from lepidos.core.errors import Refused
from lepidos.demo.clock import demo_clock
from lepidos.demo.scenario import play
from lepidos.devices.line_simulator import LineSimulator
from lepidos.settings import Settings
from lepidos.store.base.ids import clock_is_behind
from lepidos.store.file.database import Store
from lepidos.store.file.file_problems import DamagedFile
from lepidos.store.file.running import only_one
from lepidos.web.app import clock_of, make_app, make_context
from lepidos.web.shell.addresses import shared_at
from lepidos.web.shell.serve import certificates_of, serve

Share = Annotated[bool | None, typer.Option("--share", help="Let phones and tablets in, over TLS")]


def run(
    data_dir: DataDir = None,
    host: Annotated[str | None, typer.Option(help="Address to listen on")] = None,
    port: Annotated[int | None, typer.Option(help="Port to listen on")] = None,
    share: Share = None,
) -> None:
    """Start the app on your own data."""
    _serve(settings_of(data_dir=data_dir, host=host, port=port, share=share))


def demo(
    data_dir: DataDir = None,
    host: Annotated[str | None, typer.Option(help="Address to listen on")] = None,
    port: Annotated[int | None, typer.Option(help="Port to listen on")] = None,
    fresh: Annotated[bool, typer.Option(help="Start the demo day again")] = False,
    only_data: Annotated[bool, typer.Option(help="Make the demo data and stop")] = False,
    share: Share = None,
) -> None:
    """Start the app on an invented day, in a folder of its own."""
    folder = data_dir or user_data_path("lepidos-demo")
    settings = settings_of(data_dir=folder, host=host, port=port, share=share, demo=True)
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

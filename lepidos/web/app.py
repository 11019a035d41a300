"""The application: settings in, the stations, running out."""

import gc
import secrets
import threading
import time
from collections.abc import AsyncIterator, Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import asynccontextmanager
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from random import Random

import structlog
from anyio import to_thread
from fastapi import FastAPI, Request
from fastapi.responses import HTMLResponse, Response
from starlette.middleware.gzip import GZipMiddleware
from starlette.routing import Route

from lepidos import __version__
from lepidos.devices.freezer_logger import SimulatedLogger
from lepidos.devices.line_logger import LineLogger
from lepidos.devices.line_scale import LineScale
from lepidos.devices.printer import SimulatedPrinter
from lepidos.devices.scale import SimulatedScale
from lepidos.devices.scales import STAND_IN, Scales, named_lines
from lepidos.devices.spooler import Spooler
from lepidos.guide.library import Guide, load_guide
from lepidos.settings import Settings
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.printing import LabelQueue
from lepidos.stations.base.split_search import SplitSearch
from lepidos.stations.boat.codes import Codes
from lepidos.stations.bundle.bring_in import Bundles
from lepidos.stations.freezer.log_folder import LogFolder
from lepidos.stations.freezer.temperature import OfferedLogs
from lepidos.stations.guide.own_guide import take_in
from lepidos.stations.health.copies import Copies
from lepidos.store.base.ids import IdMaker
from lepidos.store.file.database import Store
from lepidos.store.file.file_problems import FileProblem
from lepidos.web import api
from lepidos.web.api.contract import document
from lepidos.web.boat import boat, guest
from lepidos.web.bundle import bundle
from lepidos.web.deck import card, deck, rule_cards, set_aside
from lepidos.web.devices import devices
from lepidos.web.drawings import fish
from lepidos.web.freezer import freezer, place, use_next
from lepidos.web.guide import guide, identification, own_guide, species, table_plan
from lepidos.web.health import health, licences
from lepidos.web.pack import label, pack, piece, receipt
from lepidos.web.settings import demo_door
from lepidos.web.settings import round as demo_round
from lepidos.web.settings import settings as settings_page
from lepidos.web.shell import errors, kept, live, logs, preferences, progress
from lepidos.web.shell.access import Access, Routes
from lepidos.web.shell.addresses import EVERYWHERE, own_addresses, own_names
from lepidos.web.shell.connections import Connections
from lepidos.web.shell.in_turn import InTurn
from lepidos.web.shell.rates import Rates
from lepidos.web.shell.render import TEMPLATES, compile_ahead
from lepidos.web.shell.search_process import end_search, start_search
from lepidos.web.shell.security import DOCS_PATH, Guard
from lepidos.web.shell.static_files import STATIC, PackedFiles, scripts_path
from lepidos.web.table import cutters, fish_view, queue, wishes
from lepidos.web.trips import history, trips
from lepidos.web.yieldbook import every_fish, millimetres, what_if, yieldbook
from lepidos.web.yieldbook import trials as trials_page

ABOUT = """The same path as the pages: land, cut, weigh, pack, freeze, find again.
Every write needs an Idempotency-Key header of 8 to 64 letters, digits, - or _.
Errors are problem documents after RFC 9457."""


WATCH_S = 60.0
MAX_AT_ONCE = 3  # requests that are worked on; the others wait in line
# Garbage is looked for after so many. At Python's own 700 the whole memory was searched seven times
# as often, 0.1 s each in which everybody waits; most of what a page makes is freed without it.
NEW_OBJECTS = 10_000
END_S = 10.0  # a copy of a large file takes seconds; nobody waits longer for the end

# what is asked most stands first: a request looks through them in this order
ROUTERS = (
    deck, fish_view, queue, pack, live, freezer, yieldbook, card, preferences, kept, progress,
    trips, rule_cards, table_plan, wishes, history, cutters, piece, label, receipt, place, use_next,
    every_fish, trials_page, millimetres, what_if, bundle, own_guide, guide, species,
    identification, devices, health, licences, boat, guest, settings_page, demo_door, demo_round,
    *api.STATIONS,
)  # fmt: skip


def clock_of(settings: Settings) -> Callable[[], datetime]:
    """The app's clock: the machine's, or one that started at `clock_at`."""
    if settings.clock_at is None:
        return lambda: datetime.now(UTC)
    shift = settings.clock_at - datetime.now(UTC)
    return lambda: datetime.now(UTC) + shift


def _scales(settings: Settings, rng: Random) -> Scales:
    said = named_lines(settings.scale) or {"Scale": STAND_IN}
    return Scales(
        {
            name: SimulatedScale(time.monotonic, Random(rng.random()))  # noqa: S311 - noise
            if url == STAND_IN
            else LineScale(url, settings.scale_baud)
            for name, url in said.items()
        }
    )


def _loggers(settings: Settings, clock: Callable[[], datetime]) -> list[LineLogger]:
    """The loggers on lines, listening; each writes into the folder that is looked through."""
    found = [
        LineLogger(url, _log_folder(settings), place, lambda: clock().timestamp())
        for place, url in named_lines(settings.logger).items()
    ]
    for logger in found:
        logger.start()
    return found


def _log_folder(settings: Settings) -> Path:
    return settings.log_folder or settings.data_dir / "logs"


def make_context(settings: Settings, make: bool = True, attach: bool = True) -> AppContext:
    """Open the data file and put everything in its place. Close with `ctx.store.close()`.

    `make` a data file where there never was any; `attach` the scales, on whose lines only one
    program may listen. Their threads end with `ctx.scales.close()`.
    """
    rng = Random(secrets.randbits(128))  # noqa: S311 - keys and codes, no secrets
    store, clock = Store.open(settings.data_file, make), clock_of(settings)
    scales = _scales(settings if attach else settings.model_copy(update={"scale": ""}), rng)
    ctx = AppContext(
        store=store,
        guide=load_guide().copy(),
        clock=clock,
        ids=IdMaker(rng, store.newest_id()),
        rng=rng,
        scale=next(iter(scales.named.values())),
        scales=scales,
        printer=Spooler(settings.printer.partition(":")[2])
        if settings.printer
        else SimulatedPrinter(),
        logger=SimulatedLogger(lambda: clock().timestamp(), rng),
        timezone=settings.zone_name,
        link_base=settings.link_base,
    )
    for problem in take_in(ctx):
        structlog.get_logger().warning("own guide", problem=problem)
    return ctx


def _watch(folder: LogFolder, copies: Copies, ctx: AppContext, ended: threading.Event) -> None:
    """Look for new readings of freezers, and whether a copy is due, until the app ends."""
    log = structlog.get_logger()
    try:
        copies.begin(ctx)
    except Exception as error:
        log.warning("copies", problem=str(error))
    while not ended.wait(WATCH_S):
        try:
            folder.look(ctx)
            copies.look(ctx)
        except Exception as error:  # one odd file must not end the watch
            log.warning("watch", problem=str(error))


def _get_ready(guide: Guide) -> None:
    """What a first page would have to wait for, while nobody does."""
    time.sleep(3.0)  # whoever started the app gets the first seconds
    compile_ahead(0.02)
    fish.draw_ahead(guide, 0.05)


def make_app(settings: Settings) -> FastAPI:
    """The app; it opens the data file when it starts and closes it when it stops."""
    logs.configure(settings.log_level)
    log = structlog.get_logger()

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        ctx = make_context(settings)
        if settings.search_seconds > 0:
            ctx = replace(ctx, search=start_search(settings.search_seconds))
            ctx.search.on_news = ctx.changes.tell
            ctx = replace(ctx, splits=SplitSearch(settings.search_seconds))
            ctx.splits.on_news = ctx.changes.tell
        ctx = replace(ctx, labels=LabelQueue(ThreadPoolExecutor(1, "labels")))
        ctx.labels.on_news = ctx.changes.tell
        app.state.context = ctx
        try:
            ctx.store.mark()
        except FileProblem as problem:  # a full disk: what is there can be read all the same
            log.warning("mark", problem=str(problem))
        loggers = _loggers(settings, clock_of(settings))
        watching = threading.Event()
        watch = (app.state.log_folder, app.state.copies, ctx, watching)
        watcher = threading.Thread(target=_watch, args=watch, daemon=True)
        watcher.start()
        threading.Thread(target=_get_ready, args=(ctx.guide,), daemon=True).start()
        # the guide stays as long as the app: looking through it for garbage held a page up by 0.2 s
        gc.collect()
        gc.freeze()
        gc.set_threshold(NEW_OBJECTS)
        # more at once take the interpreter from each other and are all done later
        to_thread.current_default_thread_limiter().total_tokens = MAX_AT_ONCE
        log.info("started", data_file=str(settings.data_file), version=__version__)
        try:
            yield
        finally:
            watching.set()
            for logger in loggers:
                logger.close()
            watcher.join(END_S)  # a copy that was begun is finished
            app.state.demo_door.close()
            ctx.labels.close()
            end_search(ctx.search)
            ctx.splits.close()
            ctx.scales.close()
            ctx.store.close()
            log.info("stopped")

    app = FastAPI(
        title="Lepidos",
        version=__version__,
        description=ABOUT,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
    )
    app.openapi = lambda: document(app)  # type: ignore[method-assign]
    app.state.settings = settings
    app.state.offered_logs = OfferedLogs()
    app.state.bundles = Bundles()
    app.state.codes = Codes()
    app.state.connections = Connections()
    app.state.copies = Copies(settings.data_file, settings.backup_folder)
    app.state.log_folder = LogFolder(_log_folder(settings))
    app.state.demo_door = demo_door.DemoDoor(settings.host, settings.allowed_hosts)
    errors.install(app)
    set_aside.install(app)
    for part in ROUTERS:
        app.include_router(part.router)
    app.mount(scripts_path(), PackedFiles(directory=STATIC / "js"), name="scripts")
    app.mount("/static", PackedFiles(directory=STATIC), name="static")

    @app.get(DOCS_PATH, include_in_schema=False)
    def api_docs(request: Request) -> Response:
        return HTMLResponse(TEMPLATES.get_template("shell/api_docs.html").render(request=request))

    @app.get("/favicon.ico", include_in_schema=False)
    def favicon() -> Response:
        return Response(Path(STATIC / "mark.svg").read_bytes(), media_type="image/svg+xml")

    app.add_middleware(InTurn)
    app.add_middleware(live.Marked)
    # a light level: a few more bytes cost less than the time to save them
    app.add_middleware(GZipMiddleware, minimum_size=800, compresslevel=3)
    own = [route for part in ROUTERS for route in part.router.routes]
    routes = Routes(
        (method, route.path)
        for route in (*own, *app.routes)
        if isinstance(route, Route)
        for method in route.methods or ()
    )
    closed = settings.is_shared and not settings.open_to_all
    rates = Rates() if settings.is_shared else None
    app.add_middleware(Access, routes=routes, closed=closed, refuse=errors.refuse, rates=rates)
    hosts = tuple(h.strip() for h in settings.allowed_hosts.split(",") if h.strip())
    bound = () if settings.host in EVERYWHERE else (settings.host,)
    everywhere = settings.share or settings.host in EVERYWHERE
    own_hosts = (lambda: (*own_names(), *own_addresses())) if everywhere else tuple
    app.add_middleware(Guard, hosts=(*hosts, *bound), own=own_hosts, refuse=errors.refuse)
    app.add_middleware(logs.RequestLog)
    return app

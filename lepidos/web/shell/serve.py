"""Running the app: plainly for this machine, and over TLS for others when it is shared."""

import asyncio
import contextlib
from typing import Any

import structlog
import uvicorn
from fastapi import FastAPI

from lepidos.settings import LOCAL, Settings
from lepidos.web.shell import logs
from lepidos.web.shell.addresses import own_addresses, own_names
from lepidos.web.shell.announce import Announcer, announced
from lepidos.web.shell.certificates import Certificates, certificates, machine_now
from lepidos.web.shell.connections import Connections
from lepidos.web.shell.gate import Gate

try:
    import resource
except ImportError:  # Windows has none
    resource = None  # type: ignore[assignment]

LOOK_EVERY_S = 30.0
STOP_S = 5
HANDLES = 4096


def serve(app: FastAPI, settings: Settings) -> None:
    """Run until somebody stops it."""
    _allow_many_handles()
    connections: Connections = app.state.connections
    plain = uvicorn.Config(app, host=settings.host, port=settings.port, **_usual(settings))
    # nobody but this machine comes by its own address
    first = uvicorn.Server(plain) if settings.host in LOCAL else Gate(plain, connections)
    if not settings.share:
        first.run()
        return
    files = certificates_of(settings)
    tls = uvicorn.Config(
        app, host="0.0.0.0", port=settings.share_port, lifespan="off",  # noqa: S104 - shared
        ssl_certfile=files.chain, ssl_keyfile=files.key, **_usual(settings),
    )  # fmt: skip
    with announced(Announcer(settings.share_port, own_addresses)):
        asyncio.run(_both(first, Gate(tls, connections, beside=True), settings))


def _allow_many_handles() -> None:
    """As many open files as this user may have: connections are counted by ourselves."""
    if resource is None:
        return
    with contextlib.suppress(ValueError, OSError):
        _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
        wanted = HANDLES if most == resource.RLIM_INFINITY else min(HANDLES, most)
        resource.setrlimit(resource.RLIMIT_NOFILE, (wanted, most))


def certificates_of(settings: Settings) -> Certificates:
    """Those of this machine, as it is called now."""
    return certificates(settings.data_dir / "tls", own_names(), own_addresses(), machine_now())


def _usual(settings: Settings) -> dict[str, Any]:
    return {
        "log_level": settings.log_level,
        "access_log": False,
        "server_header": False,
        "timeout_graceful_shutdown": STOP_S,
    }


async def _both(first: uvicorn.Server, second: uvicorn.Server, settings: Settings) -> None:
    asyncio.get_running_loop().set_exception_handler(logs.told_by_loop)
    running = asyncio.create_task(first.serve())
    while not first.started and not running.done():
        await asyncio.sleep(0.02)
    beside = asyncio.create_task(second.serve())
    renewing = asyncio.create_task(_renew(second, settings))
    try:
        await running
    finally:
        second.should_exit = True
        renewing.cancel()
        await beside


async def _renew(server: uvicorn.Server, settings: Settings) -> None:
    """A boat's computer often starts before it has a network: its certificate follows, and its end.

    What is on the disk may have been renewed by a page, too: what counts is what it is.
    """
    shown = certificates_of(settings).chain.read_bytes()
    while True:
        await asyncio.sleep(LOOK_EVERY_S)
        try:
            files = certificates_of(settings)
            if files.chain.read_bytes() != shown and server.config.ssl:
                server.config.ssl.load_cert_chain(files.chain, files.key)
                shown = files.chain.read_bytes()
        except OSError as error:  # a full disk, say: the old one goes on
            structlog.get_logger().warning("certificate", problem=str(error))

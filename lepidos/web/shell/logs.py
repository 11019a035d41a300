"""Structured logs: one JSON object a line on standard error; what repeats itself is counted."""

import asyncio
import contextlib
import logging
import sys
import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Mapping, MutableMapping
from typing import Any

import structlog
from starlette.types import ASGIApp, Message, Receive, Scope, Send

REPEATED_S = 60.0  # the same warning comes at most so often (practice)
MAX_KNOWN = 200
_QUIET = {"debug", "info"}


class Repeats:
    """Says whether a line is to be written: once a minute, and with how many it stands for."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._told: OrderedDict[str, tuple[float, int]] = OrderedDict()
        self._lock = threading.Lock()

    def count(self, what: str) -> int:
        """How many lines of this kind it stands for, itself among them; 0: leave it out."""
        with self._lock:
            now = self._clock()
            at, left_out = self._told.get(what, (-REPEATED_S, 0))
            if now - at < REPEATED_S:
                self._told[what] = (at, left_out + 1)
                return 0
            self._told[what] = (now, 0)
            self._told.move_to_end(what)
            while len(self._told) > MAX_KNOWN:
                self._told.popitem(last=False)
            return left_out + 1

    def __call__(
        self, _logger: Any, level: str, event: MutableMapping[str, Any]
    ) -> Mapping[str, Any]:
        """A step of structlog: warnings and errors that repeat themselves are dropped."""
        if level in _QUIET:
            return event
        exception = str(event.get("exception", ""))[-200:]
        known = (event.get(key, "") for key in ("event", "problem", "detail"))
        if not (number := self.count("|".join(map(str, (*known, exception))))):
            raise structlog.DropEvent
        return event if number == 1 else {**event, "times": number}


class Filter(logging.Filter):
    """The same for what the server itself logs."""

    def __init__(self, repeats: Repeats) -> None:
        super().__init__()
        self._repeats = repeats

    def filter(self, record: logging.LogRecord) -> bool:
        """Whether a line is written."""
        return record.levelno < logging.WARNING or bool(self._repeats.count(record.getMessage()))


def told_by_loop(_loop: asyncio.AbstractEventLoop, said: dict[str, Any]) -> None:
    """An error that no task took: a connection that broke off in its handshake, for example."""
    structlog.get_logger().warning(
        "loop", problem=str(said.get("message", "")), detail=str(said.get("exception", ""))
    )


def configure(level: str) -> None:
    """Set up structlog and quiet the server's own access log."""
    repeats = Repeats()
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.format_exc_info,
            repeats,
            structlog.processors.JSONRenderer(),
        ],
        wrapper_class=structlog.make_filtering_bound_logger(getattr(logging, level.upper())),
        logger_factory=structlog.WriteLoggerFactory(file=Patient()),  # type: ignore[arg-type]
        cache_logger_on_first_use=True,
    )
    logging.getLogger("uvicorn.access").disabled = True
    for name in ("uvicorn.error", "asyncio"):
        logging.getLogger(name).addFilter(Filter(repeats))


class Patient:
    """Standard error, where a line that cannot be written is left out.

    It may go to a file on the disk that is full, and no answer may fail for that.
    """

    def write(self, text: str) -> None:
        """Write it if it can be written."""
        with contextlib.suppress(OSError):
            sys.stderr.write(text)

    def flush(self) -> None:
        """As far as it can be."""
        with contextlib.suppress(OSError):
            sys.stderr.flush()


class RequestLog:
    """Logs every request with its status and its milliseconds; never its body."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app
        self._log = structlog.get_logger()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """ASGI entry."""
        if scope["type"] != "http" or scope["path"].startswith("/static/"):
            await self._app(scope, receive, send)
            return
        began = time.perf_counter()
        status = 500

        async def watched(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                took = f"{(time.perf_counter() - began) * 1000:.1f}"
                message["headers"] = [
                    *message["headers"],
                    (b"server-timing", f"app;dur={took}".encode()),
                ]
            await send(message)

        try:
            await self._app(scope, receive, watched)
        finally:
            took = round((time.perf_counter() - began) * 1000, 1)
            self._log.info(
                "request", method=scope["method"], path=scope["path"], status=status, ms=took
            )

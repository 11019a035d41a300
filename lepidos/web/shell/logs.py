"""Structured logs: one JSON object a line on standard error."""

import contextlib
import logging
import sys
import time

import structlog
from starlette.types import ASGIApp, Message, Receive, Scope, Send


def configure(level: str) -> None:
    """Set up structlog and quiet the server's own access log."""
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.format_exc_info,
            structlog.processors.JSONRenderer(),
        ],
        wrapper_class=structlog.make_filtering_bound_logger(getattr(logging, level.upper())),
        logger_factory=structlog.WriteLoggerFactory(file=Patient()),  # type: ignore[arg-type]
        cache_logger_on_first_use=True,
    )
    logging.getLogger("uvicorn.access").disabled = True


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

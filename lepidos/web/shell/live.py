"""Every open page hears that something changed, and looks again."""

import asyncio
import json
from collections.abc import AsyncIterator

from fastapi import APIRouter, Request
from fastapi.responses import Response
from sse_starlette import EventSourceResponse, ServerSentEvent
from starlette.types import ASGIApp, Receive, Scope, Send

from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import system_of
from lepidos.web.shell.preferences import here, shown
from lepidos.web.shell.render import context_of, page

router = APIRouter(include_in_schema=False)

READ_EVERY_S = 0.05
LOOK_EVERY_S = 0.1  # a landing is on the other devices within a second
ALIVE_EVERY_S = 15
AGAIN_AFTER_MS = 1000


@router.get("/live/changes")
async def live_changes(request: Request) -> EventSourceResponse:
    """A stream of marks; another mark than the page was made with means: look again."""
    changes = context_of(request).changes

    async def marks() -> AsyncIterator[ServerSentEvent]:
        told = ""
        while True:
            if changes.mark != told:
                told = changes.mark
                yield ServerSentEvent(told, retry=AGAIN_AFTER_MS)
            await asyncio.sleep(LOOK_EVERY_S)

    return EventSourceResponse(marks(), ping=ALIVE_EVERY_S)


@router.get("/live/header")
def live_header(request: Request) -> Response:
    """The header of the trip at hand alone, for open pages on which nothing else changes."""
    asked = request.query_params
    where = asked.get("here", "")[:20]
    return page(
        request,
        "shell/header.html",
        current_view(request),
        here=where,
        back=here(asked.get("path", "/")[:600]),
    )


@router.get("/live/scale/stream")
async def stream_scale(request: Request) -> EventSourceResponse:
    """The scale's display whenever it changes, up to twenty times per second."""
    ctx, system = context_of(request), system_of(request)
    at = request.query_params.get("at", "")[:60]

    async def readings() -> AsyncIterator[ServerSentEvent]:
        last = ""
        while True:
            now = json.dumps(shown(ctx, system, at))
            if now != last:
                last = now
                yield ServerSentEvent(now, retry=AGAIN_AFTER_MS)
            await asyncio.sleep(READ_EVERY_S)

    return EventSourceResponse(readings(), ping=ALIVE_EVERY_S)


class Marked:
    """Notes what the mark was before a request read anything, so that no change is overlooked."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """ASGI entry."""
        if scope["type"] == "http":
            ctx = scope["app"].state.context
            scope.setdefault("state", {})["mark"] = ctx.changes.mark
        await self._app(scope, receive, send)

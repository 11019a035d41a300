"""Pages are made one after another; what somebody at a board waits for goes at once.

One interpreter makes them all. Eight devices that look through the trip at once would each be
answered later, and a weighing among them latest of all: it goes to the disk, and takes its place
at the interpreter again after each step. So a page waits for the page before it, while an entry and
a look at one fish, bag or piece share the interpreter with one page at most.
"""

import asyncio
from contextlib import ExitStack

from starlette.types import ASGIApp, Message, Receive, Scope, Send

# the shell's own small answers, and looks at one thing; all else that is read is a page
AT_ONCE = ("/static/", "/live/", "/worker.js", "/fish/", "/b/", "/pieces/", "/first-aid")
LONG_S = 0.5  # a report of all years is not waited for


class InTurn:
    """Lets one page through at a time."""

    def __init__(self, app: ASGIApp) -> None:
        self._app, self._place = app, asyncio.Semaphore(1)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """ASGI entry."""
        if not _is_page(scope):
            await self._app(scope, receive, send)
            return
        await self._place.acquire()
        with ExitStack() as place:
            place.callback(self._place.release)

            async def sending(message: Message) -> None:
                place.close()  # it is made: a slow network between is no matter of the next one's
                await send(message)

            long = asyncio.get_running_loop().call_later(LONG_S, place.close)
            try:
                await self._app(scope, receive, sending)
            finally:
                long.cancel()


def _is_page(scope: Scope) -> bool:
    if scope["type"] != "http" or scope["method"] not in {"GET", "HEAD"}:
        return False
    return not scope["path"].startswith(AT_ONCE)

"""A stream is open for as long as its device is in: whoever was let out hears nothing more."""

import asyncio
from collections.abc import Callable

from starlette.types import ASGIApp, Message, Receive, Scope, Send

LOOK_EVERY_S = 0.2


class WhileIn:
    """One stream of a device. `is_in`: whether it is still in, which costs next to nothing."""

    def __init__(self, app: ASGIApp, is_in: Callable[[], bool]) -> None:
        self._app, self._is_in = app, is_in
        self._out = asyncio.Event()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """ASGI entry."""
        begun = False

        async def sending(message: Message) -> None:
            nonlocal begun
            if self._is_out():
                return
            begun = begun or message["type"] == "http.response.start"
            await send(message)

        async def receiving() -> Message:
            asked, out = asyncio.ensure_future(receive()), asyncio.ensure_future(self._out.wait())
            try:
                await asyncio.wait((asked, out), return_when=asyncio.FIRST_COMPLETED)
                # as if the device itself had gone: what makes the stream ends by that
                return {"type": "http.disconnect"} if self._out.is_set() else asked.result()
            finally:
                asked.cancel()
                out.cancel()

        watch = asyncio.ensure_future(self._watch())
        try:
            await self._app(scope, receiving, sending)
        finally:
            watch.cancel()
        if begun and self._out.is_set():
            await send({"type": "http.response.body", "body": b"", "more_body": False})

    def _is_out(self) -> bool:
        if not self._out.is_set() and not self._is_in():
            self._out.set()
        return self._out.is_set()

    async def _watch(self) -> None:
        while not self._is_out():
            await asyncio.sleep(LOOK_EVERY_S)

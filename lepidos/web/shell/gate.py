"""The port for others: connections are counted before they cost anything, and none may be silent.

uvicorn has a time for a connection that rests between two requests, none for one that never speaks,
and takes as many as come. Here a socket is closed at once when there are too many, a handshake and
the head of a request have their time, and an answer that nobody reads is given up.
"""

import asyncio
import contextlib
import socket
import time
from collections.abc import Callable, Iterator

import structlog
import uvicorn
from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

from lepidos.settings import LOCAL
from lepidos.web.shell.connections import Connections

# common practice, no source: a phone at the edge of the boat's network takes a second or two
HANDSHAKE_S, HEAD_S, UNREAD_S = 8.0, 8.0, 60.0
LOOK_EVERY_S = 1.0
BACKLOG = 128
PAUSE_S = 0.5  # after the system had no room for another connection

Left = Callable[[], None]


class Spoken(HttpToolsProtocol):
    """uvicorn's own, with a time for the head of a request and for an answer to be read."""

    left: Left = staticmethod(lambda: None)
    silent_since: float | None = None
    _unread = (0, 0.0)  # bytes that wait to be read, and since when as many

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """From now on the head of a request is waited for."""
        self.silent_since = time.monotonic()
        super().connection_made(transport)

    def data_received(self, data: bytes) -> None:
        """The next request begins, unless one is on its way."""
        if self.silent_since is None and (self.cycle is None or self.cycle.response_complete):
            self.silent_since = time.monotonic()
        super().data_received(data)

    def on_headers_complete(self) -> None:
        """The head is there."""
        self.silent_since = None
        super().on_headers_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        """It ended, however."""
        self.left()
        super().connection_lost(exc)

    def is_stuck(self, now: float) -> bool:
        """Whether its time is over."""
        if self.silent_since is not None:
            return now - self.silent_since > HEAD_S
        waiting = self.transport.get_write_buffer_size() if self.transport else 0
        if waiting == 0 or waiting != self._unread[0]:
            self._unread = (waiting, now)
        return now - self._unread[1] > UNREAD_S


class Gate(uvicorn.Server):
    """A server that looks at who comes before anything is spent on it."""

    def __init__(
        self, config: uvicorn.Config, connections: Connections, beside: bool = False
    ) -> None:
        """`beside`: signals are another server's."""
        super().__init__(config)
        self._connections, self._beside = connections, beside
        self._sockets: list[socket.socket] = []
        self._tasks: list[asyncio.Task[None]] = []

    @contextlib.contextmanager
    def capture_signals(self) -> Iterator[None]:
        """As uvicorn's, or none."""
        if self._beside:
            yield
            return
        with super().capture_signals():
            yield

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        """Listen, and take connections one by one."""
        await self.lifespan.startup()
        self._sockets = sockets or [self.config.bind_socket()]
        for one in self._sockets:
            one.setblocking(False)
            one.listen(BACKLOG)
            self._tasks.append(asyncio.create_task(self._take(one)))
        self._tasks.append(asyncio.create_task(self._look()))
        self.servers = []
        self.started = True

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        """No more come in; those that are here end."""
        for task in self._tasks:
            task.cancel()
        for one in self._sockets:
            one.close()
        await super().shutdown()

    async def _take(self, listening: socket.socket) -> None:
        loop = asyncio.get_running_loop()
        while True:
            try:
                accepted, peer = await loop.sock_accept(listening)
            except OSError as error:
                structlog.get_logger().warning("no connection", problem=str(error))
                await asyncio.sleep(PAUSE_S)
                continue
            address, port = str(peer[0]), int(peer[1])
            own = address in LOCAL
            if own or self._connections.admit(address, port, _closing(accepted)):
                begun = asyncio.create_task(self._begin(accepted, address, port))
                self._tasks.append(begun)
                begun.add_done_callback(self._tasks.remove)
            else:
                accepted.close()

    async def _begin(self, accepted: socket.socket, address: str, port: int) -> None:
        """The handshake, and what is said then."""
        spoken = Spoken(self.config, self.server_state, self.lifespan.state)
        spoken.left = lambda: self._connections.leave(address, port)
        limit = {"ssl_handshake_timeout": HANDSHAKE_S} if self.config.ssl else {}
        try:
            await asyncio.get_running_loop().connect_accepted_socket(
                lambda: spoken, accepted, ssl=self.config.ssl, **limit
            )
        except (TimeoutError, OSError):
            spoken.left()  # gone, silent, or no TLS at all: nobody is there to be told
            accepted.close()

    async def _look(self) -> None:
        while True:
            await asyncio.sleep(LOOK_EVERY_S)
            now = time.monotonic()
            for spoken in list(self.server_state.connections):
                if isinstance(spoken, Spoken) and spoken.is_stuck(now):
                    spoken.transport.abort()


def _closing(accepted: socket.socket) -> Callable[[], None]:
    """Ends a connection under whoever has it: the next look at it finds it closed."""

    def close() -> None:
        with contextlib.suppress(OSError):
            accepted.shutdown(socket.SHUT_RDWR)

    return close

"""Connections that strangers open to a shared app and leave silent, half said or unread; all on loopback."""

import contextlib
import http.client
import re
import resource
import socket
import ssl
import threading
from collections.abc import Iterator
from functools import cache
from typing import Any
from urllib.parse import urlencode

from tests.server import Server

PHONE = "127.0.0.3"  # of loopback, and not the address that the machine itself comes by


@contextlib.contextmanager
def many_handles(wanted: int = 4096) -> Iterator[None]:
    """As many open sockets as the test needs."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (min(wanted, hard), hard))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_NOFILE, (soft, hard))


@cache
def trusting() -> ssl.SSLContext:
    """A client that takes the boat's certificate as it comes."""
    context = ssl.create_default_context()
    context.check_hostname = False
    context.verify_mode = ssl.CERT_NONE
    return context


class Crowd:
    """Sockets of strangers, each from an address of loopback's."""

    def __init__(self, port: int) -> None:
        self._port, self._context = port, trusting()
        self.sockets: list[socket.socket] = []
        self.turned_away = 0

    def come(self, count: int, said: bytes = b"", addresses: int = 1, tls: bool = True) -> None:
        """So many connections, each of which says something and then no more."""
        for n in range(count):
            address = f"127.0.{1 + n % addresses // 200}.{10 + n % addresses % 200}"
            try:
                one = socket.create_connection(("127.0.0.1", self._port), 5, (address, 0))
                self.sockets.append(one)
                if tls:
                    one = self._context.wrap_socket(one, do_handshake_on_connect=True)
                    self.sockets[-1] = one
                one.sendall(said)
            except OSError:
                self.turned_away += 1

    def leave(self) -> None:
        """All of them go."""
        for one in self.sockets:
            one.close()
        self.sockets.clear()


class Asking:
    """Whoever asks as the machine itself or as a phone that was let in, each time on a new connection."""

    def __init__(self, server: Server, share_port: int = 0) -> None:
        self._server, self._share_port = server, share_port
        self.cookie = ""

    def ask(
        self, method: str, path: str, timeout: float = 10, **fields: object
    ) -> tuple[int, str, dict[str, str]]:
        """Status, text and headers of an answer."""
        if self._share_port:
            line: Any = http.client.HTTPSConnection(
                "127.0.0.1",
                self._share_port,
                timeout=timeout,
                context=trusting(),
                source_address=(PHONE, 0),
            )
            origin = f"https://127.0.0.1:{self._share_port}"
        else:
            line = http.client.HTTPConnection("127.0.0.1", self._server.port, timeout=timeout)
            origin = self._server.base
        headers = {"origin": origin, "content-type": "application/x-www-form-urlencoded"}
        if self.cookie:
            headers["cookie"] = self.cookie
        try:
            line.request(method, path, urlencode(fields, doseq=True) if fields else None, headers)
            answer = line.getresponse()
            return (
                answer.status,
                answer.read().decode(),
                {k.lower(): v for k, v in answer.getheaders()},
            )
        finally:
            line.close()

    def join(self, here: "Asking", role: str = "crew") -> None:
        """Become a device that was let in."""
        here.ask("POST", "/boat/codes", key=f"codes-{self._share_port}-{role}", role=role)
        _, page, _ = here.ask("GET", "/boat")
        code = re.findall(r'class="code-large">([^<]+)<', page)[-1].strip()
        status, text, headers = self.ask(
            "POST", "/join", key=f"joins-{self._share_port}-{role}", code=code, name="phone"
        )
        if status != 303:
            raise AssertionError(text[:500])
        self.cookie = headers["set-cookie"].split(";")[0]


class Relay(threading.Thread):
    """Passes what comes to a port of its own on to the app, from the phone's address."""

    def __init__(self, to_port: int) -> None:
        super().__init__(daemon=True)
        self._to_port = to_port
        self._listening = socket.create_server(("127.0.0.1", 0))
        self.port = int(self._listening.getsockname()[1])

    def run(self) -> None:
        with contextlib.suppress(OSError):
            while True:
                near, _ = self._listening.accept()
                far = socket.create_connection(("127.0.0.1", self._to_port), 10, (PHONE, 0))
                far.settimeout(None)
                threading.Thread(target=self._both_ways, args=(near, far), daemon=True).start()

    def _both_ways(self, near: socket.socket, far: socket.socket) -> None:
        with near, far:
            back = threading.Thread(target=self._pass_on, args=(far, near), daemon=True)
            back.start()
            self._pass_on(near, far)
            back.join()

    def _pass_on(self, one: socket.socket, other: socket.socket) -> None:
        with contextlib.suppress(OSError):
            while data := one.recv(65536):
                other.sendall(data)
        for end in (one, other):
            with contextlib.suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)

    def close(self) -> None:
        """No more come."""
        self._listening.close()

"""Strangers who open connections and say nothing, or half of it, shut nobody out and fill no disk."""

import contextlib
import http.client
import re
import socket
import tempfile
import threading
import time
import unittest
from pathlib import Path

from lepidos.web.shell import gate
from lepidos.web.shell.connections import IN_ALL, OF_ADDRESS, Connections
from lepidos.web.shell.logs import REPEATED_S, Repeats
from tests.server import Server, free_port
from tests.strangers import PHONE, Asking, Crowd, many_handles, trusting

HALF_HEAD = b"GET /join HTTP/1.1\r\nhost: boat\r\nx-slow: "
HALF_BODY = (
    b"POST /join HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-length: 100\r\n"
    b"content-type: application/x-www-form-urlencoded\r\n\r\ncode="
)


class BudgetTest(unittest.TestCase):
    def setUp(self) -> None:
        self.connections = Connections(of_address=3, in_all=6)
        self.closed: list[int] = []

    def admit(self, address: str, port: int) -> bool:
        return self.connections.admit(address, port, lambda: self.closed.append(port))

    def test_an_address_has_so_many_and_another_one_its_own(self) -> None:
        self.assertEqual([self.admit("a", n) for n in range(5)], [True] * 3 + [False] * 2)
        self.assertTrue(self.admit("b", 9))
        self.connections.leave("a", 1)
        self.assertTrue(self.admit("a", 5))
        self.assertEqual(self.closed, [])

    def test_when_there_are_too_many_the_oldest_unknown_of_the_greediest_makes_room(self) -> None:
        for address, port in (("a", 1), ("b", 2), ("b", 3), ("c", 4), ("c", 5), ("c", 6)):
            self.assertTrue(self.admit(address, port))
        self.connections.know("c", 4)
        self.connections.know("c", 5)
        self.assertTrue(self.admit("d", 7))
        self.assertEqual(self.closed, [2])
        self.assertEqual(len(self.connections), 6)

    def test_a_known_one_never_makes_room(self) -> None:
        for port in range(6):
            self.admit("ab"[port % 2], port)
            self.connections.know("ab"[port % 2], port)
        self.assertFalse(self.admit("c", 9))
        self.assertEqual(self.closed, [])


class RepeatsTest(unittest.TestCase):
    def test_a_line_that_repeats_itself_is_written_once_a_minute_and_counted(self) -> None:
        now = 0.0
        repeats = Repeats(lambda: now)
        self.assertEqual([repeats.count("x") for _ in range(4)], [1, 0, 0, 0])
        self.assertEqual(repeats.count("y"), 1)
        now = REPEATED_S
        self.assertEqual(repeats.count("x"), 4)
        self.assertEqual(repeats.count("x"), 0)


class CrowdTest(unittest.TestCase):
    """A shared app on loopback: the machine itself, a phone that was let in, and a crowd."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.share_port = free_port()
        more = {
            "LEPIDOS_SHARE": "1",
            "LEPIDOS_SHARE_PORT": str(self.share_port),
            "LEPIDOS_LOG_LEVEL": "info",
        }
        self.server = Server(self.folder, searches=False, **more)
        self.server.start()
        self.addCleanup(self.server.kill)
        self.here, self.phone = Asking(self.server), Asking(self.server, self.share_port)
        self.phone.join(self.here)
        handles = many_handles()
        handles.__enter__()
        self.addCleanup(handles.__exit__, None, None, None)
        self.crowd = Crowd(self.share_port)
        self.addCleanup(self.crowd.leave)
        self._count = 0
        answer = self.write(
            self.here, "/trips", name="Marram Lass", kind="boat", on_date="2026-07-14"
        )
        self.trip = answer.split("/deck")[0]

    def write(self, asking: Asking, path: str, **fields: object) -> str:
        """What a form led to."""
        self._count += 1
        status, text, headers = asking.ask("POST", path, key=f"crowd-{self._count:06d}", **fields)
        self.assertEqual(status, 303, text[-300:])
        return headers["location"]

    def both_land(self) -> None:
        for asking in (self.here, self.phone):
            self.write(asking, f"{self.trip}/fish", species="mackerel", length="36", bled="on")

    def test_silent_half_said_and_half_sent_connections_shut_nobody_out(self) -> None:
        for said, count in ((b"", 1100), (HALF_HEAD, 300), (HALF_BODY, 300)):
            with self.subTest(said=said[:20], count=count):
                self.crowd.come(count, said)
                self.assertGreaterEqual(self.crowd.turned_away, count - 2 * OF_ADDRESS)
                self.both_land()
                self.crowd.leave()
                self.crowd.turned_away = 0
        self.crowd.come(900, b"", addresses=30, tls=False)  # not even a handshake
        self.both_land()
        self.crowd.come(300, HALF_HEAD, addresses=30)
        self.both_land()
        self.assertLess(self.server.errors.stat().st_size, 1_000_000)

    def test_who_says_nothing_is_given_up(self) -> None:
        silent = socket.create_connection(("127.0.0.1", self.share_port), 5, ("127.0.1.9", 0))
        mute = trusting().wrap_socket(
            socket.create_connection(("127.0.0.1", self.share_port), 5, ("127.0.1.9", 0))
        )
        mute.sendall(HALF_HEAD)
        for one in (silent, mute):
            one.settimeout(gate.HANDSHAKE_S + gate.HEAD_S + 20)
            # closed politely, or the hard way
            with self.subTest(one=type(one).__name__), contextlib.suppress(ConnectionError):
                self.assertEqual(one.recv(100), b"")
            one.close()

    def test_the_stream_of_a_device_that_is_let_out_ends_at_once(self) -> None:
        line = http.client.HTTPSConnection(
            "127.0.0.1", self.share_port, timeout=20, context=trusting(), source_address=(PHONE, 0)
        )
        line.request("GET", "/live/changes", headers={"cookie": self.phone.cookie})
        stream = line.getresponse()
        self.assertEqual(stream.status, 200)
        self.assertTrue(stream.readline().startswith(b"data:"))
        heard: list[bytes] = []
        ended = threading.Event()

        def listen() -> None:
            while part := stream.readline():
                heard.append(part)
            ended.set()

        threading.Thread(target=listen, daemon=True).start()
        _, page, _ = self.here.ask("GET", "/boat")
        out = re.findall(r"/boat/devices/\w+/out", page)[0]
        self.write(self.here, out)
        before = len(heard)
        for _ in range(5):
            self.write(self.here, f"{self.trip}/fish", species="mackerel", length="36", bled="on")
            time.sleep(0.05)
        self.assertTrue(ended.wait(20))
        self.assertLessEqual(len([part for part in heard[before:] if part.startswith(b"data:")]), 0)
        status, _, headers = self.phone.ask("GET", "/boat")
        self.assertEqual((status, headers["location"][:5]), (303, "/join"))
        line.close()

    def test_the_budget_is_what_a_boat_needs(self) -> None:
        self.assertGreaterEqual(OF_ADDRESS, 4 * 6)  # four browsers of one address
        self.assertGreaterEqual(IN_ALL, 8 * OF_ADDRESS)

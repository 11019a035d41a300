"""The name on the network follows the machine's addresses: there at the start, later, others, none."""

import time
import unittest
from typing import Any

from zeroconf import Error

from lepidos.web.shell.announce import Announcer, announced


class Radio:
    """Notes what is announced on it; `broken` as a network that forbids it."""

    every: list["Radio"]

    def __init__(self, at: list[str], broken: bool = False) -> None:
        self.at, self.broken, self.closed = at, broken, False
        self.told: list[Any] = []

    def register_service(self, info: Any, allow_name_change: bool) -> None:
        if self.broken:
            raise Error("not here")
        self.told.append(info)

    def unregister_all_services(self) -> None:
        self.told = []

    def close(self) -> None:
        self.closed = True


class AnnouncerTest(unittest.TestCase):
    def setUp(self) -> None:
        self.addresses: list[str] = []
        self.radios: list[Radio] = []
        self.broken = False
        self.announcer = Announcer(8443, lambda: self.addresses, self.make)  # type: ignore[arg-type]

    def make(self, at: list[str]) -> Radio:
        self.radios.append(Radio(at, self.broken))
        return self.radios[-1]

    def test_a_network_that_comes_later_is_told_and_one_that_goes_is_left(self) -> None:
        self.announcer.look()
        self.assertEqual(self.radios, [])
        self.addresses = ["192.168.4.2"]
        self.announcer.look()
        self.announcer.look()
        (radio,) = self.radios
        (info,) = radio.told
        self.assertEqual((info.server, info.port), ("lepidos.local.", 8443))
        self.assertEqual(info.parsed_addresses(), ["192.168.4.2"])
        self.addresses = ["10.0.0.7", "192.168.4.2"]
        self.announcer.look()
        self.assertTrue(radio.closed)
        self.assertEqual(self.radios[1].at, ["10.0.0.7", "192.168.4.2"])
        self.addresses = []
        self.announcer.look()
        self.assertTrue(self.radios[1].closed)
        self.assertEqual(len(self.radios), 2)

    def test_where_it_is_forbidden_the_app_goes_on_and_tries_again_elsewhere(self) -> None:
        self.broken, self.addresses = True, ["192.168.4.2"]
        self.announcer.look()
        self.broken, self.addresses = False, ["10.0.0.7"]
        self.announcer.look()
        self.assertEqual(len(self.radios[1].told), 1)

    def test_it_looks_again_while_the_app_runs_and_ends_with_it(self) -> None:
        with announced(self.announcer, 0.01):
            self.addresses = ["192.168.4.2"]
            end = time.monotonic() + 20
            while not self.radios and time.monotonic() < end:
                time.sleep(0.01)
        self.assertTrue(self.radios[0].closed)
        self.assertEqual(self.radios[0].told, [])

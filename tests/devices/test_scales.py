"""Several scales: by name, at boards, and one that another device's browser passes on."""

import json
import unittest
from random import Random

from hypothesis import given
from hypothesis import strategies as st

from lepidos.devices.indicator import DeviceError, ScaleLoaded, ScaleOffline
from lepidos.devices.pushed_scale import PushedScale
from lepidos.devices.scale import Scale, SimulatedScale
from lepidos.devices.scales import FORGET_AFTER_S, MAX_PUSHED, Scales, named_lines
from tests.devices.test_devices import ScaleContract

OWN = "own-0123456789abcdef"


class Hand:
    """A clock, and a pushed scale on it."""

    def __init__(self) -> None:
        self.now = 100.0
        self.scale = PushedScale(lambda: self.now)

    def lay(self, kg: float, seconds: float, every: float = 0.05) -> None:
        for _ in range(max(1, int(seconds / every))):
            self.now += every
            self.scale.take([json.dumps({"gross": kg * 1000, "unit": "g"})])


class PushedScaleTest(ScaleContract, unittest.TestCase):
    def make(self, kg: float, for_seconds: float) -> Scale:
        self.hand = Hand()
        self.hand.lay(0.0, 5)
        self.hand.lay(kg, for_seconds)
        return self.hand.scale

    def test_a_device_that_left_is_no_answer(self) -> None:
        scale = self.make(0.2, 5)
        self.hand.now += 3
        with self.assertRaises(ScaleOffline):
            scale.read()

    def test_zero_is_told_to_the_scale_once(self) -> None:
        scale = self.make(0.0, 5)
        scale.zero()
        # until the device says that it wrote it: an answer may be lost
        for _ in range(2):
            self.assertEqual(self.hand.scale.take([]), (['{"do":"zero"}\n'], 1))
        self.assertEqual(self.hand.scale.take([], 1), ([], 1))
        scale.zero()
        self.assertEqual(self.hand.scale.take([], 1), (['{"do":"zero"}\n'], 2))
        self.assertEqual(self.hand.scale.take([], 99), ([], 2))
        self.hand.lay(5.0, 5)
        with self.assertRaises(ScaleLoaded):
            scale.zero()
        self.assertEqual(self.hand.scale.take([], 2), ([], 2))

    @given(st.lists(st.text(max_size=300), max_size=60))
    def test_no_line_breaks_it(self, lines: list[str]) -> None:
        Hand().scale.take(lines)


class SaidTest(unittest.TestCase):
    def test_by_name_and_without(self) -> None:
        self.assertEqual(named_lines(""), {})
        self.assertEqual(named_lines("socket://10.0.0.4:7878"), {"Scale": "socket://10.0.0.4:7878"})
        self.assertEqual(
            named_lines("Ines=/dev/ttyUSB0, Tobias Wren = socket://10.0.0.4:7878/logging=debug,/dev/x"),
            {"Ines": "/dev/ttyUSB0", "Tobias Wren": "socket://10.0.0.4:7878/logging=debug", "Scale 3": "/dev/x"},
        )  # fmt: skip
        with self.assertRaisesRegex(ValueError, "two are called Ines"):
            named_lines("Ines=/dev/a,Ines=/dev/b")


class ScalesTest(unittest.TestCase):
    def setUp(self) -> None:
        self.now = 0.0
        self.scales = Scales({}, lambda: PushedScale(lambda: self.now))

    def test_an_own_scale_has_a_key_that_nobody_else_guesses(self) -> None:
        for bad in ("", "own-", "own-xyz", "Ines", "own-" + "0" * 40):
            with self.assertRaises(DeviceError):
                self.scales.take(bad, [])
            self.assertIsNone(self.scales.find(bad))

    def test_devices_that_took_theirs_away_make_room(self) -> None:
        for n in range(MAX_PUSHED):
            self.scales.take(f"own-{n:08x}", ['{"gross": 1}'])
        with self.assertRaisesRegex(DeviceError, "Too many"):
            self.scales.take(OWN, [])
        self.now += FORGET_AFTER_S + 1
        self.scales.take(OWN, ['{"gross": 1}'])
        self.assertIsNone(self.scales.find("own-00000000"))
        self.assertIsNotNone(self.scales.find(OWN))

    def test_named_ones_are_found_by_name(self) -> None:
        one = SimulatedScale(lambda: 0.0, Random(1))
        scales = Scales({"Ines": one})
        self.assertIs(scales.find("Ines"), one)
        self.assertIsNone(scales.find("ines"))

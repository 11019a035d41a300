"""The display's own sense of steady, loads told apart, and a scale on a line."""

import contextlib
import json
import os
import socket
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.request
from pathlib import Path
from random import Random
from unittest.mock import patch

from lepidos.devices.indicator import (
    DeviceError,
    Indicator,
    Reading,
    ScaleLoaded,
    ScaleOffline,
    ScaleOverload,
    ScaleUnsettled,
)
from lepidos.devices.line_scale import MAX_BAD, LineScale
from lepidos.devices.line_simulator import LineSimulator
from lepidos.devices.scale import SimulatedScale
from tests.devices.test_devices import ScaleContract
from tests.server import Server, free_port


class Hand:
    """A clock that a test moves on, and a stand-in scale on it."""

    def __init__(self) -> None:
        self.now = 100.0
        self.scale = SimulatedScale(lambda: self.now, Random(2))

    def wait(self, seconds: float) -> Reading:
        for _ in range(max(1, int(seconds / 0.25))):
            self.now += min(0.25, seconds)
            reading = self.scale.read()
        return reading

    def lay(self, kg: float) -> Reading:
        self.scale.put_on(kg)
        return self.wait(2.5)


class IndicatorTest(unittest.TestCase):
    def fed(self, masses: list[float], every: float = 0.05) -> Indicator:
        indicator = Indicator("x")
        for k, kg in enumerate(masses):
            indicator.feed(k * every, kg)
        return indicator

    def test_steady_is_what_agrees_for_a_while(self) -> None:
        self.assertTrue(self.fed([0.5] * 10).reading().steady)
        self.assertFalse(self.fed([0.5] * 3).reading().steady)
        self.assertFalse(self.fed([0.5 + 0.004 * (k % 2) for k in range(10)]).reading().steady)
        self.assertFalse(self.fed([0.5 + 0.002 * k for k in range(10)]).reading().steady)

    def test_one_wild_reading_is_not_steady_and_then_is_again(self) -> None:
        self.assertFalse(self.fed([0.5] * 10 + [0.9]).reading().steady)
        self.assertTrue(self.fed([0.5] * 10 + [0.9] + [0.5] * 10).reading().steady)

    def test_without_readings_it_is_offline(self) -> None:
        with self.assertRaises(ScaleOffline):
            Indicator("x").reading()

    def test_zero_is_for_an_empty_pan(self) -> None:
        self.fed([0.02] * 10).zero()
        with self.assertRaisesRegex(ScaleLoaded, "use tare"):
            self.fed([0.9] * 10).zero()


class LoadsTest(unittest.TestCase):
    def setUp(self) -> None:
        self.hand = Hand()
        self.hand.wait(2)

    def test_one_load_keeps_its_mark_and_another_gets_its_own(self) -> None:
        first = self.hand.lay(0.5)
        self.assertEqual(self.hand.wait(5).mark, first.mark)
        self.hand.lay(0.0)
        self.assertNotEqual(self.hand.lay(0.5).mark, first.mark)

    def test_what_is_laid_beside_is_the_same_stretch_until_the_pan_is_clear(self) -> None:
        first, beside = self.hand.lay(0.5), self.hand.lay(0.8)
        self.assertNotEqual(first.mark, beside.mark)
        self.assertEqual(first.stretch, beside.stretch)
        self.hand.lay(0.0)
        self.assertNotEqual(self.hand.lay(0.8).stretch, beside.stretch)

    def test_a_tare_begins_a_new_stretch(self) -> None:
        tray = self.hand.lay(0.3)
        self.hand.scale.tare()
        piece = self.hand.lay(0.8)
        self.assertAlmostEqual(piece.kg, 0.5, delta=0.0015)
        self.assertNotEqual(piece.stretch, tray.stretch)

    def test_a_cat_is_never_steady(self) -> None:
        self.hand.scale.cat(True)
        for _ in range(20):
            self.assertFalse(self.hand.wait(0.5).steady)
        with self.assertRaises(ScaleUnsettled):
            self.hand.scale.settled()
        self.hand.scale.cat(False)
        self.assertTrue(self.hand.wait(2).steady)

    def test_an_empty_pan_creeps_and_zero_takes_it_off(self) -> None:
        self.hand.scale.drift(12)
        self.assertAlmostEqual(self.hand.wait(60).kg, 0.012, delta=0.002)
        self.hand.scale.drift(0)
        self.assertAlmostEqual(self.hand.wait(2).kg, 0.012, delta=0.002)
        self.hand.scale.zero()
        self.assertAlmostEqual(self.hand.wait(2).kg, 0.0, delta=0.0015)


class LineScaleTest(ScaleContract, unittest.TestCase):
    """The contract of every scale, through a real socket and the simulator behind it."""

    def setUp(self) -> None:
        self.simulator = LineSimulator()
        self.simulator.start()
        self.addCleanup(self.simulator.stop)
        self.line = LineScale(f"socket://127.0.0.1:{self.simulator.port}")
        self.addCleanup(self.line.close)
        self.until(lambda: self.line.read().steady)

    def until(self, holds, seconds: float = 15.0) -> None:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            try:
                if holds():
                    return
            except DeviceError:
                pass
            time.sleep(0.03)
        self.fail("it never came so")

    def make(self, kg: float, for_seconds: float) -> LineScale:
        self.simulator.obey(json.dumps({"load": kg}).encode())
        if for_seconds > 1:
            if kg > 30:
                time.sleep(1.0)
            else:
                self.until(
                    lambda: self.line.read().steady and abs(self.line.read().kg - kg) < 0.002
                )
        else:
            self.until(lambda: not self.line.read().steady)
        return self.line

    def test_units_on_the_line_are_the_scales_own(self) -> None:
        for unit in ("kg", "lb", "oz", "g"):
            self.simulator.obey(json.dumps({"unit": unit, "load": 0.6}).encode())
            with self.subTest(unit=unit):
                self.until(
                    lambda: self.line.read().steady and abs(self.line.read().kg - 0.6) < 0.003
                )

    def test_a_fault_is_said_in_its_words(self) -> None:
        self.simulator.obey(b'{"fault": "battery low"}')
        time.sleep(0.3)
        with self.assertRaisesRegex(DeviceError, "battery low"):
            self.line.read()
        self.simulator.obey(b'{"fault": ""}')
        self.until(lambda: self.line.read().steady)

    def test_a_line_that_breaks_is_silence_and_comes_back(self) -> None:
        port = self.simulator.port
        self.simulator.stop()
        with self.assertRaisesRegex(ScaleOffline, "does not answer"):
            for _ in range(100):
                self.line.read()
                time.sleep(0.05)
        self.simulator = LineSimulator(port)
        self.simulator.start()
        self.until(lambda: self.line.read().steady)

    def test_zero_goes_down_the_line_too(self) -> None:
        self.simulator.obey(b'{"load": 0.02}')
        self.until(lambda: self.line.read().steady and self.line.read().kg > 0.015)
        self.line.zero()
        self.until(lambda: abs(self.simulator.zero_kg - 0.02) < 0.004)


class GarbageTest(unittest.TestCase):
    def test_what_is_no_line_of_the_protocol_is_left_and_then_named(self) -> None:
        line = LineScale("socket://127.0.0.1:1", clock=lambda: 5.0)
        self.addCleanup(line.close)
        for _ in range(12):
            line.hear(b'{"gross": 500, "unit": "g"}')
        for text in (b"", b"\xff\xfe", b"ST,GS 0.5", b"[]", b"7", b'{"gross": "much"}',
                     b'{"gross": 1, "unit": "stone"}', b'{"gross": 1e9}', b'{"gross": NaN}',
                     b'{"gross": 500, "unit": "g"'):  # fmt: skip
            line.hear(text)
        self.assertAlmostEqual(line.read().kg, 0.5, delta=0.001)
        for _ in range(MAX_BAD):
            line.hear(b"%%%")
        with self.assertRaisesRegex(DeviceError, "another language"):
            line.read()
        line.hear(b'{"fault": "overload"}')
        for _ in range(5):
            line.hear(b'{"fault": "overload"}')
        with self.assertRaises((ScaleOverload, ScaleUnsettled)):
            line.settled()

    def test_silence_is_no_zero(self) -> None:
        now = [0.0]
        line = LineScale("socket://127.0.0.1:1", clock=lambda: now[0])
        self.addCleanup(line.close)
        line.hear(b'{"gross": 0.5}')
        now[0] = 3.0
        with self.assertRaises(ScaleOffline):
            line.read()


class AttachedTest(unittest.TestCase):
    """The whole app with a scale on a socket, by configuration alone."""

    def test_a_piece_from_a_scale_on_the_line(self) -> None:
        simulator = LineSimulator()
        simulator.start()
        self.addCleanup(simulator.stop)
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        server = Server(Path(folder.name))
        where = {"LEPIDOS_SCALE": f"socket://127.0.0.1:{simulator.port}"}
        with patch.dict(os.environ, where):
            server.start()
        self.addCleanup(server.kill)

        def ask(path: str, body: dict[str, object] | None = None) -> dict[str, object]:
            request = urllib.request.Request(
                server.base + path,
                data=None if body is None else json.dumps(body).encode(),
                headers={
                    "content-type": "application/json",
                    "idempotency-key": "line-" + path[-18:].replace("/", "-"),
                },
            )
            return json.loads(urllib.request.urlopen(request, timeout=10).read())

        trip = ask(
            "/api/v1/trips",
            {"name": "Marram Lass", "harbour": "Skarrow Quay", "on_date": "2026-07-14"},
        )
        fish = ask(f"/api/v1/trips/{trip['id']}/fish", {"species": "pollack", "length_cm": 68})
        simulator.obey(b'{"load": 0.583, "unit": "lb"}')
        for _ in range(200):
            shown = ask("/live/scale")
            if shown["steady"] and abs(float(shown["kg"]) - 0.583) < 0.003:
                break
            time.sleep(0.05)
        ask(f"/api/v1/fish/{fish['id']}/weighings", {"piece": "fillet", "side": "A"})
        (row,) = ask(f"/api/v1/fish/{fish['id']}")["weighings"]
        self.assertEqual(row["method"], "scale")
        self.assertAlmostEqual(row["kg"], 0.583, delta=0.003)

    def test_the_command_serves_a_scale(self) -> None:
        port = free_port()
        process = subprocess.Popen(
            [sys.executable, "-m", "lepidos", "scale", "--port", str(port)],
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        self.addCleanup(process.wait)
        self.addCleanup(process.kill)
        line = None
        for _ in range(1800):  # a busy machine takes a minute to read the program
            self.assertIsNone(process.poll(), "the stand-in ended")
            with contextlib.suppress(OSError):
                line = socket.create_connection(("127.0.0.1", port), timeout=60)
                break
            time.sleep(0.1)
        assert line, "nothing listens"
        with line, line.makefile("rb") as said:
            first = json.loads(said.readline())
            self.assertAlmostEqual(first["gross"], 0.0, delta=2.0)
            self.assertEqual(first["unit"], "g")

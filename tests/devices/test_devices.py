"""Stand-ins behave like the real thing; one contract holds for every scale."""

import itertools
import os
import tempfile
import unittest
from pathlib import Path
from random import Random
from typing import TYPE_CHECKING
from unittest import mock

from lepidos.core.errors import OutOfRange
from lepidos.devices.indicator import Indicator
from lepidos.devices.printer import (
    KEPT,
    Jammed,
    OutOfPaper,
    PrinterOffline,
    PrintJob,
    SimulatedPrinter,
)
from lepidos.devices.scale import (
    Scale,
    ScaleOffline,
    ScaleOverload,
    ScaleUnsettled,
    SimulatedScale,
)
from lepidos.devices.spooler import Spooler
from tests.app import NOON

# a contract is no test by itself; it is one where a scale is made for it
if TYPE_CHECKING:
    Asserts = unittest.TestCase
else:
    Asserts = object


class ScaleContract(Asserts):
    """What every scale must do; `make` gives one with a mass lying on it for some seconds."""

    def make(self, kg: float, for_seconds: float) -> Scale:
        raise AssertionError("each scale's test says how to make one")

    def test_a_settled_load_is_read_within_a_gram(self) -> None:
        scale = self.make(0.458, 10)
        self.assertAlmostEqual(scale.settled().kg, 0.458, delta=0.0011)
        self.assertTrue(scale.read().steady)

    def test_a_moving_load_is_not_taken(self) -> None:
        scale = self.make(0.458, 0.1)
        self.assertFalse(scale.read().steady)
        with self.assertRaises(ScaleUnsettled):
            scale.settled()

    def test_tare_takes_off_what_lies_there(self) -> None:
        scale = self.make(0.031, 10)
        scale.tare()
        self.assertAlmostEqual(scale.settled().kg, 0.0, delta=0.0011)
        self.assertAlmostEqual(scale.read().tare_kg, 0.031, delta=0.0011)

    def test_too_much_is_said_so(self) -> None:
        with self.assertRaises(ScaleOverload):
            self.make(45, 10).read()


class SimulatedScaleTest(ScaleContract, unittest.TestCase):
    def make(self, kg: float, for_seconds: float) -> SimulatedScale:
        times = itertools.chain([0.0], itertools.repeat(for_seconds))
        scale = SimulatedScale(lambda: next(times), Random(1))
        scale.put_on(kg)
        return scale

    def test_a_pulled_cable_is_an_answer_and_not_a_zero(self) -> None:
        scale = self.make(0.4, 10)
        scale.unplug()
        with self.assertRaisesRegex(ScaleOffline, "cable"):
            scale.read()
        scale.plug_in()
        self.assertAlmostEqual(scale.settled().kg, 0.4, delta=0.0011)

    def test_refuses_a_load_that_cannot_be(self) -> None:
        for kg in (-1, 61, float("nan")):
            with self.subTest(kg=kg), self.assertRaises(OutOfRange):
                self.make(0, 1).put_on(kg)

    def test_the_swing_dies_out(self) -> None:
        moving = abs(self.make(1.0, 0.05).read().kg - 1.0)
        later = abs(self.make(1.0, 0.6).read().kg - 1.0)
        self.assertGreater(moving, 0.1)
        self.assertLess(later, 0.05)

    def test_a_load_called_steady_stays_steady_until_it_is_touched(self) -> None:
        """A touch at the bench follows the lamp by some tenths of a second."""
        for seed in range(300):
            now = [0.0]
            scale = SimulatedScale(lambda now=now: now[0], Random(seed))  # type: ignore[misc]
            scale.put_on(0.35)
            seen = []
            for tick in range(4, 40):
                now[0] = tick / 20
                seen.append(scale.read().steady)
            self.assertTrue(seen[-1])
            self.assertEqual(seen, sorted(seen), f"seed {seed}")


class IndicatorTest(unittest.TestCase):
    def lamps(self, *grams: float) -> list[bool]:
        """What the lamp says after each gross reading, twenty a second."""
        indicator, said = Indicator("a"), []
        for tick, gram in enumerate(grams):
            indicator.feed(tick / 20, gram / 1000)
            said.append(indicator.reading().steady)
        return said

    def test_it_takes_more_to_move_than_not_to_settle(self) -> None:
        self.assertTrue(self.lamps(*[350] * 8)[-1])
        self.assertFalse(self.lamps(*[350] * 5, 352.5, 350, 350)[-1])
        self.assertEqual(self.lamps(*[350] * 8, 352.5, 350)[-3:], [True] * 3)
        self.assertEqual(self.lamps(*[350] * 8, 353.5)[-2:], [True, False])

    def test_once_moving_it_settles_as_a_new_load_does(self) -> None:
        said = self.lamps(*[350] * 8, 360, *[362.5, 360] * 10)
        self.assertEqual(said[8:], [False] * 21)

    def test_a_line_that_was_lost_starts_anew(self) -> None:
        indicator = Indicator("a")
        for tick in range(8):
            indicator.feed(tick / 20, 0.35)
        indicator.forget()
        for tick in range(8):
            indicator.feed(5 + tick / 20, 0.35 + 0.0025 * (tick % 2))
        self.assertFalse(indicator.reading().steady)


class PrinterTest(unittest.TestCase):
    def test_keeps_the_latest_jobs_newest_first(self) -> None:
        printer = SimulatedPrinter()
        for k in range(KEPT + 5):
            printer.print(PrintJob(f"label {k}", b"%PDF", NOON))
        self.assertEqual(printer.tray()[0].name, f"label {KEPT + 4}")
        self.assertEqual(len(printer.tray()), KEPT)

    def test_switched_off_it_says_so_and_keeps_nothing(self) -> None:
        printer = SimulatedPrinter()
        printer.online = False
        with self.assertRaises(PrinterOffline):
            printer.print(PrintJob("label", b"%PDF", NOON))
        self.assertEqual(printer.tray(), ())

    def test_out_of_labels_and_jammed_it_says_what_to_do(self) -> None:
        printer = SimulatedPrinter()
        for trouble, kind, word in (("paper", OutOfPaper, "roll"), ("jam", Jammed, "stuck")):
            printer.trouble = trouble
            with self.subTest(trouble=trouble), self.assertRaisesRegex(kind, word):
                printer.check()
        printer.trouble, printer.labels = "", 1
        printer.print(PrintJob("label", b"%PDF", NOON))
        with self.assertRaises(OutOfPaper):
            printer.print(PrintJob("label", b"%PDF", NOON))
        self.assertEqual(len(printer.tray()), 1)


class SpoolerTest(unittest.TestCase):
    """Against a fake `lp` and `lpstat` that keep what they were given."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.says("printer bench is idle.")
        self.program("lp", 'echo "$@" >> "$0.said"; cat > "$0.job"; echo "request id is bench-1"')
        path = mock.patch.dict(os.environ, {"PATH": f"{self.folder}:/usr/bin:/bin"})
        path.start()
        self.addCleanup(path.stop)

    def program(self, name: str, text: str) -> None:
        file = self.folder / name
        file.write_text(f"#!/bin/sh\n{text}\n")
        file.chmod(0o755)

    def says(self, text: str) -> None:
        self.program("lpstat", f"echo '{text}'")

    def test_the_whole_job_goes_to_the_queue_that_was_named(self) -> None:
        Spooler("bench").print(PrintJob("label K7M-2QD; rm -rf", b"%PDF-1.3 \x00\xff", NOON))
        self.assertEqual((self.folder / "lp.job").read_bytes(), b"%PDF-1.3 \x00\xff")
        said = (self.folder / "lp.said").read_text()
        self.assertEqual(said, "-d bench -t label K7M-2QD; rm -rf -\n")

    def test_what_is_wrong_with_the_printer_is_said_and_nothing_is_sent(self) -> None:
        for text, kind in (
            ("Alerts: media-empty-error", OutOfPaper),
            ("Alerts: media-jam-report", Jammed),
            ("printer bench disabled since", PrinterOffline),
        ):
            self.says(text)
            with self.subTest(text=text), self.assertRaises(kind):
                Spooler("bench").print(PrintJob("label", b"%PDF", NOON))
        self.assertFalse((self.folder / "lp.job").exists())

    def test_a_refusal_says_why(self) -> None:
        self.program("lp", 'echo "lp: The printer or class does not exist." >&2; exit 1')
        with self.assertRaisesRegex(PrinterOffline, "does not exist"):
            Spooler("nowhere").print(PrintJob("label", b"%PDF", NOON))

    def test_without_a_spooler_it_says_so(self) -> None:
        with (
            mock.patch.dict(os.environ, {"PATH": "/nowhere"}),
            self.assertRaisesRegex(PrinterOffline, "no print spooler"),
        ):
            Spooler().check()

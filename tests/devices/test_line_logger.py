"""A freezer's logger on a line: what it says, and the files that are left of it."""

import queue
import socket
import tempfile
import unittest
from contextlib import suppress
from pathlib import Path
from unittest import mock
from zoneinfo import ZoneInfo

from hypothesis import given
from hypothesis import strategies as st

from lepidos.devices import line_logger
from lepidos.devices.line_logger import COLDEST_C, WARMEST_C, LineLogger, heard_c
from lepidos.exchange.logger_csv import read_log
from lepidos.exchange.logger_layout import layout_of
from lepidos.settings import Settings

NOON_S = 1_784_030_400  # 14 July 2026, 12:00 UTC


class HeardTest(unittest.TestCase):
    def test_a_line_says_one_temperature(self) -> None:
        for line, celsius in (
            ("-18.4", -18.4), ("T=-18.4C H=45%", -18.4), ("ch1 −18,4 °C\r", -18.4), ("-0.4 F", -18.0),
            ("2026 1", None), ("hello", None), ("-99.9", None), ("85.0 C", None), ("123456", None), ("", None),
        ):  # fmt: skip
            self.assertEqual(heard_c(line), celsius, line)

    @given(st.text(max_size=60))
    def test_any_line_is_a_possible_temperature_or_none(self, line: str) -> None:
        found = heard_c(line)
        self.assertTrue(found is None or COLDEST_C <= found <= WARMEST_C)


class FileTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder, self.now = Path(folder.name) / "logs", float(NOON_S)
        self.logger = LineLogger("loop://", self.folder, "chest", lambda: self.now)

    def hear(self, *lines: str) -> None:
        for line in lines:
            self.logger.hear(line)
            self.now += 20

    def text(self, day: str = "2026-07-14") -> str:
        return (self.folder / f"chest {day}.csv").read_text("utf-8")

    def test_the_last_reading_of_each_minute_stands_in_the_file_of_its_day(self) -> None:
        self.hear("-18.0", "noise", "-18.2", "-18.4", "-18.5", "-18.6", "-18.7")
        log = read_log(self.text(), layout_of(self.text()), ZoneInfo("UTC")).log
        self.assertEqual([int(s) for s in log.at_s], [NOON_S, NOON_S + 60])
        self.assertEqual(list(log.celsius), [-18.2, -18.6])

    def test_another_day_is_another_file(self) -> None:
        self.now += 12 * 3600 - 30
        self.hear("-18", "-19", "-20")
        self.now += 60
        self.hear("-21")
        self.assertIn("23:59:00Z,-19.0", self.text().replace("-18.0\n", ""))
        self.assertIn("2026-07-15T00:00:00Z,-20.0", self.text("2026-07-15"))

    def test_half_a_line_that_a_power_cut_left_spoils_no_other(self) -> None:
        self.hear(*["-18.0"] * 4)
        file = self.folder / "chest 2026-07-14.csv"
        file.write_bytes(file.read_bytes() + b"2026-07-14T12")
        self.hear(*["-18.5"] * 3)
        self.assertEqual(self.text().splitlines()[-1], "2026-07-14T12:01:00Z,-18.5")

    def test_a_clock_that_goes_back_writes_no_minute_twice(self) -> None:
        self.hear(*["-18.0"] * 7)
        self.now -= 3600
        self.hear(*["-19.0"] * 9)
        minutes = [line.split(",")[0] for line in self.text().splitlines()[1:]]
        self.assertEqual(minutes, sorted(set(minutes)))


class LineTest(unittest.TestCase):
    def test_what_comes_over_a_socket_is_heard_and_a_broken_line_is_opened_again(self) -> None:
        server = socket.create_server(("127.0.0.1", 0))
        self.addCleanup(server.close)
        heard: queue.Queue[str] = queue.Queue()

        class Heard(LineLogger):
            def hear(self, line: str) -> None:
                heard.put(line)

        url = f"socket://127.0.0.1:{server.getsockname()[1]}"
        with mock.patch.object(line_logger, "AGAIN_S", 0.05):
            logger = Heard(url, Path("nowhere"), "chest")
            logger.start()
            self.addCleanup(logger.close)
            for said in ("-18.0", "-19.0"):
                line, _ = server.accept()
                with line:
                    for _ in range(100):
                        # whoever opens a socket throws away what lay there: say it once more
                        line.sendall(f".5\n{said}\n".encode())
                        with suppress(queue.Empty):
                            first = heard.get(timeout=0.2)
                            break
                # of the first line the beginning may be lost: it is no reading
                self.assertEqual(first, said)
                while not heard.empty():
                    heard.get()


class SettingTest(unittest.TestCase):
    def test_each_logger_names_its_place(self) -> None:
        self.assertEqual(Settings(logger="chest=/dev/ttyUSB1").logger, "chest=/dev/ttyUSB1")
        for wrong in ("/dev/ttyUSB1", "a=/dev/x, a=/dev/y", "top/left=/dev/x"):
            with self.assertRaises(ValueError):
                Settings(logger=wrong)

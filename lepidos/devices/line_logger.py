"""A freezer's logger on a serial port or a TCP socket, whose readings go into a file of each day.

The files lie in the folder that is looked through for readings, by the name of their place: what
was heard is kept whatever becomes of the app, and belongs to one place.
"""

import os
import re
import threading
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

import serial
import structlog

from lepidos.core.errors import BadInput
from lepidos.core.units import parse_temperature_c

COLDEST_C, WARMEST_C = -60.0, 60.0  # beyond is a broken sensor
MAX_LINE_LENGTH = 200  # characters
AGAIN_S = 5.0
# one number with a unit, or the only number of a line: "T1 -18.4 C 45%", "-18,4"
_WITH_UNIT = re.compile(r"(?<![\d.,])([-−+]?\d+(?:[.,]\d+)?)\s*(°?\s*[CFcf])\b")
_NUMBER = re.compile(r"(?<![\d.,])[-−+]?\d+(?:[.,]\d+)?")


def heard_c(line: str) -> float | None:
    """The temperature that a line says; None where it says none, or several, or an impossible one.

    >>> heard_c("ch1: -18.4 C, 45 %"), heard_c("-18,4"), heard_c("-0.4 F"), heard_c("1 2")
    (-18.4, -18.4, -18.0, None)
    """
    if found := _WITH_UNIT.search(line):
        text = found[0]
    else:
        numbers = _NUMBER.findall(line)
        if len(numbers) != 1:
            return None
        text = f"{numbers[0]} C"
    try:
        celsius = round(parse_temperature_c(text, "metric"), 2)
    except BadInput:
        return None
    return celsius if COLDEST_C <= celsius <= WARMEST_C else None


class LineLogger:
    """A logger on a line; a thread of its own listens. Close it with `close`.

    Args:
        url: "/dev/ttyUSB1", "socket://host:port" or what else pyserial opens.
        folder: Where its files go.
        place: The name of its freezer or drawer.
        now: Seconds since 1970.
    """

    def __init__(
        self,
        url: str,
        folder: Path,
        place: str,
        now: Callable[[], float] = time.time,
        baud: int = 9600,
    ) -> None:
        self._url, self._folder, self._place = url, folder, place
        self._now, self._baud = now, baud
        self._minute, self._last = 0, 0.0
        self._closed = threading.Event()

    def start(self) -> None:
        """Listen from now on."""
        threading.Thread(target=self._listen, daemon=True, name="logger line").start()

    def close(self) -> None:
        """Stop listening; the thread hangs up by itself within a second."""
        self._closed.set()

    def hear(self, line: str) -> None:
        """Take a line. The last reading of a minute is written when the next minute begins."""
        celsius = heard_c(line[:MAX_LINE_LENGTH])
        if celsius is None:
            return
        minute = int(self._now()) // 60
        if self._minute and minute > self._minute:
            self._write(self._minute, self._last)
        self._minute, self._last = max(minute, self._minute), celsius

    def _write(self, minute: int, celsius: float) -> None:
        at = datetime.fromtimestamp(minute * 60, UTC)
        self._folder.mkdir(parents=True, exist_ok=True)
        with (self._folder / f"{self._place} {at:%Y-%m-%d}.csv").open("ab+") as file:
            if not file.tell():
                file.write("time,temp °C\n".encode())
            else:
                file.seek(-1, os.SEEK_END)
                if file.read(1) != b"\n":  # a power cut left half a line
                    file.write(b"\n")
            file.write(f"{at:%Y-%m-%dT%H:%M:%SZ},{celsius}\n".encode())

    def _listen(self) -> None:
        log = structlog.get_logger()
        said = ""
        while not self._closed.is_set():
            try:
                with serial.serial_for_url(self._url, baudrate=self._baud, timeout=1) as line:
                    said = ""
                    self._follow(line)
            except (serial.SerialException, OSError, ValueError) as error:
                if str(error) != said and not self._closed.is_set():
                    said = str(error)  # once, and not every five seconds of a night
                    log.warning("logger line", url=self._url, problem=said)
            self._closed.wait(AGAIN_S)

    def _follow(self, line: serial.SerialBase) -> None:
        rest, begun = b"", False  # of the first line the beginning may be lost
        while not self._closed.is_set():
            rest += line.read(line.in_waiting or 1)
            *whole, rest = rest.split(b"\n")
            for text in whole[0 if begun else 1 :]:
                self.hear(text.decode("utf-8", "replace"))
            begun = begun or bool(whole)
            rest = rest[-MAX_LINE_LENGTH:]

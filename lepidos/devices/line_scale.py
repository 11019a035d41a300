"""A scale on a serial port or a TCP socket, by the line protocol of docs/scale-line.md.

One JSON object a line. From the scale: {"gross": 912.4, "unit": "g"} or {"fault": "overload"}. To
the scale: {"do": "zero"}. Tare, steadiness and loads are worked out here, as for every scale.
"""

import json
import threading
import time
from collections.abc import Callable

import serial
import structlog

from lepidos.core.units import LB_KG
from lepidos.devices.indicator import (
    CAPACITY_KG,
    DeviceError,
    Indicator,
    Reading,
    ScaleOffline,
)

UNITS_KG = {"kg": 1.0, "g": 1e-3, "lb": LB_KG, "oz": LB_KG / 16}
SILENT_S = 2.0  # without a line for so long the scale counts as gone
AGAIN_S = 1.0
LONGEST_LINE = 200
MOST_BAD = 20  # lines in a row that nobody understands


class LineScale:
    """A scale on a line; a thread of its own listens. Close it with `close`.

    Args:
        url: "/dev/ttyUSB0", "socket://host:port" or what else pyserial opens.
        baud: Of a serial port.
    """

    def __init__(
        self, url: str, baud: int = 9600, clock: Callable[[], float] = time.monotonic
    ) -> None:
        self._url, self._baud, self._clock = url, baud, clock
        self._indicator = Indicator(f"{time.time_ns():x}"[-8:])
        self._heard = float("-inf")
        self._bad = 0
        self._fault = ""
        self._line: serial.SerialBase | None = None
        self._closed = threading.Event()
        threading.Thread(target=self._listen, daemon=True, name="scale line").start()

    @property
    def url(self) -> str:
        """Where it listens."""
        return self._url

    def read(self) -> Reading:
        """See `Scale.read`."""
        self._check()
        return self._indicator.reading()

    def settled(self) -> Reading:
        """See `Scale.settled`."""
        self._check()
        return self._indicator.settled()

    def tare(self) -> None:
        """See `Scale.tare`."""
        self._check()
        self._indicator.tare()

    def zero(self) -> None:
        """See `Scale.zero`. The scale is told too, for its own display."""
        self._check()
        self._indicator.zero()
        line = self._line
        if line is not None:
            try:
                line.write(b'{"do":"zero"}\n')
            except (serial.SerialException, OSError) as error:
                raise ScaleOffline("The scale's line broke while it was set to zero.") from error

    def close(self) -> None:
        """Stop listening; the thread hangs up by itself within a second."""
        self._closed.set()

    def _check(self) -> None:
        if self._bad >= MOST_BAD:
            raise DeviceError("The scale's line speaks another language than docs/scale-line.md.")
        if self._clock() - self._heard > SILENT_S:
            self._indicator.forget()
            raise ScaleOffline(
                "The scale does not answer. Is its cable in? You can type the weight."
            )
        if self._fault:
            raise DeviceError(f"The scale reports: {self._fault}.")

    def _listen(self) -> None:
        log = structlog.get_logger()
        while not self._closed.is_set():
            try:
                with serial.serial_for_url(self._url, baudrate=self._baud, timeout=1) as line:
                    self._line = line
                    self._follow(line)
            except (serial.SerialException, OSError, ValueError) as error:
                if not self._closed.is_set():
                    log.warning("scale line", url=self._url, problem=str(error))
            self._line = None
            self._closed.wait(AGAIN_S)

    def _follow(self, line: serial.SerialBase) -> None:
        rest, quiet_from = b"", time.monotonic()
        while not self._closed.is_set():
            # whatever is there at once, else wait for one byte: a whole line would wait for its end
            came = line.read(line.in_waiting or 1)
            if came:
                quiet_from = time.monotonic()
            elif time.monotonic() - quiet_from > 2 * SILENT_S:
                return  # a socket may die without a word: open it anew
            rest += came
            *whole, rest = rest.split(b"\n")
            for text in whole:
                self.hear(text)
            if len(rest) > LONGEST_LINE:
                self._bad, rest = self._bad + 1, b""

    def hear(self, text: bytes) -> None:
        """One line from the scale; what is no line of the protocol is counted and left."""
        now = self._clock()
        try:
            said = json.loads(text[:LONGEST_LINE])
            if "fault" in said:
                fault = str(said["fault"])[:40]
                self._fault = "" if fault == "overload" else fault
                kg = CAPACITY_KG * 2 if fault == "overload" else None
            else:
                kg = float(said["gross"]) * UNITS_KG[said.get("unit", "kg")]
                self._fault = ""
        except (ValueError, TypeError, KeyError, AttributeError):
            if text.strip():
                self._bad += 1
            return
        if kg is not None and not -CAPACITY_KG * 3 < kg < CAPACITY_KG * 3:
            self._bad += 1
            return
        self._bad, self._heard = 0, now
        if kg is not None:
            self._indicator.feed(now, kg)

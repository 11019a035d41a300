"""A scale on a serial port or a TCP socket, by the line protocol of docs/scale-line.md."""

import threading
import time
from collections.abc import Callable

import serial
import structlog

from lepidos.devices.heard_scale import MAX_BAD, MAX_LINE_LENGTH, SILENT_S, HeardScale
from lepidos.devices.indicator import ScaleOffline

__all__ = ["MAX_BAD", "MAX_LINE_LENGTH", "SILENT_S", "LineScale"]

AGAIN_S = 1.0


class LineScale(HeardScale):
    """A scale on a line; a thread of its own listens. Close it with `close`.

    Args:
        url: "/dev/ttyUSB0", "socket://host:port" or what else pyserial opens.
        baud: Of a serial port.
    """

    def __init__(
        self, url: str, baud: int = 9600, clock: Callable[[], float] = time.monotonic
    ) -> None:
        super().__init__(clock)
        self._url, self._baud = url, baud
        self._line: serial.SerialBase | None = None
        self._closed = threading.Event()
        threading.Thread(target=self._listen, daemon=True, name="scale line").start()

    @property
    def url(self) -> str:
        """Where it listens."""
        return self._url

    def _tell(self, line: bytes) -> None:
        port = self._line
        if port is not None:
            try:
                port.write(line)
            except (serial.SerialException, OSError) as error:
                raise ScaleOffline("The scale's line broke while it was set to zero.") from error

    def close(self) -> None:
        """Stop listening; the thread hangs up by itself within a second."""
        self._closed.set()

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
                return  # a socket may die without a word: open it again
            rest += came
            *whole, rest = rest.split(b"\n")
            for text in whole:
                self.hear(text)
            if len(rest) > MAX_LINE_LENGTH:
                self._bad, rest = self._bad + 1, b""

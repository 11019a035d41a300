"""The label printer: its port, and a stand-in that collects what was printed."""

import threading
from collections import deque
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from lepidos.devices.scale import DeviceError

KEPT = 200


class PrinterOffline(DeviceError):
    """Nothing answers on the printer's line."""


@dataclass(frozen=True)
class PrintJob:
    """A whole document, ready before its first byte is sent."""

    name: str
    pdf: bytes
    at: datetime


class LabelPrinter(Protocol):
    """A printer that takes PDF labels."""

    def check(self) -> None:
        """Whether it would print now. Raises PrinterOffline."""

    def print(self, job: PrintJob) -> None:
        """Print the job, whole. Raises PrinterOffline."""


class SimulatedPrinter:
    """Keeps the latest jobs in a tray, newest first, instead of printing them."""

    def __init__(self) -> None:
        self._tray: deque[PrintJob] = deque(maxlen=KEPT)
        self._lock = threading.Lock()
        self.online = True

    def check(self) -> None:
        """See `LabelPrinter.check`."""
        if not self.online:
            raise PrinterOffline(
                "The label printer does not answer. Print again from the bag's page."
            )

    def print(self, job: PrintJob) -> None:
        """See `LabelPrinter.print`."""
        self.check()
        with self._lock:
            self._tray.appendleft(job)

    def tray(self) -> tuple[PrintJob, ...]:
        """What has come out, newest first."""
        with self._lock:
            return tuple(self._tray)

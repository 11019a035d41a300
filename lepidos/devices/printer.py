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
        """Whether it would print now. Raises PrinterOffline, OutOfPaper, Jammed."""

    def print(self, job: PrintJob) -> None:
        """Print the job, whole. Raises as `check`."""


class OutOfPaper(PrinterOffline):
    """The roll is at its end."""


class Jammed(PrinterOffline):
    """A label is stuck."""


AGAIN = "Print again from the bag's page."
SAYS: dict[str, PrinterOffline] = {
    "off": PrinterOffline(f"The label printer does not answer. {AGAIN}"),
    "paper": OutOfPaper(f"The label printer is out of labels. Put a roll in. {AGAIN}"),
    "jam": Jammed(f"A label is stuck in the printer. Open it and pull it out. {AGAIN}"),
}


class SimulatedPrinter:
    """Keeps the latest jobs in a tray, newest first, instead of printing them.

    `trouble` is one of `SAYS`, or "" while it prints. `labels` are left on the roll; None: plenty.
    """

    def __init__(self) -> None:
        self._tray: deque[PrintJob] = deque(maxlen=KEPT)
        self._lock = threading.Lock()
        self.trouble = ""
        self.labels: int | None = None

    @property
    def online(self) -> bool:
        """Whether it answers at all."""
        return self.trouble != "off"

    @online.setter
    def online(self, on: bool) -> None:
        self.trouble = "" if on else "off"

    def check(self) -> None:
        """See `LabelPrinter.check`."""
        if self.labels == 0 and not self.trouble:
            raise SAYS["paper"]
        if self.trouble:
            raise SAYS[self.trouble]

    def print(self, job: PrintJob) -> None:
        """See `LabelPrinter.print`."""
        with self._lock:
            self.check()
            if self.labels is not None:
                self.labels -= 1
            self._tray.appendleft(job)

    def tray(self) -> tuple[PrintJob, ...]:
        """What has come out, newest first."""
        with self._lock:
            return tuple(self._tray)

"""A scale that is heard of line by line, by the protocol of docs/scale-line.md.

One JSON object a line. From the scale: {"gross": 912.4, "unit": "g"} or {"fault": "overload"}. To
the scale: {"do": "zero"}. Tare, steadiness and loads are calculated here, as for every scale.
"""

import json
import time
from collections.abc import Callable

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
MAX_LINE_LENGTH = 200
MAX_BAD = 20  # lines in a row that nobody understands
ZERO_LINE = b'{"do":"zero"}\n'


class HeardScale:
    """What is known of a scale from its lines. Whoever listens passes them on to `hear`."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._indicator = Indicator(f"{time.time_ns():x}"[-8:])
        self._heard = float("-inf")
        self._bad = 0
        self._fault = ""

    @property
    def silent_s(self) -> float:
        """How long nothing was heard [s]."""
        return self._clock() - self._heard

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
        self._tell(ZERO_LINE)

    def _tell(self, line: bytes) -> None:
        """Send a line to the scale, when there is a way to. Raises ScaleOffline."""

    def _check(self) -> None:
        if self._bad >= MAX_BAD:
            raise DeviceError("The scale's line speaks another language than docs/scale-line.md.")
        if self.silent_s > SILENT_S:
            self._indicator.forget()
            raise ScaleOffline(
                "The scale does not answer. Is its cable in? You can type the weight."
            )
        if self._fault:
            raise DeviceError(f"The scale reports: {self._fault}.")

    def hear(self, text: bytes) -> None:
        """One line from the scale; what is no line of the protocol is counted and left."""
        now = self._clock()
        try:
            said = json.loads(text[:MAX_LINE_LENGTH])
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

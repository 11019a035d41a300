"""The freezer's temperature logger: a port, and a stand-in that ships with the app."""

from collections.abc import Callable
from dataclasses import dataclass
from random import Random
from typing import Protocol

import numpy as np
from scipy.signal import lfilter

from lepidos.core.errors import require
from lepidos.core.freezer.temperature_log import MINUTE_S, Readings
from lepidos.devices.indicator import DeviceError

MEMORY_MINUTES = 60 * 24 * 60  # it remembers 60 days
LAG_MINUTES = 12.0  # of the air behind what it goes to
DEFROST_EVERY, DEFROST_FOR = 12 * 60, 20  # minutes
DEFROST_C, DOOR_C, ROOM_C = -8.0, -2.0, 18.0
SWING_C, SWING_MINUTES = 1.2, 45.0


class FreezerLogger(Protocol):
    """A sensor in a freezer that remembers what it read."""

    def since(self, at_s: int) -> Readings:
        """What it read after then, seconds since 1970. Raises DeviceError when it is silent."""


@dataclass(frozen=True)
class _Event:
    start: int
    end: int
    celsius: float
    lag: float


class SimulatedLogger:
    """The stand-in: a compressor's swing, a defrost every twelve hours, noise, and what its panel
    did to it. One reading per minute, the same whenever it is asked.
    """

    def __init__(self, clock: Callable[[], float], rng: Random) -> None:
        self._clock = clock
        self._seed = rng.getrandbits(32)
        self.celsius = -21.0
        self.plugged = False
        self.defrosts = True
        self._events: list[_Event] = []

    def set_to(self, celsius: float) -> None:
        """The temperature that the freezer is set to, −60 to 10 °C. Raises OutOfRange."""
        self.celsius = require("setting", celsius, -60, 10, "°C")
        self.plugged = True

    def unplug(self) -> None:
        """Take its battery out."""
        self.plugged = False

    def door(self, minutes: int = 10, ago_h: float = 0) -> None:
        """The door stood open for 1 to 600 minutes, until so many hours ago. Raises OutOfRange."""
        self._add(int(require("minutes", minutes, 1, 600, "min")), ago_h, DOOR_C, LAG_MINUTES)

    def power_cut(self, hours: float = 8, ago_h: float = 0) -> None:
        """The power was away for 0.1 to 240 hours, until so many hours ago. Raises OutOfRange."""
        minutes = round(require("hours", hours, 0.1, 240, "h") * 60)
        self._add(minutes, ago_h, ROOM_C, 60 * 24)

    def _add(self, minutes: int, ago_h: float, celsius: float, lag: float) -> None:
        end = int(self._clock()) // MINUTE_S - round(ago_h * 60)
        self._events.append(_Event(end - minutes, end, celsius, lag))

    def since(self, at_s: int) -> Readings:
        if not self.plugged:
            raise DeviceError("The freezer's logger does not answer. Is its battery in?")
        now = int(self._clock()) // MINUTE_S
        first = max(at_s // MINUTE_S + 1, now - MEMORY_MINUTES)
        if first > now:
            return Readings(np.zeros(0, np.int64), np.zeros(0))
        minutes = np.arange(first - 24 * 60, now + 1)  # a day before, for what still follows
        goal = self.celsius + SWING_C * np.sin(2 * np.pi * minutes / SWING_MINUTES)
        if self.defrosts:
            goal[minutes % DEFROST_EVERY < DEFROST_FOR] = DEFROST_C
        for event in self._events:
            during = (minutes >= event.start) & (minutes < event.end)
            gone = minutes[during] - event.start
            slow = 1 - np.exp(-gone / event.lag)
            goal[during] = self.celsius + (event.celsius - self.celsius) * slow
        keep = float(np.exp(-1 / LAG_MINUTES))
        air, _ = lfilter([1 - keep], [1, -keep], goal, zi=[keep * goal[0]])
        noise = np.sin(minutes * 12.9898 + self._seed % 1000) * 0.1
        shown = np.round(air + noise, 1)[minutes >= first]
        return Readings(minutes[minutes >= first].astype(np.int64) * MINUTE_S, shown)

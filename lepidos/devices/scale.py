"""The bench scale: its port, and a stand-in that behaves like one."""

import math
import threading
from collections.abc import Callable
from random import Random
from typing import Protocol

from lepidos.core.errors import require
from lepidos.devices.indicator import (
    CAPACITY_KG,
    STEP_KG,
    DeviceError,
    Indicator,
    Reading,
    ScaleLoaded,
    ScaleOffline,
    ScaleOverload,
    ScaleUnsettled,
)

__all__ = [
    "CAPACITY_KG", "STEP_KG", "DeviceError", "Reading", "Scale", "ScaleLoaded", "ScaleOffline",
    "ScaleOverload", "ScaleUnsettled", "SimulatedScale",
]  # fmt: skip

PER_SECOND = 20
CAT_KG = 3.8


class Scale(Protocol):
    """A bench scale."""

    def read(self) -> Reading:
        """What the display shows now. Raises ScaleOffline, ScaleOverload."""

    def settled(self) -> Reading:
        """A steady reading. Raises ScaleOffline, ScaleUnsettled, ScaleOverload."""

    def tare(self) -> None:
        """Call what lies on the pan now nothing. Raises like `settled`."""

    def zero(self) -> None:
        """Take drift off an empty pan. Raises ScaleLoaded, and like `settled`."""


class SimulatedScale:
    """A pan that settles like a real one: an oscillation that dies out, noise, and slow drift.

    Twenty readings per second, made when asked for. Drive it with `put_on`, `cat`, `drift`,
    `unplug` and `plug_in`; the app ships a panel for that.
    """

    DECAY = 8.0  # of the oscillation [1/s]
    NOISE_KG = STEP_KG * 0.25

    def __init__(self, clock: Callable[[], float], rng: Random) -> None:
        self._clock = clock
        self._rng = rng
        self._lock = threading.Lock()
        self._indicator = Indicator(f"{rng.getrandbits(24):06x}")
        self._before = self._load = 0.0
        self._changed = self._read_at = -math.inf
        self._drift, self._drift_from, self._crept_kg = 0.0, 0.0, 0.0
        self._cat = False
        self._plugged = True

    def put_on(self, kg: float) -> None:
        """Lay this gross mass on the pan in place of what was there. 0 to 60 kg."""
        require("load", kg, 0, 60, "kg")
        with self._lock:
            now = self._catch_up()
            self._before, self._load, self._changed = self._load, kg, now

    def rest(self) -> None:
        """Let a while pass at once: what lies there has settled (for scripts and tests)."""
        with self._lock:
            self._changed = self._clock() - 60
            self._indicator.forget()
            self._read_at = -math.inf
            self._catch_up()

    def cat(self, there: bool) -> None:
        """A cat on the pan: heavy, and never still."""
        with self._lock:
            self._catch_up()
            self._cat = there

    @property
    def has_cat(self) -> bool:
        """Whether the cat is there."""
        return self._cat

    def drift(self, grams_per_minute: float) -> None:
        """From now on the empty pan creeps. −20 to 20 g per minute."""
        require("drift", grams_per_minute, -20, 20, "g/min")
        with self._lock:
            now = self._clock()
            self._crept_kg = self._crept(now)  # what has crept stays
            self._drift, self._drift_from = grams_per_minute / 60_000, now

    @property
    def drifting(self) -> float:
        """Grams a minute."""
        return self._drift * 60_000

    def unplug(self) -> None:
        """Pull the cable."""
        with self._lock:
            self._plugged = False
            self._indicator.forget()

    def plug_in(self) -> None:
        """Put the cable back."""
        with self._lock:
            self._plugged = True
            self._read_at = -math.inf

    @property
    def plugged(self) -> bool:
        """Whether the cable is in."""
        return self._plugged

    @property
    def load_kg(self) -> float:
        """Gross mass on the pan [kg]; the panel's own knowledge, no scale could tell."""
        return self._load

    def gross(self) -> float:
        """One raw reading now [kg], as the line of a real scale would carry it."""
        with self._lock:
            return self._gross(self._clock())

    def read(self) -> Reading:
        """See `Scale.read`."""
        with self._lock:
            self._catch_up()
            return self._indicator.reading()

    def settled(self) -> Reading:
        """See `Scale.settled`."""
        with self._lock:
            self._catch_up()
            return self._indicator.settled()

    def tare(self) -> None:
        """See `Scale.tare`."""
        with self._lock:
            self._catch_up()
            self._indicator.tare()

    def zero(self) -> None:
        """See `Scale.zero`."""
        with self._lock:
            self._catch_up()
            self._indicator.zero()

    def _catch_up(self) -> float:
        """Make the readings that a real scale would have sent since the last look; the time."""
        now = self._clock()
        if not self._plugged:
            return now
        self._read_at = max(self._read_at, now - 2.0)
        while self._read_at + 1 / PER_SECOND <= now:
            self._read_at += 1 / PER_SECOND
            self._indicator.feed(self._read_at, self._gross(self._read_at))
        return now

    def _gross(self, at: float) -> float:
        since = at - self._changed
        load = self._load
        if since < 0:
            load = self._before
        elif since < 5:
            step = self._load - self._before
            load -= step * math.exp(-self.DECAY * since) * math.cos(14 * since)
        if self._cat:
            load += CAT_KG + 0.15 * math.sin(5.3 * at) + 0.08 * math.sin(13.1 * at)
        return load + self._crept(at) + self._rng.gauss(0, self.NOISE_KG)

    def _crept(self, at: float) -> float:
        return self._crept_kg + self._drift * (at - self._drift_from)

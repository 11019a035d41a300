"""The bench scale: its port, and a stand-in that behaves like one."""

import math
import threading
from collections.abc import Callable
from dataclasses import dataclass
from random import Random
from typing import Protocol

from lepidos.core.errors import LepidosError, require

CAPACITY_KG = 30.0
STEP_KG = 0.001


class DeviceError(LepidosError):
    """A device did not do what it was asked; the sentence says what to look at."""


class ScaleOffline(DeviceError):
    """Nothing answers on the scale's line."""


class ScaleUnsettled(DeviceError):
    """There is a load, and it is still moving."""


class ScaleOverload(DeviceError):
    """More than the scale can weigh."""


@dataclass(frozen=True)
class Reading:
    """What the display shows: net mass [kg], whether it is steady, and the tare taken off [kg]."""

    kg: float
    steady: bool
    tare_kg: float


class Scale(Protocol):
    """A bench scale."""

    def read(self) -> Reading:
        """What the display shows now. Raises ScaleOffline, ScaleOverload."""

    def settled_kg(self) -> float:
        """One settled net mass [kg]. Raises ScaleOffline, ScaleUnsettled, ScaleOverload."""

    def tare(self) -> None:
        """Call what lies on the pan now nothing. Raises like `settled_kg`."""


class SimulatedScale:
    """A pan that settles like a real one: an oscillation that dies out, then a little noise.

    Drive it with `put_on`, `unplug` and `plug_in`; the app ships a panel for that.
    """

    SETTLE_S = 0.9

    def __init__(self, clock: Callable[[], float], rng: Random) -> None:
        self._clock = clock
        self._rng = rng
        self._lock = threading.Lock()
        self._before = self._load = self._tare = 0.0
        self._changed = -math.inf
        self._plugged = True

    def put_on(self, kg: float) -> None:
        """Lay this gross mass on the pan in place of what was there. 0 to 60 kg."""
        require("load", kg, 0, 60, "kg")
        with self._lock:
            self._before, self._load, self._changed = self._load, kg, self._clock()

    def unplug(self) -> None:
        """Pull the cable."""
        self._plugged = False

    def plug_in(self) -> None:
        """Put the cable back."""
        self._plugged = True

    @property
    def plugged(self) -> bool:
        """Whether the cable is in."""
        return self._plugged

    @property
    def load_kg(self) -> float:
        """Gross mass on the pan [kg]; the panel's own knowledge, no scale could tell."""
        return self._load

    def read(self) -> Reading:
        """See `Scale.read`."""
        with self._lock:
            if not self._plugged:
                raise ScaleOffline(
                    "The scale does not answer. Is its cable in? You can type the weight."
                )
            if self._load > CAPACITY_KG:
                raise ScaleOverload(
                    f"More than {CAPACITY_KG:g} kg on the scale. Take something off."
                )
            since = self._clock() - self._changed
            steady = since >= self.SETTLE_S
            swing = 0.0
            if not steady:
                step = self._load - self._before
                swing = -step * math.exp(-5 * since) * math.cos(14 * since)
            noise = self._rng.gauss(0, STEP_KG * 0.2)
            net = self._load + swing + noise - self._tare
            return Reading(round(net / STEP_KG) * STEP_KG, steady, self._tare)

    def settled_kg(self) -> float:
        """See `Scale.settled_kg`."""
        reading = self.read()
        if not reading.steady:
            raise ScaleUnsettled("The scale is still moving. Wait for “steady”, then take it.")
        return reading.kg

    def tare(self) -> None:
        """See `Scale.tare`."""
        self.settled_kg()
        with self._lock:
            self._tare = self._load

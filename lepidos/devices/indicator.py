"""What turns a stream of gross readings into a display: steady or moving, tare, zero, overload.

Every scale here has one, the stand-in and one on a line alike. Two counters tell loads apart, so
that one load is not taken twice: `loads` counts each new steady mass, `clears` each time that the
display came back to nothing.
"""

import threading
from collections import deque
from dataclasses import dataclass
from statistics import median

from lepidos.core.errors import LepidosError

CAPACITY_KG = 30.0
STEP_KG = 0.001
WINDOW_S = 0.4  # how long readings must agree ...
SPREAD_KG = 0.002  # ... within this, to be steady (practice: two steps of the display)
# What is steady stays steady until its readings spread by more than this (common practice, no
# source): a touch that takes a weight follows the lamp, which must not flicker in between.
SPREAD_KEPT_KG = 0.003
MIN_READINGS = 4
NEW_LOAD_KG = 0.003  # a steady mass that differs by more is another load
ZERO_RANGE = 0.02  # of the capacity: zero takes off drift, not fish (OIML R 76 allows 4 % in all)


class DeviceError(LepidosError):
    """A device did not do what it was asked; the sentence says what to look at."""


class ScaleOffline(DeviceError):
    """Nothing answers on the scale's line."""


class ScaleUnsettled(DeviceError):
    """There is a load, and it is still moving."""


class ScaleOverload(DeviceError):
    """More than the scale can weigh."""


class ScaleLoaded(DeviceError):
    """Zero was asked for with something on the pan."""


@dataclass(frozen=True)
class Reading:
    """What the display shows: net mass [kg], whether it is steady, the tare taken off [kg].

    `mark` stands for this load on this scale since it was switched on; its part before the last
    dot stays the same until the display has come back to nothing.
    """

    kg: float
    steady: bool
    tare_kg: float
    mark: str = ""

    @property
    def stretch(self) -> str:
        """Stands for the time since the display was last at nothing."""
        return self.mark.rpartition(".")[0]


class Indicator:
    """One display. Feed it gross readings in the order of their times; safe from any thread."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._lock = threading.Lock()
        self._recent: deque[tuple[float, float]] = deque(maxlen=64)
        self._tare = self._zero = 0.0
        self._settled: float | None = None
        self._loads = self._clears = 0
        self._empty = False
        self._steady: float | None = None  # the mass that recent readings agree on

    def feed(self, at: float, gross_kg: float) -> None:
        """A gross reading [kg] at a time [s]."""
        with self._lock:
            self._recent.append((at, gross_kg))
            while self._recent and self._recent[0][0] < at - WINDOW_S:
                self._recent.popleft()
            self._steady = steady = self._agreed()
            if steady is None:
                return
            if self._settled is None or abs(steady - self._settled) > NEW_LOAD_KG:
                self._loads += 1
            self._settled = steady
            empty = abs(steady - self._zero - self._tare) <= NEW_LOAD_KG
            if empty and not self._empty:
                self._clears += 1
            self._empty = empty

    def forget(self) -> None:
        """The line was lost: what came before says nothing any more."""
        with self._lock:
            self._recent.clear()
            self._steady = None

    def reading(self) -> Reading:
        """Raises ScaleOffline, ScaleOverload."""
        with self._lock:
            if not self._recent:
                raise ScaleOffline(
                    "The scale does not answer. Is its cable in? You can type the weight."
                )
            gross = self._gross()
            if gross > CAPACITY_KG:
                raise ScaleOverload(
                    f"More than {CAPACITY_KG:g} kg on the scale. Take something off."
                )
            net = gross - self._zero - self._tare
            kg = round(net / STEP_KG) * STEP_KG
            mark = f"{self._name}.{self._clears}.{self._loads}"
            return Reading(kg, self._steady is not None, self._tare, mark)

    def settled(self) -> Reading:
        """A steady reading. Raises ScaleUnsettled, ScaleOffline, ScaleOverload."""
        found = self.reading()
        if not found.steady:
            raise ScaleUnsettled("The scale is still moving. Wait for “steady”, then take it.")
        return found

    def tare(self) -> None:
        """Call what lies there nothing. Raises like `settled`."""
        self.settled()
        with self._lock:
            self._tare = self._gross() - self._zero
            self._empty = True
            self._clears += 1

    def zero(self) -> None:
        """Take drift off an empty pan, and any tare with it. Raises ScaleLoaded, and as `settled`.

        Only within 2 % of the capacity: more than that is a load, and asks for tare.
        """
        self.settled()
        with self._lock:
            gross = self._gross()
            if abs(gross) > ZERO_RANGE * CAPACITY_KG:
                raise ScaleLoaded("Something lies on the pan: take it off, or use tare.")
            self._zero, self._tare = gross, 0.0
            self._empty = True
            self._clears += 1

    def _gross(self) -> float:
        return self._steady if self._steady is not None else self._recent[-1][1]

    def _agreed(self) -> float | None:
        if len(self._recent) < MIN_READINGS:
            return None
        times = [at for at, _ in self._recent]
        masses = [kg for _, kg in self._recent]
        allowed = SPREAD_KG if self._steady is None else SPREAD_KEPT_KG
        if times[-1] - times[0] < WINDOW_S * 0.7 or max(masses) - min(masses) > allowed:
            return None
        return median(masses)

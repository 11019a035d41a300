"""Readings of a core probe taken into the modelled cooling of a fish.

What is not known of a fish's cooling is how well its medium takes the heat, and how warm it was
when it came aboard. Conduction is linear in the starting temperature, so given the heat transfer
that part is exact (normal prior, normal readings); heat transfer runs over a small grid. The
answer is the mixture: Gelman et al., *Bayesian Data Analysis*, normal linear model (memory).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from lepidos.core.cold.conduction import Floats
from lepidos.core.cold.cooling_body import CoolingBody
from lepidos.core.cold.thermal_history import Stay, history
from lepidos.core.errors import OutOfRange, require

READING_SD_K = 0.5  # probe and how well it found the core (memory)
START_SD_K = 1.5  # the fish against the sea it was caught from (memory)
TRANSFER_SD = 0.6  # of the place within a medium's range, −1 to 1 (memory)
GRID = np.linspace(-1.5, 1.5, 9)
COLDEST_C, WARMEST_C = -5.0, 45.0  # what a probe in a fish can read
DOUBT_SD = 3.0  # of the readings' own: about one honest reading in 400 is doubted
LEVEL_SD = 1.645  # 90 %


@dataclass(frozen=True)
class Spell:
    """A time [s] in one medium, with the range of its heat transfer coefficient [W/(m²·K)]."""

    seconds: float
    celsius: float
    h: float
    h_low: float
    h_high: float

    def stay(self, place: float, celsius: float | None = None) -> Stay:
        """At a place in the range: −1 its low end, 0 the middle, 1 its high end."""
        ratio = self.h_high / self.h if place > 0 else self.h / self.h_low
        return Stay(
            self.seconds, self.celsius if celsius is None else celsius, self.h * ratio**place
        )


@dataclass(frozen=True)
class Reading:
    """What the probe showed [°C], seconds after landing."""

    seconds: float
    celsius: float


@dataclass(frozen=True)
class Assimilated:
    """Times [s], core temperature with its 90 % interval [°C], and whether to doubt a reading.

    `mean` is that of the thickest section, as it goes with the core.
    `doubtful` are the readings that lie further off than the model and the probe explain.
    """

    seconds: tuple[float, ...]
    celsius: tuple[float, ...]
    low: tuple[float, ...]
    high: tuple[float, ...]
    mean: tuple[float, ...]
    doubtful: tuple[Reading, ...]


def check_reading(celsius: float) -> float:
    """The reading itself. Raises OutOfRange for what cannot be inside a fish, such as 85 °C."""
    return require("probe reading", celsius, COLDEST_C, WARMEST_C, "°C")


def assimilate(
    body: CoolingBody,
    start_c: float,
    spells: Sequence[Spell],
    readings: Sequence[Reading],
    every_s: float = 300.0,
) -> Assimilated:
    """The cooling of a fish with its probe readings taken in.

    Without readings this is the model's own curve, with the interval that its range of heat
    transfer and start leaves. A reading narrows the interval and pulls the curve, most near itself.

    Args:
        spells: At least one. readings: within the spells' time; −5 to 45 °C each.
    Raises: OutOfRange.
    """
    total = sum(s.seconds for s in spells)
    for reading in readings:
        check_reading(reading.celsius)
        if not 0 <= reading.seconds <= total + 1:
            raise OutOfRange("time of the reading", reading.seconds, 0, total, "s")
    at = np.array([r.seconds for r in readings])
    seen = np.array([r.celsius for r in readings])
    log_weights, means, wholes, variances, residuals = [], [], [], [], []
    times: Floats = np.zeros(1)
    for place in GRID:
        times, base, base_mean = history(body, start_c, [s.stay(place) for s in spells], every_s)
        _, unit, unit_mean = history(body, 1.0, [s.stay(place, 0.0) for s in spells], every_s)
        weight = -0.5 * (place / TRANSFER_SD) ** 2
        shift, spread = 0.0, START_SD_K**2
        if len(readings):
            phi = np.interp(at, times, unit)
            off = seen - np.interp(at, times, base)
            precision = 1 / START_SD_K**2 + phi @ phi / READING_SD_K**2
            shift, spread = float(phi @ off / READING_SD_K**2 / precision), float(1 / precision)
            # log density of the readings with the start's shift integrated out
            weight -= 0.5 * float(off @ off / READING_SD_K**2 - shift**2 * precision)
            weight -= 0.5 * float(np.log(precision))
            residuals.append(off - shift * phi)
        log_weights.append(weight)
        means.append(base + shift * unit)
        wholes.append(base_mean + shift * unit_mean)
        variances.append(spread * unit**2)
    weights = np.exp(np.array(log_weights) - max(log_weights))
    weights /= weights.sum()
    mean = weights @ np.array(means)
    variance = weights @ (np.array(variances) + np.array(means) ** 2) - mean**2
    sd = np.sqrt(np.clip(variance, 0, None))
    left = np.abs(weights @ np.array(residuals)) if len(readings) else ()
    doubtful = tuple(r for r, x in zip(readings, left, strict=True) if x > DOUBT_SD * READING_SD_K)
    return Assimilated(
        tuple(times.tolist()),
        tuple(mean.tolist()),
        tuple((mean - LEVEL_SD * sd).tolist()),
        tuple((mean + LEVEL_SD * sd).tolist()),
        tuple((weights @ np.array(wholes)).tolist()),
        doubtful,
    )

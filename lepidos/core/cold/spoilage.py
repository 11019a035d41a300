"""What warm time costs: ice-days used, and the clock of histamine."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lepidos.core.errors import OutOfRange, require
from lepidos.core.units import DAY_S, HOUR_S

Climate = Literal["temperate", "tropical"]
Floats = NDArray[np.float64]


def spoilage_rate(celsius: float, climate: Climate = "temperate") -> float:
    """How many times faster than on ice at 0 °C a fish spoils.

    Temperate (1 + 0.1·T)², held at 0 below −10 °C, where the square would turn up again; tropical
    exp(0.12·T). Olley & Ratkowsky; Dalgaard; FAO Fisheries Technical Paper 348 (memory).

    Args: −60 to 60 °C. Raises: OutOfRange.
    Example: at 10 °C a day is worth four on ice.
        >>> spoilage_rate(10.0)
        4.0
    """
    require("temperature", celsius, -60, 60, "°C")
    if climate == "tropical":
        return math.exp(0.12 * celsius)
    return max(0.0, 1 + 0.1 * celsius) ** 2


def ice_days(
    seconds: Sequence[float], celsius: Sequence[float], climate: Climate = "temperate"
) -> float:
    """Days on ice that a temperature history was worth: ∫ rate dt.

    The temperature runs straight between its points and the rate is integrated along it in closed
    form, never held in steps.

    Args: at least 2 points, times rising, −60 to 60 °C. Raises: OutOfRange.
    """
    return running_ice_days(seconds, celsius, climate)[-1]


def running_ice_days(
    seconds: Sequence[float], celsius: Sequence[float], climate: Climate = "temperate"
) -> tuple[float, ...]:
    """`ice_days` from the start to each of the points."""
    times, temperatures = _history(seconds, celsius)
    mean = _mean_rates(temperatures[:-1], temperatures[1:], climate)
    return (0.0, *(np.cumsum(mean * np.diff(times)) / DAY_S).tolist())


@dataclass(frozen=True)
class HistamineClock:
    """Hours used of hours allowed, for the landing and for the time above 4.4 °C after it.

    `hours_to_chill`: until it was chilled, or so far where it is not `chilled` yet.
    """

    hours_to_chill: float
    hours_above: float
    allowed_above: float
    past_21: bool
    chilled: bool

    @property
    def left(self) -> float:
        """Hours left above 4.4 °C; negative when over."""
        return self.allowed_above - self.hours_above


def hours_until_chilled_by(warmest_c: float, gutted: bool = False) -> float:
    """Hours from death within which a histamine fish should be in ice or colder.

    6 h when air or water was above 28.3 °C, 9 h below that, 12 h when it was also gutted. Local
    guidance decides.

    Args: warmest_c −5 to 50 °C.
    Raises: OutOfRange.
    Source: FDA *Fish and Fishery Products Hazards and Controls Guidance*, chapter 7 (memory).
    """
    require("warmest air or water", warmest_c, -5, 50, "°C")
    if warmest_c > 28.3:
        return 6.0
    return 12.0 if gutted else 9.0


def histamine_clock(
    seconds: Sequence[float], celsius: Sequence[float], limit_c: float = 4.4, warm_c: float = 21.0
) -> HistamineClock:
    """Time above 4.4 °C after chilling: 4 h in all when any of it was above 21 °C, else 8 h.

    FDA guidance, chapter 7 (memory). Crossing times come from straight lines between the points.
    """
    times, temperatures = _history(seconds, celsius)
    above = float(np.sum(_times_above(times, temperatures, limit_c)))
    chilled = np.nonzero(temperatures <= limit_c)[0]
    to_chill = float(times[chilled[0]] - times[0]) if len(chilled) else float(times[-1] - times[0])
    past = bool((temperatures > warm_c).any())
    allowed = 4.0 if past else 8.0
    return HistamineClock(to_chill / HOUR_S, above / HOUR_S, allowed, past, len(chilled) > 0)


def running_hours_above(
    seconds: Sequence[float], celsius: Sequence[float], limit_c: float = 4.4
) -> tuple[float, ...]:
    """Hours above a temperature from the start to each of the points."""
    times, temperatures = _history(seconds, celsius)
    return (0.0, *(np.cumsum(_times_above(times, temperatures, limit_c)) / HOUR_S).tolist())


def _mean_rates(before: Floats, after: Floats, climate: Climate) -> Floats:
    """Mean rate along straight lines of temperature."""
    if climate == "tropical":
        half = 0.06 * (after - before)
        # sinh(x)/x, which is 1 at 0
        spread = np.sinh(half) / np.where(half == 0, 1.0, half)
        return np.asarray(np.exp(0.06 * (before + after)) * np.where(half == 0, 1.0, spread))
    u, v = 1 + 0.1 * before, 1 + 0.1 * after
    above = (u * u + u * v + v * v) / 3
    # where the line crosses the rate's end at -10 °C only its warm part counts
    crossing = np.maximum(np.maximum(u, v), 0) ** 3 / (3 * np.maximum(np.abs(v - u), 1e-12))
    return np.asarray(np.where((u >= 0) & (v >= 0), above, crossing))


def _history(seconds: Sequence[float], celsius: Sequence[float]) -> tuple[Floats, Floats]:
    require("number of points", len(seconds), 2, 1e7, "")
    if len(celsius) != len(seconds):
        raise OutOfRange("temperatures", len(celsius), len(seconds), len(seconds), "")
    times, temperatures = np.asarray(seconds, float), np.asarray(celsius, float)
    if not (np.abs(temperatures) <= 60).all():
        for value in temperatures:
            require("temperature", float(value), -60, 60, "°C")
    if not np.isfinite(times).all() or (np.diff(times) <= 0).any():
        raise OutOfRange("times", float(np.min(np.diff(times))), 0, 1e9, "s apart, rising")
    return times, temperatures


def _times_above(
    times: Floats,
    temperatures: Floats,
    limit_c: float,
) -> Floats:
    over = temperatures - limit_c
    a, b, spans = over[:-1], over[1:], np.diff(times)
    share = np.where((a > 0) & (b > 0), 1.0, 0.0)
    crossing = (a > 0) != (b > 0)
    step = np.where(b == a, 1.0, b - a)
    down = np.where(a > 0, -a / step, 1 + a / step)
    return np.asarray(np.where(crossing, down, share) * spans)

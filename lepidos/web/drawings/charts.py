"""Charts: a core's curve, and what each fish gave."""

import math
from dataclasses import dataclass
from datetime import timedelta
from zoneinfo import ZoneInfo

from lepidos.core.units import HOUR_S, System, from_c
from lepidos.core.yields.drift import Point
from lepidos.stations.cold.cold import Cold
from lepidos.stations.freezer.place_view import DayLine, FreezesHere
from lepidos.stations.yieldbook.season import OUTCOMES, SeasonRow
from lepidos.stations.yieldbook.yieldbook import BookRow
from lepidos.web.drawings.fish import loop


@dataclass(frozen=True)
class ColdChart:
    """The core's temperature from landing to now, in a picture of 720 by 190.

    `readings` are the probe's, with whether to doubt them.
    """

    line: str
    band: str
    x_marks: tuple[tuple[float, str], ...]
    y_marks: tuple[tuple[float, str], ...]
    y_unit: str
    readings: tuple[tuple[float, float, bool], ...]


def cold_chart(cold: Cold, system: System) -> ColdChart:
    """Curve, interval and axes; hours across, degrees up."""
    last = max(cold.hours[-1], 0.1)
    probed = [r.celsius for r in cold.readings]
    top = max(5.0, math.ceil(max([*cold.high_curve_c, *probed]) / 5) * 5.0)
    bottom = min(0.0, 5.0 * math.floor(min([*cold.low_curve_c, *probed]) / 5 + 0.6))

    def at(hour: float, celsius: float) -> tuple[float, float]:
        return 46 + hour / last * 660, 12 + (top - celsius) / (top - bottom) * 140

    line = [at(*p) for p in zip(cold.hours, cold.curve_c, strict=True)]
    upper = [at(*p) for p in zip(cold.hours, cold.high_curve_c, strict=True)]
    lower = [at(*p) for p in zip(cold.hours, cold.low_curve_c, strict=True)]
    step = next(s for s in (0.25, 0.5, 1, 2, 4, 8, 12, 24, 48, 96) if last / s <= 8)
    degrees = range(int(bottom), int(top) + 1, 5)
    shown = [round(from_c(d, "f")) if system == "imperial" else d for d in degrees]
    return ColdChart(
        "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in line),
        loop(upper + lower[::-1]),
        tuple((at(k * step, 0)[0], f"{k * step:g}") for k in range(int(last / step) + 1)),
        tuple((at(0, d)[1], str(text)) for d, text in zip(degrees, shown, strict=True)),
        "°F" if system == "imperial" else "°C",
        tuple((*at(r.seconds / HOUR_S, r.celsius), r in cold.doubtful) for r in cold.readings),
    )


@dataclass(frozen=True)
class YieldDot:
    """A fish's fillet yield on the chart (0 to 100), against its usual stretch."""

    code: str
    y: float
    value: float
    low: float
    high: float
    measured: bool


def yield_dots(rows: tuple[BookRow, ...]) -> tuple[YieldDot, ...]:
    """One line a finished fish that gave fillets."""
    figures = [(row, row.fillet_yield) for row in rows if row.closed and row.fillet_yield]
    return tuple(
        YieldDot(
            row.fish.code,
            26 + index * 22,
            figure.fraction * 100,
            row.expected[0] * 100,
            row.expected[1] * 100,
            figure.measured,
        )
        for index, (row, figure) in enumerate(figures)
    )


@dataclass(frozen=True)
class DayChart:
    """A freezer's last day in a picture of 720 by 190: lines between gaps, axes, and the height of
    what it is set to and of −20 °C.
    """

    lines: tuple[str, ...]
    x_marks: tuple[tuple[float, str], ...]
    y_marks: tuple[tuple[float, str], ...]
    set_y: float
    hold_y: float
    y_unit: str


def day_chart(line: DayLine, set_c: float, zone: ZoneInfo, system: System) -> DayChart:
    """Hours across, degrees up."""
    top = max(-5.0, 5.0 * math.ceil((line.high_c + 1) / 5))
    bottom = min(-25.0, 5.0 * math.floor((min(line.low_c, set_c) - 1) / 5))

    def at(minute: float, celsius: float) -> tuple[float, float]:
        return 46 + minute / 1440 * 660, 12 + (top - celsius) / (top - bottom) * 140

    parts = [[at(m, c) for m, c in part] for part in line.lines]
    until = line.until.astimezone(zone)
    marks = []
    for back in range(25):
        hour = until.replace(minute=0, second=0, microsecond=0) - timedelta(hours=back)
        minute = 1440 - (until - hour).total_seconds() / 60
        if hour.hour % 4 == 0 and minute >= 0:
            marks.append((at(minute, 0)[0], f"{hour:%H:%M}"))
    step = 5 if top - bottom <= 40 else 10
    degrees = [d for d in range(int(bottom), int(top) + 1) if d % step == 0]
    shown = [round(from_c(d, "f")) if system == "imperial" else d for d in degrees]
    return DayChart(
        tuple("M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in part) for part in parts),
        tuple(marks),
        tuple(
            (at(0, d)[1], f"{text}".replace("-", "−"))
            for d, text in zip(degrees, shown, strict=True)
        ),
        at(0, set_c)[1],
        at(0, -20.0)[1],
        "°F" if system == "imperial" else "°C",
    )


@dataclass(frozen=True)
class FreezeChart:
    """The middle of a bag while it freezes, in a picture of 720 by 190; `air_y`: of the air."""

    line: str
    x_marks: tuple[tuple[float, str], ...]
    y_marks: tuple[tuple[float, str], ...]
    air_y: float
    y_unit: str


def freeze_chart(found: FreezesHere, system: System) -> FreezeChart:
    """Hours across, degrees up."""
    curve = found.curve
    last = max(float(curve.hours[-1]), 0.1)
    top, bottom = 10.0, min(-20.0, 5.0 * math.floor((found.air_c - 1) / 5))

    def at(hour: float, celsius: float) -> tuple[float, float]:
        return 46 + hour / last * 660, 12 + (top - celsius) / (top - bottom) * 140

    points = [at(float(h), float(c)) for h, c in zip(curve.hours, curve.middle_c, strict=True)]
    step = next(s for s in (0.25, 0.5, 1, 2, 4, 8, 12, 24, 48, 96) if last / s <= 8)
    degrees = range(int(bottom), int(top) + 1, 10)
    shown = [round(from_c(d, "f")) if system == "imperial" else d for d in degrees]
    return FreezeChart(
        "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points),
        tuple((at(k * step, 0)[0], f"{k * step:g}") for k in range(int(last / step) + 1)),
        tuple((at(0, d)[1], f"{t}".replace("-", "−")) for d, t in zip(degrees, shown, strict=True)),
        at(0, max(bottom, found.air_c))[1],
        "°F" if system == "imperial" else "°C",
    )


def spark(line: DayLine) -> tuple[str, ...]:
    """A freezer's last day in a picture of 160 by 32, without axes."""
    top, bottom = max(line.high_c, -10.0), min(line.low_c, -25.0)
    parts = [[(m / 9, 2 + (top - c) / (top - bottom) * 28) for m, c in p] for p in line.lines]
    return tuple("M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in part) for part in parts)


@dataclass(frozen=True)
class ChartBlock:
    """A part of a column: top and height of 240, what it is, and its kilograms."""

    y: float
    height: float
    words: str
    kg: float
    kind: str


def season_columns(total: SeasonRow) -> tuple[tuple[str, tuple[ChartBlock, ...]], ...]:
    """Where a season's kilograms went, in columns to one scale: landed, cut, bagged."""
    left = max(0.0, total.round_kg - total.meat_kg - total.other_kg)
    columns = (
        ("landed", [("weighed", total.round_kg - total.estimated_kg, "meat"),
                    ("estimated", total.estimated_kg, "soft")]),
        ("cut", [("meat", total.meat_kg, "meat"), ("other pieces", total.other_kg, "rest"),
                 ("whole, or unaccounted for", left, "soft")]),
        ("bagged meat", [(words, total.outcomes[key], key.replace(" ", "-"))
                         for key, words in OUTCOMES.items()]),
    )  # fmt: skip
    most = max(total.round_kg, total.meat_kg + total.other_kg, total.bagged_kg, 1e-9)
    drawn = []
    for title, parts in columns:
        y, blocks = 20.0, []
        for words, kg, kind in parts:
            if kg > 0:
                height = kg / most * 220
                blocks.append(ChartBlock(y, height, words, kg, kind))
                y += height
        drawn.append((title, tuple(blocks)))
    return tuple(drawn)


@dataclass(frozen=True)
class DriftChart:
    """A cutter's moving average in a picture of 720 by 120: line, limits, fish out of them."""

    line: str
    upper: str
    lower: str
    middle_y: float
    out: tuple[tuple[float, float], ...]
    step: float

    def across(self, n: int) -> float:
        """Where the fish counted from 0 stands, in percent of the width."""
        return (40 + n * self.step) / 7.2


def drift_chart(points: tuple[Point, ...]) -> DriftChart:
    """Fish across, oldest first; up is more than foreseen."""
    most = max([1.2, *(abs(p.value) for p in points), *(p.limit for p in points)]) * 1.1
    step = 640 / max(1, len(points) - 1)

    def at(n: int, value: float) -> tuple[float, float]:
        return 40 + n * step, 60 - value / most * 50

    def path(values: list[float]) -> str:
        return "M" + "L".join("{:.1f} {:.1f}".format(*at(n, v)) for n, v in enumerate(values))

    return DriftChart(
        path([p.value for p in points]),
        path([p.limit for p in points]),
        path([-p.limit for p in points]),
        at(0, 0.0)[1],
        tuple(at(n, p.value) for n, p in enumerate(points) if p.low),
        step,
    )

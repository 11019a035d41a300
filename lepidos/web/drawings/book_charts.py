"""Charts of the book: every fish's yield by its size, and by how long it was on the board."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from lepidos.core.units import LB_KG, System, format_percent
from lepidos.stations.yieldbook.book_figures import Dot
from lepidos.web.drawings.fish import loop

HEIGHT = 230  # of the picture; 1000 across, stretched to the page
LEFT, RIGHT, TOP, BOTTOM = 70, 985, 12, 190
STEPS = tuple(m * 10**e for e in range(-3, 4) for m in (1, 1.5, 2, 2.5, 3, 4, 5, 6, 8))
MAX_MARKS = 9
Y_STEPS = (0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10)


@dataclass(frozen=True)
class Scatter:
    """Dots (across in percent, down in px, and what each is), a band, and the axes' marks."""

    dots: tuple[tuple[float, float, str], ...]
    band: str
    middle: str
    x_marks: tuple[tuple[float, str], ...]
    y_marks: tuple[tuple[float, str], ...]
    x_title: str


def by_size(
    dots: Sequence[Dot], band: Sequence[tuple[float, float, float, float]], system: System
) -> Scatter | None:
    """Yield by round weight, on a log scale."""
    factor = 1 / LB_KG if system == "imperial" else 1.0
    points = [(d.kg * factor, d.share, d.code) for d in dots]
    drawn = [(kg * factor, low, middle, high) for kg, low, middle, high in band]
    unit = "lb" if system == "imperial" else "kg"
    return _scatter(points, drawn, f"round weight, {unit}")


def by_time(dots: Sequence[Dot]) -> Scatter | None:
    """Yield by minutes per kilogram."""
    points = [(d.minutes_per_kg, d.share, d.code) for d in dots if d.minutes_per_kg]
    return _scatter([p for p in points if p[0] > 0], (), "minutes per kilogram of round weight")


def _scatter(
    points: Sequence[tuple[float, float, str]],
    band: Sequence[tuple[float, float, float, float]],
    x_title: str,
) -> Scatter | None:
    if not points:
        return None
    least, most = min(p[0] for p in points) / 1.08, max(p[0] for p in points) * 1.08
    shares = [p[1] for p in points] + [v for row in band for v in (row[1], row[3])]
    low = math.floor(max(0.0, min(shares) - 0.01) * 20) / 20
    high = math.ceil((max(shares) + 0.01) * 20) / 20
    across = _log_scale(least, most)

    def down(share: float) -> float:
        return TOP + (high - share) / (high - low) * (BOTTOM - TOP)

    upper = [(across(kg), down(top)) for kg, _, _, top in band]
    lower = [(across(kg), down(bottom)) for kg, bottom, _, _ in band]
    line = [(across(kg), down(middle)) for kg, _, middle, _ in band]
    step = next((s for s in Y_STEPS if high - low <= s * MAX_MARKS), high - low)
    ticks = [low + n * step for n in range(math.floor((high - low) / step + 1.001))]
    marks = [s for s in STEPS if least <= s <= most]
    if len(marks) > MAX_MARKS:
        marks = [s for s in marks if f"{s:e}"[0] in "125" and f"{s:e}"[2] == "0"]
    return Scatter(
        tuple(
            (across(x) / 10, down(share), f"{code}: {format_percent(share, 1)}")
            for x, share, code in points
        ),
        loop(upper + lower[::-1]) if len(band) > 1 else "",
        "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in line) if len(band) > 1 else "",
        tuple((across(s) / 10, f"{s:g}") for s in marks),
        tuple((down(t), f"{t * 100:.0f} %") for t in ticks),
        x_title,
    )


def _log_scale(least: float, most: float) -> Callable[[float], float]:
    span = math.log(most / least)
    return lambda value: LEFT + math.log(value / least) / span * (RIGHT - LEFT)

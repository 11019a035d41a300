"""View model of the slab: fish to scale on shelves, and the ruler above them."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from lepidos.core.units import IN_M, System
from lepidos.exchange import svg
from lepidos.guide.library import Guide
from lepidos.stations.deck.slab import SlabFish
from lepidos.web.drawings.fish import window

FIRST_WITHIN = timedelta(hours=1)  # such a fish should be cut now (practice)
NEXT_WITHIN = timedelta(hours=6)


@dataclass(frozen=True)
class OnSlab:
    """A fish with its width as a part of the slab's width."""

    row: SlabFish
    width: float
    view_box: str


@dataclass(frozen=True)
class Shelf:
    """Fish that lie together; `urgent` ones are to be cut now."""

    title: str
    note: str
    fish: tuple[OnSlab, ...]
    urgent: bool = False


@dataclass(frozen=True)
class Ruler:
    """The slab's scale: how much it shows, and where its figures stand (part of the width)."""

    marks: tuple[tuple[float, str], ...]
    ticks: tuple[float, ...]
    unit: str


def width_m(rows: Sequence[SlabFish]) -> float:
    """What the slab's width stands for [m]: the longest fish with some room."""
    longest = max((f.total_length_m for f in rows), default=1.0)
    return max(0.6, math.ceil(longest * 10 + 1) / 10)


def place(guide: Guide, rows: Sequence[SlabFish], across_m: float) -> tuple[OnSlab, ...]:
    """Every fish at the slab's scale."""
    placed = []
    for row in rows:
        drawn = window(guide, row.species.key)
        width = row.total_length_m * drawn.width / svg.UNIT / across_m
        placed.append(OnSlab(row, width, drawn.view_box))
    return tuple(placed)


def ruler(across_m: float, system: System) -> Ruler:
    """Marks every 10 cm or 5 in, a tick between."""
    step = 5 * IN_M if system == "imperial" else 0.1
    count = int(across_m / step)
    marks = tuple(
        (k * step / across_m, f"{k * 5}" if system == "imperial" else f"{k * 10}")
        for k in range(count + 1)
        if k * step / across_m < 0.96
    )
    ticks = tuple((k + 0.5) * step / across_m for k in range(count))
    return Ruler(marks, ticks, "in" if system == "imperial" else "cm")


def shelves(placed: Sequence[OnSlab], by: str, now: datetime) -> tuple[Shelf, ...]:
    """Fish on their shelves: by how much they press, by species, or by party."""
    if by == "urgency":
        return _by_urgency(placed, now)
    groups: dict[str, list[OnSlab]] = {}
    for fish in placed:
        name = fish.row.species.plural if by == "species" else fish.row.party
        groups.setdefault(name, []).append(fish)
    return tuple(
        Shelf(name[:1].upper() + name[1:] if name else "Nobody's yet", _count(fish), tuple(fish))
        for name, fish in groups.items()
    )


def _by_urgency(placed: Sequence[OnSlab], now: datetime) -> tuple[Shelf, ...]:
    found: dict[str, list[OnSlab]] = {"board": [], "first": [], "next": [], "rest": []}
    for fish in placed:
        found[_pressing(fish.row, now)].append(fish)
    kinds = (
        ("first", "Cut first", "within the hour", True),
        ("board", "On the board", "started, not finished", False),
        ("next", "Next", "today", False),
        ("rest", "Can wait on ice", "no hurry", False),
    )
    return tuple(
        Shelf(title, note, tuple(found[key]), urgent)
        for key, title, note, urgent in kinds
        if found[key]
    )


def _pressing(row: SlabFish, now: datetime) -> str:
    if row.now.stage == "table":
        return "board"
    due = row.place.due_at if row.place else None
    if due is None:
        return "rest"
    if due <= now + FIRST_WITHIN:
        return "first"
    return "next" if due <= now + NEXT_WITHIN else "rest"


def _count(fish: Sequence[OnSlab]) -> str:
    return f"{len(fish)} fish"

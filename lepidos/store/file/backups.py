"""Copies of the data file that the app makes by itself: their names, and which of them are kept."""

import re
import shutil
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Literal

Why = Literal["start", "daily", "asked", "migration", "restore", "bundle"]
BEFORE = ("migration", "restore", "bundle")  # made before something that changes all of the file
_NAME = re.compile(r"(\d{8}T\d{6}Z)-(start|daily|asked|migration|restore|bundle)\.sqlite")
_STAMP = "%Y%m%dT%H%M%SZ"

# common practice, no source: days, weeks and months
NEWEST, DAYS, WEEKS, MONTHS = 3, 7, 5, 12
BEFORE_DAYS = 60


@dataclass(frozen=True, order=True)
class Backup:
    """A copy: when it was made (UTC), why, and where it is."""

    at: datetime
    why: str
    path: Path

    @property
    def megabytes(self) -> float:
        """Of 10⁶ bytes; 0 when somebody took it away."""
        return self.path.stat().st_size / 1e6 if self.path.exists() else 0.0


def name_of(at: datetime, why: Why) -> str:
    """The name of a copy's file, which sorts by time.

    >>> name_of(datetime(2026, 7, 14, 12, 10, tzinfo=UTC), "daily")
    '20260714T121000Z-daily.sqlite'
    """
    return f"{at.astimezone(UTC):{_STAMP}}-{why}.sqlite"


def listed(folder: Path) -> list[Backup]:
    """The copies in a folder, the newest first. Other files there are none of ours."""
    found = []
    for path in folder.glob("*.sqlite"):
        if named := _NAME.fullmatch(path.name):
            at = datetime.strptime(named[1], _STAMP).replace(tzinfo=UTC)
            found.append(Backup(at, named[2], path))
    return sorted(found, reverse=True)


def to_remove(found: Iterable[Backup], now: datetime) -> list[Backup]:
    """Which copies may go.

    Kept are the newest three; the newest of each of the last seven days, five weeks and twelve
    months that have one; and for sixty days those made before a migration, a restore or a merge.
    A copy "from the future" (the clock was wrong) counts as of now.
    """
    newest_first = sorted(found, reverse=True)
    kept = set(newest_first[:NEWEST])
    by_time: tuple[tuple[int, Callable[[datetime], object]], ...] = (
        (DAYS, lambda at: at.date()),
        (WEEKS, lambda at: at.isocalendar()[:2]),
        (MONTHS, lambda at: (at.year, at.month)),
    )
    for many, span in by_time:
        seen: list[object] = []
        for one in newest_first:
            if (key := span(min(one.at, now))) not in seen:
                seen.append(key)
                if len(seen) <= many:
                    kept.add(one)
    edge = now - timedelta(days=BEFORE_DAYS)
    kept |= {one for one in newest_first if one.why in BEFORE and one.at >= edge}
    return [one for one in newest_first if one not in kept]


def has_room(folder: Path, file: Path) -> bool:
    """Whether a copy fits on a folder's disk and leaves as much again free."""
    return shutil.disk_usage(folder).free > 2 * file.stat().st_size


def prune(folder: Path, now: datetime) -> None:
    """Take away what need not be kept."""
    for one in to_remove(listed(folder), now):
        one.path.unlink(missing_ok=True)

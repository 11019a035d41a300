"""A folder that loggers write their files into: `chest.csv` is the log of the place *chest*.

So is `chest 2026-12-02.csv`, of one day. A file is read when it has changed, from where the place's
readings ended; one that still grows by the minute, twice an hour. How it is written has to be plain
from the file, or confirmed once for its place.
"""

import hashlib
import re
import time
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from pathlib import Path
from zoneinfo import ZoneInfo

from lepidos.core.errors import BadInput, LepidosError
from lepidos.core.freezer.temperature_log import Readings
from lepidos.exchange.logger_csv import read_log
from lepidos.exchange.logger_layout import confirmed, layout_of
from lepidos.exchange.text_files import MAX_BYTES, text_of
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.freezer.temperature import check_times, keep_readings
from lepidos.store.base import settings
from lepidos.store.freezer import places as place_store
from lepidos.store.freezer import temperature
from lepidos.store.records import Place

ENDINGS = {".csv", ".txt", ".tsv"}
OFTEN_S = 30 * 60  # what is taken in together is a row: not one for each minute
_OF_A_DAY = re.compile(r"(.+) (\d{4}-\d\d-\d\d)")


class LogFolder:
    """Looks through a folder now and then. `said`: by place, the file and what came of it."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.said: dict[str, tuple[str, str]] = {}
        self._seen: dict[Path, tuple[int, int]] = {}

    def look(self, ctx: AppContext) -> int:
        """Take in what is new in files that changed; how many were read."""
        if not self.path.is_dir():
            return 0
        with ctx.store.reading():
            places = {place.name.casefold(): place for place, _ in place_store.places()}
            ends = _ends()
        found = [(file, places.get(_place_of(file))) for file in sorted(self.path.iterdir())]
        last = {place.id: file for file, place in found if place}
        read = 0
        for file, place in found:
            if place is None or file.suffix.lower() not in ENDINGS or not file.is_file():
                continue
            of_a_day = _OF_A_DAY.fullmatch(file.stem)
            if of_a_day and of_a_day[2] < ends.get(place.id, ""):
                continue  # the log goes beyond that day
            state = file.stat()
            mark = (state.st_mtime_ns, state.st_size)
            if self._seen.get(file) == mark:
                continue
            read += 1
            grows = file == last[place.id] and time.time() - state.st_mtime < OFTEN_S
            try:
                done = _take_new(ctx, place, file, state.st_size, OFTEN_S if grows else 0)
                said = done.sentence if done else "nothing new in it"
                if done or not grows:
                    self._seen[file] = mark
            except (LepidosError, OSError) as error:
                self._seen[file] = mark
                said = str(error)
            self.said[place.id] = file.name, said
        return read


def _place_of(file: Path) -> str:
    """The name of the place that a file is of, in small letters."""
    of_a_day = _OF_A_DAY.fullmatch(file.stem)
    return (of_a_day[1] if of_a_day else file.stem).casefold()


def _ends() -> dict[str, str]:
    """By place: the day before its log's last one, in an open file."""
    ends: dict[str, datetime] = {}
    for row in temperature.logs():
        ends[row.place_id] = max(row.last_at, ends.get(row.place_id, row.last_at))
    return {place: f"{end - timedelta(days=1):%Y-%m-%d}" for place, end in ends.items()}


@dataclass(frozen=True)
class _NewIn:
    """What is taken in: the place, and the first and last second."""

    mark: str


def _take_new(
    ctx: AppContext, place: Place, file: Path, size: int, least_s: float
) -> Receipt | None:
    """The readings of a file that are later than the place's own; None when there are none, or
    when they reach over less than `least_s`.
    """
    if size > MAX_BYTES:
        raise BadInput(f"The file is over {MAX_BYTES // 1024 // 1024} MB; begin a new one")
    text = text_of(file.read_bytes())
    layout = layout_of(text)
    with ctx.store.reading():
        written = settings.value(settings.LOG_WRITTEN + place.id)
        ends = [row.last_at for row in temperature.logs() if row.place_id == place.id]
    order, unit, zone = written.split() if written else ("", "", ctx.timezone)
    layout = confirmed(layout, layout.order or order, layout.unit or unit)
    taken = read_log(text, layout, ZoneInfo(zone))
    since = max(ends).timestamp() if ends else 0.0
    new = taken.log.at_s > since
    if not new.any() or (since and taken.log.at_s[-1] - since < least_s):
        return None
    log = Readings(taken.log.at_s[new], taken.log.celsius[new])
    mark = f"{place.id} {int(log.at_s[0])} {int(log.at_s[-1])}"
    key = "watch-" + hashlib.sha256(mark.encode()).hexdigest()[:32]

    def do(at: datetime) -> Receipt:
        check_times(at, log, "file")
        return keep_readings(ctx, at, place.id, file.name, replace(taken, log=log), "metric")

    return run_idempotent(ctx, key, "freezer.log", _NewIn(mark), do)

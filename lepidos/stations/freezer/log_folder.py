"""A folder that loggers write their files into: `chest.csv` is the log of the place *chest*.

A file is read when it has changed, from where the place's readings ended. How it is written has to
be plain from the file, or confirmed once for its place.
"""

import hashlib
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from zoneinfo import ZoneInfo

from lepidos.core.errors import BadInput, LepidosError
from lepidos.core.freezer.temperature_log import Readings
from lepidos.exchange.logger_csv import read_log
from lepidos.exchange.logger_layout import confirmed, layout_of
from lepidos.exchange.text_files import MAX_BYTES, text_of
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.freezer.temperature import check_times, keep_readings
from lepidos.store import places as place_store
from lepidos.store import settings, temperature
from lepidos.store.records import Place

ENDINGS = {".csv", ".txt", ".tsv"}


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
        read = 0
        for file in sorted(self.path.iterdir()):
            place = places.get(file.stem.casefold())
            if place is None or file.suffix.lower() not in ENDINGS or not file.is_file():
                continue
            state = file.stat()
            mark = (state.st_mtime_ns, state.st_size)
            if self._seen.get(file) == mark:
                continue
            self._seen[file] = mark
            read += 1
            try:
                done = _take_new(ctx, place, file, state.st_size)
                said = done.sentence if done else "nothing new in it"
            except (LepidosError, OSError) as error:
                said = str(error)
            self.said[place.id] = file.name, said
        return read


@dataclass(frozen=True)
class _NewIn:
    """What is taken in: the place, and the first and last second."""

    mark: str


def _take_new(ctx: AppContext, place: Place, file: Path, size: int) -> Receipt | None:
    """The readings of a file that are later than the place's own; None when there are none."""
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
    if not new.any():
        return None
    log = Readings(taken.log.at_s[new], taken.log.celsius[new])
    mark = f"{place.id} {int(log.at_s[0])} {int(log.at_s[-1])}"
    key = "watch-" + hashlib.sha256(mark.encode()).hexdigest()[:32]

    def do(at: datetime) -> Receipt:
        check_times(at, log, "file")
        return keep_readings(ctx, at, place.id, file.name, replace(taken, log=log), "metric")

    return run_idempotent(ctx, key, "freezer.log", _NewIn(mark), do)

"""Readings of a place's temperature taken in: from a file that somebody confirmed, or a logger."""

import hashlib
import threading
import zlib
from collections import OrderedDict
from dataclasses import dataclass, field
from datetime import UTC, datetime
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from lepidos.core.errors import BadInput, Conflict, OutOfRange, Refused
from lepidos.core.freezer.temperature_log import (
    MAX_MINUTES,
    MINUTE_S,
    Readings,
    by_minute,
    gaps,
    readings,
)
from lepidos.core.pack.labels import count, one_line
from lepidos.core.units import DAY_S, System, format_temperature
from lepidos.devices.indicator import DeviceError
from lepidos.exchange.logger_csv import TakenLog, read_log
from lepidos.exchange.logger_layout import Layout, confirmed, first_reading, layout_of
from lepidos.exchange.text_files import text_of
from lepidos.stations.base.context import (
    AppContext,
    Receipt,
    read_first,
    run_idempotent,
    what_was_done,
)
from lepidos.stations.base.digest import BESIDE
from lepidos.stations.freezer.cold_records import all_logs
from lepidos.stations.freezer.holds import recount
from lepidos.store.base import entries, settings
from lepidos.store.freezer import places as place_store
from lepidos.store.freezer import temperature
from lepidos.store.pack import bags
from lepidos.store.records import Bag, BagNow

MAX_NAME_LENGTH = 80
MAX_OFFERED = 3
SHOWN = 3
EARLIEST_S = 946_684_800  # the year 2000
LATEST_S = 253_402_000_000  # the end of the year 9999
LOGGER = "logger"  # the name under which what the logger remembers is kept


@dataclass(frozen=True)
class Offered:
    """A file that waits until somebody has confirmed how it is written.

    `first`: time and temperature of its first reading, as they stand there.
    """

    token: str
    place_id: str
    name: str
    layout: Layout
    lines: tuple[str, ...]
    first: tuple[str, str]


class OfferedLogs:
    """Files between being sent and being confirmed: the last few, packed. Nothing of them is kept
    in the data file yet, so that a start of the app forgets them.
    """

    def __init__(self) -> None:
        self._kept: OrderedDict[str, tuple[Offered, bytes]] = OrderedDict()
        self._lock = threading.Lock()

    def put(self, place_id: str, name: str, data: bytes) -> Offered:
        """Look at a file. Raises BadInput for one without readings."""
        text = text_of(data)
        layout = layout_of(text)
        token = hashlib.sha256(place_id.encode() + data).hexdigest()[:24]
        lines = text.splitlines()
        first = layout.first - 1
        shown = tuple(lines[max(0, first - 1) : first + SHOWN])
        reading = first_reading(text, layout)
        offered = Offered(token, place_id, one_line(name, MAX_NAME_LENGTH), layout, shown, reading)
        with self._lock:
            self._kept[token] = offered, zlib.compress(text.encode(), 1)
            while len(self._kept) > MAX_OFFERED:
                self._kept.popitem(last=False)
        return offered

    def get(self, token: str) -> tuple[Offered, str]:
        """A file that waits, and its text. Raises Refused when it is not there any more."""
        with self._lock:
            found = self._kept.get(token)
        if found is None:
            raise Refused({"file": "The app was started since; choose the file once more"})
        return found[0], zlib.decompress(found[1]).decode()


@dataclass(frozen=True)
class TakeLog:
    """An order to take in an offered file, as it was confirmed. `zone`: of times without one."""

    token: str
    order: str
    unit: str
    zone: str
    system: System = field(default="metric", metadata=BESIDE)


def take_log(ctx: AppContext, offered: OfferedLogs, key: str, order: TakeLog) -> Receipt:
    """All of a file or nothing. Raises Refused with the field and the line, Unknown."""
    # a retry after a new start finds the file gone, and its entry there
    again = what_was_done(ctx, key) is not None
    file, text = (None, "") if again else offered.get(order.token)
    taken = _read(file, text, order) if file else None  # not while others wait to write

    def do(at: datetime) -> Receipt:
        if file is None or taken is None:
            raise Conflict(
                "That was taken in, and taken out again since; choose the file once more"
            )
        check_times(at, taken.log, "order")
        written = f"{order.order} {order.unit} {order.zone}"
        settings.put(ctx.ids, at, settings.LOG_WRITTEN + file.place_id, written)
        return keep_readings(ctx, at, file.place_id, file.name, taken, order.system)

    return run_idempotent(ctx, key, "freezer.log", order, do)


def check_times(at: datetime, log: Readings, field_name: str) -> None:
    """Raises Refused for readings before 2000 or after tomorrow: a date was read wrongly."""
    first, last = int(log.at_s[0]), int(log.at_s[-1])
    if first >= EARLIEST_S and last <= at.timestamp() + DAY_S:
        return
    odd_s = first if first < EARLIEST_S else last
    odd = datetime.fromtimestamp(min(max(0, odd_s), LATEST_S), UTC)
    raise Refused({field_name: f"A reading is on {odd:%d %B %Y}: is the order of dates right?"})


def _check_span(place_id: str, log: Readings) -> None:
    """Raises Refused where a place's readings would reach over too many years to calculate."""
    rows = [row for row in temperature.logs() if row.place_id == place_id]
    first = min([int(log.at_s[0]), *(int(row.first_at.timestamp()) for row in rows)])
    last = max([int(log.at_s[-1]), *(int(row.last_at.timestamp()) for row in rows)])
    if (last - first) // MINUTE_S >= MAX_MINUTES:
        why = "With these, the place's readings reach over ten years; take older ones out first"
        raise Refused({"file": why})


def _read(file: Offered, text: str, order: TakeLog) -> TakenLog:
    try:
        layout = confirmed(file.layout, order.order, order.unit)
        return read_log(text, layout, ZoneInfo(order.zone))
    except BadInput as error:
        raise Refused({"file": str(error)}) from error
    except (ZoneInfoNotFoundError, ValueError) as error:
        raise Refused({"zone": "That is not a time zone"}) from error


@dataclass(frozen=True)
class ReadLogger:
    """An order to read what the logger of a place remembers."""

    place_id: str
    system: System = field(default="metric", metadata=BESIDE)


def read_logger(ctx: AppContext, key: str, order: ReadLogger) -> Receipt:
    """What it read since it was read last. Raises Refused when it is silent, Unknown."""

    found = read_first(ctx, key, lambda: _from_logger(ctx, order.place_id))

    def do(at: datetime) -> Receipt:
        place = place_store.place(order.place_id)
        if found is None or not len(found):
            raise Refused({"logger": "Nothing new since it was read last"})
        return keep_readings(ctx, at, place.id, LOGGER, TakenLog(found, ()), order.system)

    return run_idempotent(ctx, key, "freezer.log", order, do)


def _from_logger(ctx: AppContext, place_id: str) -> Readings:
    """The readings since it was last read, at whichever place: a reading has one place."""
    with ctx.store.reading():
        logs = [r for r in temperature.logs() if r.place_id == place_id or r.name == LOGGER]
        ends = [row.last_at for row in logs]
    try:
        return ctx.logger.since(int(max(ends).timestamp()) if ends else 0)
    except DeviceError as error:
        raise Refused({"logger": str(error)}) from error


@dataclass(frozen=True)
class TakeReadings:
    """An order: readings of a sensor in a place, seconds since 1970 rising, and °C."""

    place_id: str
    sensor: str
    at_s: tuple[int, ...]
    celsius: tuple[float, ...]


def take_readings(ctx: AppContext, key: str, order: TakeReadings) -> Receipt:
    """Take them in, all or none. Raises Refused, Unknown."""

    def do(at: datetime) -> Receipt:
        name = one_line(order.sensor, MAX_NAME_LENGTH) or "sensor"
        try:
            log = readings(order.at_s, order.celsius)
        except (BadInput, OutOfRange) as error:
            raise Refused({"readings": str(error)}) from error
        check_times(at, log, "readings")
        return keep_readings(ctx, at, order.place_id, name, TakenLog(log, ()), "metric")

    return run_idempotent(ctx, key, "freezer.log", order, do)


def keep_readings(
    ctx: AppContext, at: datetime, place_id: str, name: str, taken: TakenLog, system: System
) -> Receipt:
    """Readings into the file, in a transaction that writes, and all bags there judged again."""
    place, log = place_store.place(place_id), taken.log
    _check_span(place.id, log)
    row = temperature.add(ctx.ids, at, place.id, name, log)
    moved = recount_place(ctx, place.id)
    sooner = sum(after.best_by < before.best_by for _, before, after in moved)
    proved = sum(
        after.raw_from is not None and before.raw_from is None for _, before, after in moved
    )
    said = [f"{place.name}: {count(len(log), 'reading')}, {_days(log, ctx.timezone)}"]
    low, high = (
        format_temperature(float(c), system) for c in (log.celsius.min(), log.celsius.max())
    )
    said.append(f"{low} to {high}")
    if holes := len(gaps(by_minute(log))):
        said.append(count(holes, "gap"))
    if sooner:
        said.append(f"{count(sooner, 'bag')} due sooner than on the label")
    if proved:
        said.append(f"{count(proved, 'raw hold')} proved")
    return Receipt("temperature log", row.id, "; ".join(said), " ".join(taken.notes))


def _days(log: Readings, zone: str) -> str:
    first, last = (
        datetime.fromtimestamp(int(s), UTC).astimezone(ZoneInfo(zone))
        for s in (log.at_s[0], log.at_s[-1])
    )
    if first.date() == last.date():
        return f"{first:%-d %b} {first:%H:%M} to {last:%H:%M}"
    return f"{first:%-d %b %Y} to {last:%-d %b %Y}"


def recount_place(ctx: AppContext, place_id: str) -> list[tuple[Bag, BagNow, BagNow]]:
    """Judge again the bags that were ever in places with this one's log; see `holds.recount`."""
    return recount(ctx, bags.ever_in(all_logs().with_log_of(place_id)))


def undo_log(ctx: AppContext, row_id: str, at: datetime) -> str:
    row = temperature.get(row_id)
    entries.undo(ctx.ids, "temperature log", row_id, at)
    recount_place(ctx, row.place_id)
    return f"{place_store.place(row.place_id).name}: those readings are out again"

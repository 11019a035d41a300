"""A temperature logger's file: what it seems to say, and its readings once somebody has confirmed.

Loggers write their tables in many ways. Delimiter, decimal sign, order of dates and unit are
guessed from the text and shown; what the text does not tell is asked, never assumed.
"""

import io
import re
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal
from zoneinfo import ZoneInfo

import numpy as np
import pandas as pd

from lepidos.core.errors import BadInput
from lepidos.core.freezer.temperature_log import COLDEST_C, WARMEST_C, Readings, readings
from lepidos.core.pack.labels import count

Order = Literal["ymd", "dmy", "mdy"]
Unit = Literal["C", "F"]
DELIMITERS = "\t;|,"
LOOKED_AT = 400  # lines, for guessing
MOST_BYTES = 64 * 1024 * 1024
MOST_ROWS = 5_300_000  # ten years of minutes
SENSOR_OUT = (-127.0, 85.0)  # what common sensors say when their cable is out (memory)

_DATE = re.compile(r"^\s*(\d{1,4})[-./](\d{1,2})[-./](\d{1,4})(?:[T ,]+(.+))?\s*$")
_TIME = re.compile(r"^\s*\d{1,2}[:.]\d{2}(?:[:.]\d{2}(?:[.,]\d+)?)?\s*(?:[AaPp]\.?[Mm]\.?)?\s*$")
_STAMP = re.compile(
    r"(\d{1,4})([-./])(\d{1,2})([-./])(\d{1,4})(?P<between>[T ,]+)\d{1,2}(?P<sep>[:.])\d\d"
    r"(?P<seconds>(?P=sep)\d\d(?:(?P<dot>[.,])\d+)?)?"
    r"(?:(?P<space>\s*)(?P<half>[AaPp][Mm]))?(?P<offset>Z|[+-]\d\d:?\d\d)?$"
)
_NUMBER = re.compile(r"^\s*[-+−]?\d+(?:[.,]\d+)?\s*(?:°?\s*[CF])?\s*$")
_F = re.compile(r"°\s*F\b|\bdeg\s*F\b|\(F\)|[Ff]ahrenheit|_F\b|\bF$|\d\s*F$")
_C = re.compile(r"°\s*C\b|\bdeg\s*C\b|\(C\)|[Cc]elsius|_C\b|\bC$|\d\s*C$|℃")


@dataclass(frozen=True)
class Layout:
    """How a file is written. `order` and `unit` are None where the text does not tell.

    `first` is the line of the first reading, from 1; columns count from 0; `time` is None where
    date and time stand together.
    """

    delimiter: str
    decimal: str
    first: int
    date: int
    time: int | None
    celsius: int
    order: Order | None
    unit: Unit | None


@dataclass(frozen=True)
class Taken:
    """The readings of a file, and what was left out of it, in plain sentences."""

    log: Readings
    notes: tuple[str, ...]


def text_of(data: bytes) -> str:
    """A file's text: UTF-8 or UTF-16 by its marks, else Windows' Western letters.

    Raises: BadInput for what is no text, or too much.
    """
    if len(data) > MOST_BYTES:
        raise BadInput(f"The file is over {MOST_BYTES // 1024 // 1024} MB; split it by year")
    for mark, name in (
        (b"\xef\xbb\xbf", "utf-8-sig"),
        (b"\xff\xfe", "utf-16"),
        (b"\xfe\xff", "utf-16"),
    ):
        if data.startswith(mark):
            return _decode(data, name)
    head = data[:2000]
    for half, name in ((head[1::2], "utf-16-le"), (head[::2], "utf-16-be")):
        if half.count(b"\0") > 0.8 * len(half):
            return _decode(data, name)
    if b"\0" in head:
        raise BadInput("This is no text; export the logger's readings as CSV")
    try:
        return data.decode()
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace")


def _decode(data: bytes, name: str) -> str:
    if name.startswith("utf-16") and len(data) % 2:
        data = data[:-1]  # it broke off in a letter
    try:
        return data.decode(name)
    except UnicodeDecodeError as error:
        raise BadInput("The file's letters cannot be read; save it as UTF-8") from error


def layout_of(text: str) -> Layout:
    """How a file is written, as far as it tells. Raises BadInput where no readings are found."""
    lines = text.splitlines()[:LOOKED_AT]
    for delimiter in DELIMITERS:
        table = [line.split(delimiter) for line in lines]
        for n, row in enumerate(table):
            if found := _columns(row):
                date, time, values = found
                rows = [r for r in table[n:] if len(r) > max(date, time or 0, *values)]
                if len(rows) < max(1, (len(table) - n) // 2):
                    continue
                names = next((r for r in reversed(table[:n]) if len(r) == len(row)), [])
                celsius = _temperature(values, names, rows)
                return Layout(
                    delimiter,
                    "," if any("," in r[celsius] for r in rows) else ".",
                    n + 1,
                    date,
                    time,
                    celsius,
                    _order([r[date] for r in rows]),
                    _unit(names[celsius] if names else "", rows[0][celsius], "\n".join(lines[:n])),
                )
    raise BadInput("No line has a date, a time and a temperature; is this a logger's table?")


def _columns(row: list[str]) -> tuple[int, int | None, list[int]] | None:
    """Where date, time and numbers stand in a line, if it is a reading."""
    row = [cell.strip().strip('"') for cell in row]
    dates = [n for n, cell in enumerate(row) if _DATE.match(cell)]
    if not dates:
        return None
    date = dates[0]
    found = _DATE.match(row[date])
    time = None
    if not (found and found[4]):
        times = [n for n, cell in enumerate(row) if n > date and _TIME.match(cell)]
        if not times:
            return None
        time = times[0]
    numbers = [
        n
        for n, cell in enumerate(row)
        if n not in (date, time) and _NUMBER.match(cell) and n > date
    ]
    return (date, time, numbers) if numbers else None


def _temperature(values: list[int], names: list[str], rows: list[list[str]]) -> int:
    """The column of the temperature: by its name, else the first that is no count of lines."""
    for n in values:
        if names and re.search(r"temp|°|celsius|fahrenheit", names[n], re.IGNORECASE):
            return n
    for n in values:
        cells = [r[n].strip() for r in rows[:20]]
        if len(cells) < 3 or not all(c.isdigit() for c in cells):
            return n
        if any(int(b) - int(a) != 1 for a, b in pairwise(cells)):
            return n
    return values[0]


def _order(cells: list[str]) -> Order | None:
    found = [m for cell in cells if (m := _DATE.match(cell.strip().strip('"')))]
    if any(len(m[1]) == 4 for m in found):
        return "ymd"
    if any(int(m[1]) > 12 for m in found):
        return "dmy"
    if any(int(m[2]) > 12 for m in found):
        return "mdy"
    # a log goes on from day to day: the part that changes first is the day
    first, second = ({int(m[n]) for m in found} for n in (1, 2))
    if len(first) > len(second):
        return "dmy"
    return "mdy" if len(second) > len(first) else None


def _unit(name: str, cell: str, above: str) -> Unit | None:
    for text in (name, cell, above):
        f, c = bool(_F.search(text)), bool(_C.search(text))
        if f != c:
            return "F" if f else "C"
    return None


def read_log(text: str, layout: Layout, zone: ZoneInfo) -> Taken:
    """The readings of a file that is written so; times without a zone are in `zone`.

    All of it or nothing. Raises BadInput with the line where it cannot be read, or where the
    logger's clock goes back; and where order or unit are still open.
    """
    if layout.order is None or layout.unit is None:
        raise BadInput("Say the order of the dates and the unit first")
    notes: list[str] = []
    lines = text.splitlines()
    if len(lines) > MOST_ROWS:
        raise BadInput("That is more than ten years of minutes; split it by year")
    wanted = [n for n in (layout.date, layout.time, layout.celsius) if n is not None]
    body = lines[layout.first - 1 :]
    if (
        body
        and len(body) > 1
        and body[-1].count(layout.delimiter) < body[0].count(layout.delimiter)
    ):
        notes.append("The last line broke off; it is left out.")
        body = body[:-1]
    table = pd.read_csv(
        io.StringIO("\n".join(body)),
        sep=layout.delimiter,
        header=None,
        usecols=wanted,
        dtype=str,
        skip_blank_lines=False,
        na_filter=False,
        on_bad_lines="skip",
        quotechar='"',
    )
    stamps = table[layout.date].str.strip()
    if layout.time is not None:
        stamps = stamps + " " + table[layout.time].str.strip()
    filled = stamps.str.strip() != ""
    stamps, cells = stamps[filled], table[layout.celsius][filled]
    seconds = _seconds(stamps, layout, zone)
    air = _celsius(cells, layout)
    return _checked(seconds, air, stamps, layout.first, notes)


def _seconds(stamps: "pd.Series[str]", layout: Layout, zone: ZoneInfo) -> "pd.Series[int]":
    """Seconds since 1970; raises BadInput with the first line that is no time."""
    written = _format(str(stamps.iloc[0]), layout.order or "ymd") if len(stamps) else ""
    offset = written.endswith("%z")
    at = pd.to_datetime(stamps, errors="coerce", utc=offset, format=written)
    if bool(at.isna().any()):
        line = int(at.index[at.isna()][0])
        raise BadInput(
            f"Line {line + layout.first}: “{str(stamps.loc[line])[:40]}” is no date and time "
            "written like the first"
        )
    if not offset:
        at = _in_zone(at, zone)
    found = (at - pd.Timestamp(0, tz="UTC")) // pd.Timedelta(seconds=1)
    return found.astype("int64")


def _format(stamp: str, order: Order) -> str:
    """How a stamp is written, in the signs of `strptime`. Raises BadInput."""
    found = _STAMP.match(stamp)
    if not found:
        raise BadInput(f"“{stamp[:40]}” is no date and time")
    parts = [found[n] for n in (1, 3, 5)]
    first, second = found[2], found[4]
    year = parts[order.index("y")]
    signs = {"y": "%Y" if len(year) == 4 else "%y", "m": "%m", "d": "%d"}
    date = signs[order[0]] + first + signs[order[1]] + second + signs[order[2]]
    hour = "%I" if found["half"] else "%H"
    time = hour + found["sep"] + "%M"
    if found["seconds"]:
        time += found["sep"] + "%S" + (found["dot"] + "%f" if found["dot"] else "")
    half = found["space"] + "%p" if found["half"] else ""
    return date + found["between"] + time + half + ("%z" if found["offset"] else "")


def _in_zone(at: "pd.Series[pd.Timestamp]", zone: ZoneInfo) -> "pd.Series[pd.Timestamp]":
    """Local times in UTC; where an autumn hour comes twice, the second time is the later one."""
    backwards = (at.diff() < pd.Timedelta(0)).cumsum() % 2 == 0
    try:
        local = at.dt.tz_localize(zone, ambiguous=backwards.to_numpy(), nonexistent="shift_forward")
    except (ValueError, TypeError) as error:
        raise BadInput(f"Times of the file cannot be in {zone.key}") from error
    return local.dt.tz_convert("UTC")


def _celsius(cells: "pd.Series[str]", layout: Layout) -> "pd.Series[float]":
    air = pd.to_numeric(cells, errors="coerce")
    odd = air.isna()
    if bool(odd.any()):  # a decimal comma, a unit in the cell, a printed minus
        clean = cells[odd].str.replace(",", ".", regex=False).str.replace("−", "-", regex=False)
        clean = clean.str.replace(r"[°℃CFcf\s\"]", "", regex=True)
        air[odd] = pd.to_numeric(clean, errors="coerce")
    return (air - 32) / 1.8 if layout.unit == "F" else air


def _checked(
    seconds: "pd.Series[float]",
    air: "pd.Series[float]",
    stamps: "pd.Series[str]",
    first: int,
    notes: list[str],
) -> Taken:
    out = air.isna() | air.round(2).isin(SENSOR_OUT) & (air != 0)
    if n := int(out.sum()):
        notes.append(f"Left out, as a sensor's cable was out: {count(n, 'reading')}.")
    seconds, air = seconds[~out], air[~out]
    if not len(seconds):
        raise BadInput("No reading is left; is the temperature in the column you think?")
    odd = air[(air < COLDEST_C) | (air > WARMEST_C)]
    if len(odd):
        line = int(odd.index[0])
        raise BadInput(f"Line {line + first}: {odd.loc[line]:.0f} °C cannot be a freezer's air")
    back = np.flatnonzero(np.diff(seconds.to_numpy()) < 0)
    if len(back):
        line = int(seconds.index[back[0] + 1])
        before = stamps.loc[int(seconds.index[back[0]])]
        raise BadInput(
            f"Line {line + first}: the logger's clock goes back, from {before} to "
            f"{stamps.loc[line]}. Nothing was taken in; make two files of it there."
        )
    kept = air.groupby(seconds.to_numpy()).max()  # of two at the same time, the warmer
    if n := len(air) - len(kept):
        notes.append(f"{count(n, 'stamp')} more than once; the warmer reading holds.")
    return Taken(readings(kept.index.to_numpy(), kept.to_numpy()), tuple(notes))


def confirmed(layout: Layout, order: str, unit: str) -> Layout:
    """A layout as somebody confirmed it. Raises BadInput for what is no order or unit."""
    orders: dict[str, Order] = {"ymd": "ymd", "dmy": "dmy", "mdy": "mdy"}
    units: dict[str, Unit] = {"C": "C", "F": "F"}
    if order not in orders or unit not in units:
        raise BadInput("Say the order of the dates, and whether it is °C or °F")
    return replace(layout, order=orders[order], unit=units[unit])

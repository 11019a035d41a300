"""The readings of a temperature logger's file, once somebody has confirmed how it is written."""

import io
import re
from dataclasses import dataclass
from zoneinfo import ZoneInfo

import numpy as np
import pandas as pd

from lepidos.core.errors import BadInput
from lepidos.core.freezer.temperature_log import COLDEST_C, WARMEST_C, Readings, readings
from lepidos.core.pack.labels import count
from lepidos.exchange.logger_layout import Layout, Order

MAX_ROWS = 5_300_000  # ten years of minutes
SENSOR_OUT = (-127.0, 85.0)  # what common sensors say when their cable is out (memory)

_STAMP = re.compile(
    r"(\d{1,4})([-./])(\d{1,2})([-./])(\d{1,4})(?P<between>[T ,]+)\d{1,2}(?P<sep>[:.])\d\d"
    r"(?P<seconds>(?P=sep)\d\d(?:(?P<dot>[.,])\d+)?)?"
    r"(?:(?P<space>\s*)(?P<half>[AaPp][Mm]))?(?P<offset>Z|[+-]\d\d:?\d\d)?$"
)


@dataclass(frozen=True)
class TakenLog:
    """The readings of a file, and what was left out of it, in plain sentences."""

    log: Readings
    notes: tuple[str, ...]


def read_log(text: str, layout: Layout, zone: ZoneInfo) -> TakenLog:
    """The readings of a file that is written so; times without a zone are in `zone`.

    All of it or nothing. Raises BadInput with the line where it cannot be read, or where the
    logger's clock goes back; and where order or unit are still open.
    """
    if layout.order is None or layout.unit is None:
        raise BadInput("Say the order of the dates and the unit first")
    notes: list[str] = []
    lines = text.splitlines()
    if len(lines) > MAX_ROWS:
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
    _check_columns(body, layout)
    try:
        table = pd.read_csv(
            io.StringIO("\n".join(body)),
            sep=layout.delimiter,
            header=None,
            usecols=wanted,
            dtype=str,
            skip_blank_lines=False,
            na_filter=False,
            quotechar='"',
        )
    except (pd.errors.ParserError, ValueError) as error:
        raise BadInput("The file's columns cannot be told apart; export it once more") from error
    stamps = table[layout.date].str.strip()
    if layout.time is not None:
        stamps = stamps + " " + table[layout.time].str.strip()
    filled = stamps.str.strip() != ""
    stamps, cells = stamps[filled], table[layout.celsius][filled]
    seconds = _seconds(stamps, layout, zone)
    air = _celsius(cells, layout)
    return _checked(seconds, air, stamps, layout.first, notes)


def _check_columns(body: list[str], layout: Layout) -> None:
    """Raises BadInput at the first line with other columns: a comma may be a decimal sign there.

    Lines with quotes are left to the reader of tables, which knows what stands in them.
    """
    usual = body[0].count(layout.delimiter)
    for n, line in enumerate(body):
        if line.count(layout.delimiter) != usual and line.strip() and '"' not in line:
            raise BadInput(
                f"Line {n + layout.first} has other columns than the first reading: “{line[:40]}”"
            )


def _seconds(stamps: "pd.Series[str]", layout: Layout, zone: ZoneInfo) -> "pd.Series[int]":
    """Seconds since 1970; raises BadInput with the first line that is no time."""
    written = _format(str(stamps.iloc[0]), layout.order or "ymd") if len(stamps) else ""
    offset = written.endswith("%z")
    at = pd.to_datetime(stamps, errors="coerce", utc=offset, format=written)
    if bool(at.isna().any()):
        line = int(at.index[at.isna()][0])
        raise BadInput(
            f"Line {line + layout.first}: “{str(stamps.loc[line])[:40]}” is not a date and time "
            "written like the first"
        )
    if not offset:
        at = _in_zone(at, zone)
    found = (at - pd.Timestamp(0, tz="UTC")) // pd.Timedelta(seconds=1)
    return found.astype("int64")


def _format(stamp: str, order: Order) -> str:
    """How a stamp is written, in the codes of `strptime`. Raises BadInput."""
    found = _STAMP.match(stamp)
    if not found:
        raise BadInput(f"“{stamp[:40]}” is not a date and time")
    parts = [found[n] for n in (1, 3, 5)]
    first, second = found[2], found[4]
    year = parts[order.index("y")]
    codes = {"y": "%Y" if len(year) == 4 else "%y", "m": "%m", "d": "%d"}
    date = codes[order[0]] + first + codes[order[1]] + second + codes[order[2]]
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
) -> TakenLog:
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
    return TakenLog(readings(kept.index.to_numpy(), kept.to_numpy()), tuple(notes))

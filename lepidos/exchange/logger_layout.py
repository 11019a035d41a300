"""How a temperature logger's file is written: guessed from its text, and confirmed by somebody.

Loggers write their tables in many ways. Delimiter, decimal sign, order of dates and unit are
guessed and shown; what the text does not tell is asked, never assumed.
"""

import re
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

from lepidos.core.errors import BadInput

Order = Literal["ymd", "dmy", "mdy"]
Unit = Literal["C", "F"]
DELIMITERS = "\t;|,"
LOOKED_AT = 400  # lines, for guessing

_DATE = re.compile(r"^\s*(\d{1,4})[-./](\d{1,2})[-./](\d{1,4})(?:[T ,]+(.+))?\s*$")
_TIME = re.compile(r"^\s*\d{1,2}[:.]\d{2}(?:[:.]\d{2}(?:[.,]\d+)?)?\s*(?:[AaPp]\.?[Mm]\.?)?\s*$")
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


def first_reading(text: str, layout: Layout) -> tuple[str, str]:
    """Time and temperature of the first reading, as they stand in the file."""
    cells = [
        cell.strip().strip('"')
        for cell in text.splitlines()[layout.first - 1].split(layout.delimiter)
    ]
    time = "" if layout.time is None else f" {cells[layout.time]}"
    return f"{cells[layout.date]}{time}", cells[layout.celsius]


def confirmed(layout: Layout, order: str, unit: str) -> Layout:
    """A layout as somebody confirmed it. Raises BadInput for what is no order or unit."""
    orders: dict[str, Order] = {"ymd": "ymd", "dmy": "dmy", "mdy": "mdy"}
    units: dict[str, Unit] = {"C": "C", "F": "F"}
    if order not in orders or unit not in units:
        raise BadInput("Say the order of the dates, and whether it is °C or °F")
    return replace(layout, order=orders[order], unit=units[unit])

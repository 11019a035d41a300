"""CSV out and in: plain tables that other programs open without running anything in them."""

import csv
import io
from collections.abc import Iterable, Sequence

from lepidos.core.errors import BadInput

# A cell that starts with one of these is run as a formula by spreadsheet programs.
_FORMULA = ("=", "+", "-", "@", "\t", "\r")
MOST_ROWS = 2000


def safe_cell(value: object) -> str:
    """A cell as text. Text that a spreadsheet would run gets an apostrophe in front."""
    if value is None:
        return ""
    if isinstance(value, float):
        return f"{value:.6g}"
    text = str(value)
    if isinstance(value, str) and text.lstrip().startswith(_FORMULA):
        return f"'{text}"
    return text


def write_csv(header: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """A table as CSV after RFC 4180: comma, double quotes, CRLF."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow([safe_cell(cell) for cell in header])
    for row in rows:
        writer.writerow([safe_cell(cell) for cell in row])
    return out.getvalue()


def read_csv(text: str) -> tuple[list[str], list[tuple[int, dict[str, str]]]]:
    """Column names (lower case) and rows with the line each stands on.

    Comma, semicolon or tab. Raises BadInput when it is no table, or longer than 2000 rows.
    """
    if "\x00" in text:
        raise BadInput("That is not a text file")
    lines = text.lstrip("\ufeff").strip("\r\n")
    if not lines.strip():
        raise BadInput("The file is empty")
    first = lines.splitlines()[0]
    separator = max(",;\t", key=first.count)
    try:
        reader = csv.reader(io.StringIO(lines), delimiter=separator)
        header = [cell.strip().lower().lstrip("'") for cell in next(reader)]
        if len(set(header)) != len(header):
            raise BadInput("Two columns have the same name")
        rows: list[tuple[int, dict[str, str]]] = []
        for cells in reader:
            if not any(cell.strip() for cell in cells):
                continue
            if len(rows) >= MOST_ROWS:
                raise BadInput(f"More than {MOST_ROWS} rows; split the file")
            padded = [cell.strip() for cell in cells] + [""] * (len(header) - len(cells))
            named = dict(zip(header, padded, strict=False))
            if len(cells) > len(header):
                named[""] = "more cells than columns"
            rows.append((reader.line_num, named))
    except csv.Error as error:
        raise BadInput(f"The file cannot be read as CSV: {error}") from error
    return header, rows

"""CSV out and in: plain tables that other programs open without running anything in them."""

import csv
import io
from collections.abc import Callable, Iterable, Sequence

from lepidos.core.errors import BadInput

# A cell that starts with one of these is run as a formula by spreadsheet programs.
_FORMULA = ("=", "+", "-", "@", "\t", "\r")
MAX_ROWS = 2000
TITLE_LINES = 10
MAX_CELL_LENGTH = 100_000


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


Heading = Callable[[list[str]], bool]


def _any_heading(_: list[str]) -> bool:
    return True


def read_csv(
    text: str, is_heading: Heading = _any_heading
) -> tuple[list[str], list[tuple[int, dict[str, str]]]]:
    """Column names (lower case) and rows with the line each stands on.

    Comma, semicolon or tab; any line ends. The heading is the first line that `is_heading` knows,
    of the first `TITLE_LINES`, since a title may stand above; else the first line of all.
    Raises BadInput when it is no table, or longer than 2000 rows.
    """
    if "\x00" in text:
        raise BadInput("That is not a text file")
    lines = text.lstrip("\ufeff").replace("\r\n", "\n").replace("\r", "\n").rstrip("\n")
    if not lines.strip():
        raise BadInput("The file is empty")
    try:
        found = _heading(lines.split("\n")[:TITLE_LINES], is_heading)
        title_lines, separator, header = found
        reader = csv.reader(
            io.StringIO("\n".join(lines.split("\n")[title_lines + 1 :])), delimiter=separator
        )
        if len(set(header)) != len(header):
            raise BadInput("Two columns have the same name")
        rows: list[tuple[int, dict[str, str]]] = []
        for cells in reader:
            if not any(cell.strip() for cell in cells):
                continue
            if len(rows) >= MAX_ROWS:
                raise BadInput(f"More than {MAX_ROWS} rows; split the file")
            if any(len(cell) > MAX_CELL_LENGTH for cell in cells):
                raise BadInput("The file cannot be read as CSV: a cell is too long")
            padded = [cell.strip() for cell in cells] + [""] * (len(header) - len(cells))
            named = dict(zip(header, padded, strict=False))
            if len(cells) > len(header):
                named[""] = "more cells than columns"
            rows.append((title_lines + 1 + reader.line_num, named))
    except csv.Error as error:
        raise BadInput(f"The file cannot be read as CSV: {error}") from error
    return header, rows


def _heading(first: list[str], is_heading: Heading) -> tuple[int, str, list[str]]:
    """How many lines stand above the heading, what parts its cells, and the cells."""
    found = []
    for above, line in enumerate(first):
        if not line.strip():
            continue
        separator = max(",;\t", key=line.count)
        cells = next(csv.reader([line], delimiter=separator))
        found.append((above, separator, [cell.strip().lower().lstrip("'") for cell in cells]))
    return next((one for one in found if is_heading(one[2])), found[0])

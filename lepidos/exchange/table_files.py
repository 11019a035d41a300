"""A table as a file that other programs open: XLSX and JSON; CSV is in `table_csv`."""

import io
import json
from collections.abc import Iterable, Sequence
from datetime import date

from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Font


def write_json(header: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """A list of objects, one a row."""
    named = [dict(zip(header, row, strict=True)) for row in rows]
    return json.dumps(named, indent=1, ensure_ascii=False, default=_plain)


def write_xlsx(title: str, header: Sequence[str], rows: Iterable[Sequence[object]]) -> bytes:
    """A workbook of one sheet (ECMA-376), its first line fixed. Text stays text, whatever it is."""
    book = Workbook(write_only=True)
    sheet = book.create_sheet(title[:31])
    sheet.freeze_panes = "A2"
    heads = []
    for name in header:
        cell = WriteOnlyCell(sheet, name)
        cell.font = Font(bold=True)
        heads.append(cell)
    sheet.append(heads)
    for row in rows:
        sheet.append([_cell(sheet, value) for value in row])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _cell(sheet: object, value: object) -> object:
    if not isinstance(value, str):
        return value
    # what starts with "=" would be a formula; a control character cannot stand in a sheet at all
    cell = WriteOnlyCell(sheet, "".join(c for c in value if c.isprintable() or c in "\n\t"))
    cell.data_type = "s"
    return cell


def _plain(value: object) -> object:
    if isinstance(value, date):
        return value.isoformat()
    raise TypeError(type(value).__name__)

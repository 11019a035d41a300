"""Rows that come from elsewhere are held to what their columns may hold.

A bundle is a stranger's form: what the app would not have written itself does not come in.
"""

import json
import sqlite3
from collections.abc import Mapping, Sequence
from functools import cache
from typing import Any, get_type_hints

from pydantic import TypeAdapter, ValidationError

from lepidos.core.errors import BadInput
from lepidos.store.base.earlier import WRITTEN_OVER
from lepidos.store.bundle.whole_log import NOT_TOLD, Row, TableShape, chunks, rows_of, shapes
from lepidos.store.schema import TABLES
from lepidos.store.schema.base import Table

MODELS: dict[str, type[Table]] = {model._meta.table_name: model for model in TABLES}
MERGED = WRITTEN_OVER - set(NOT_TOLD)  # what a bundle may say that it was written over


@cache
def kinds_of(table: str) -> Mapping[str, Any]:
    """By column of a table: what it may hold, as a type that pydantic checks."""
    model = MODELS[table]
    hints = get_type_hints(model.record, include_extras=True)
    fields = model._meta.sorted_fields
    return {f.column_name: hint for f, hint in zip(fields, hints.values(), strict=True)}


@cache
def _adapter(table: str, column: str) -> TypeAdapter[Any]:
    return TypeAdapter(list[kinds_of(table)[column]])


def check_log(file: sqlite3.Connection) -> None:
    """Raise BadInput, with table, row and column, for the first value that cannot be there."""
    for shape in shapes(file):
        check_table(file, shape)


def check_table(file: sqlite3.Connection, shape: TableShape, every: bool = False) -> None:
    """As `check_log`, of one table. `every`: see `rows_of`."""
    for some in chunks(rows_of(file, shape, every)):
        _check_rows(shape, some)
        if shape.name == "earlier":
            for row in some:
                _check_earlier(dict(zip(shape.names, row, strict=True)))


def _check_rows(shape: TableShape, rows: Sequence[Row]) -> None:
    keys = [row[shape.at(shape.key)] for row in rows]
    for column, values in zip(shape.names, zip(*rows, strict=True), strict=True):
        if found := _wrong(shape.name, column, values):
            at, why = found
            where = f"data/{shape.name}.csv, row {str(keys[at])[:40]}, {column}"
            raise BadInput(f"{where}: {str(values[at])[:40]!r} cannot be: {why}")


def _wrong(table: str, column: str, values: Sequence[object]) -> tuple[int, str] | None:
    """Which of a column's values cannot be, and why; None when all can."""
    try:
        _adapter(table, column).validate_python(list(values))
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        why = first["msg"].removeprefix("Value error, ")
        return int(first["loc"][0]), why[:1].lower() + why[1:]
    return None


def _check_earlier(row: Mapping[str, Any]) -> None:
    """What was written over is put back as it stands: it is held to its own table."""
    where = f"data/earlier.csv, row {row['id']}"
    if (table := row["of_table"]) not in MERGED:
        raise BadInput(f"{where}: {table[:40]!r} is no table of which a bundle can tell")
    if row["before"] is None:
        return
    try:
        before = json.loads(row["before"])
    except ValueError as error:
        raise BadInput(f"{where}: what was there before cannot be read") from error
    if not isinstance(before, dict) or not before.keys() <= kinds_of(table).keys():
        raise BadInput(f"{where}: what was there before is no row of {table}")
    for column, value in before.items():
        if found := _wrong(table, column, [value]):
            raise BadInput(f"{where}, {column}: {str(value)[:40]!r} cannot be: {found[1]}")

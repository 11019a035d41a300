"""The whole log as plain rows, table by table: what goes out in a bundle and comes in from one.

What is derived (`fish_now`, `bag_now`) is left out: it is calculated again where the log comes in.
So are entries that took a bundle in, which tell of this file and not of what was done, and all that
is one machine's own: who may do what, the secret addresses of receipts, settings.
"""

import sqlite3
from collections.abc import Iterable, Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

from lepidos.store.schema import TABLES
from lepidos.store.schema.base import Day, Instant

DERIVED = ("fish_now", "bag_now")
OF_MACHINE = ("migration", "file_mark", "device", "receipt_link", "setting")
IMPORT = "bundle.import"
CHUNK = 2000

Kind = Literal["text", "integer", "number", "binary", "moment", "day"]
_KINDS: dict[str, Kind] = {
    "TEXT": "text",
    "INTEGER": "integer",
    "REAL": "number",
    "BLOB": "binary",
}
Row = tuple[Any, ...]
LogFile = sqlite3.Connection


@dataclass(frozen=True)
class TableColumn:
    """A column: what it holds, and whether it may hold nothing."""

    name: str
    kind: Kind
    nullable: bool


@dataclass(frozen=True)
class TableShape:
    """A table of the log: its columns, the one that names a row, and the rows that it refers to."""

    name: str
    about: str
    columns: tuple[TableColumn, ...]
    key: str
    references: tuple[tuple[str, str], ...]

    @property
    def names(self) -> tuple[str, ...]:
        """Of its columns, in order."""
        return tuple(column.name for column in self.columns)

    def at(self, column: str) -> int:
        """The place of a column in a row."""
        return self.names.index(column)


def shapes(file: sqlite3.Connection) -> tuple[TableShape, ...]:
    """The tables of the log, each after those that it refers to."""
    query = "SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%'"
    names = [name for (name,) in file.execute(query)]
    found = {n: _shape(file, n) for n in names if n not in (*DERIVED, *OF_MACHINE)}
    ordered: dict[str, TableShape] = {}
    while len(ordered) < len(found):
        for name in sorted(found.keys() - ordered.keys()):
            if all(t in ordered or t == name for _, t in found[name].references):
                ordered[name] = found[name]
    return tuple(ordered.values())


def shapes_of(file: sqlite3.Connection, names: Iterable[str]) -> tuple[TableShape, ...]:
    """The shapes of the tables named, in that order."""
    return tuple(_shape(file, name) for name in names)


def _shape(file: sqlite3.Connection, name: str) -> TableShape:
    info = file.execute(f"PRAGMA table_info({name})").fetchall()
    refers = file.execute(f"PRAGMA foreign_key_list({name})").fetchall()
    model = next((m for m in TABLES if m._meta.table_name == name), None)
    fields = {f.column_name: f for f in model._meta.sorted_fields} if model else {}
    columns = []
    for _, column, kind, not_null, _, key in info:
        field = fields.get(column)
        special: Kind | None = (
            "moment" if isinstance(field, Instant) else "day" if isinstance(field, Day) else None
        )
        columns.append(TableColumn(column, special or _KINDS[kind], not (not_null or key)))
    about = " ".join((getattr(model, "record", model).__doc__ or "").split()) if model else ""
    key = next(column for _, column, _, _, _, is_key in info if is_key)
    return TableShape(name, about, tuple(columns), key, tuple(sorted((r[3], r[2]) for r in refers)))


def rows_of(file: sqlite3.Connection, shape: TableShape, every: bool = False) -> Iterator[Row]:
    """All rows of a table: by their key, entries by their time.

    `every`: those as well that a log leaves out, see above.
    """
    order = f"at, {shape.key}" if shape.name == "entry" else shape.key
    where = "" if every else _WITHOUT.get(shape.name, "")
    columns = ", ".join(f'"{name}"' for name in shape.names)
    # names are the file's own
    return file.execute(f"SELECT {columns} FROM {shape.name}{where} ORDER BY {order}")  # noqa: S608


# what a setting was before is the machine's own, too, and how it settled what a merge brought
NOT_TOLD = (*OF_MACHINE, "undo")
_WITHOUT = {
    "entry": f" WHERE action <> '{IMPORT}'",
    "earlier": f" WHERE of_table NOT IN {NOT_TOLD}",
}


@contextmanager
def open_log(path: Path) -> Iterator[tuple[int, sqlite3.Connection]]:
    """A data file's schema version, and the file as it is at one moment, from any thread."""
    file = sqlite3.connect(path, check_same_thread=False, timeout=10, isolation_level=None)
    with closing(file):
        file.execute("PRAGMA query_only = 1")
        file.execute("BEGIN")
        yield int(file.execute("PRAGMA user_version").fetchone()[0]), file


def chunks(rows: Iterator[Row], size: int = CHUNK) -> Iterator[list[Row]]:
    """Rows some at a time."""
    some: list[Row] = []
    for row in rows:
        some.append(row)
        if len(some) == size:
            yield some
            some = []
    if some:
        yield some

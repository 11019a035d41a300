"""A log as one open file: a tabular data package (Frictionless, version 1), zipped.

`datapackage.json` says of each table what its columns hold and what they refer to; the tables are
CSV in `data/`. The same rows always make the same file, byte for byte.
"""

import base64
import binascii
import csv
import io
import json
import math
import zipfile
import zlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from itertools import islice
from pathlib import Path
from typing import Any, Literal

from lepidos.core.errors import BadInput

DESCRIPTOR = "datapackage.json"
MOST_DESCRIPTOR = 2_000_000  # bytes
MOST_BYTES = 4_000_000_000  # of all tables, unpacked
MOST_CELL = 8_000_000
FLUSH = 1 << 18
AT_ONCE = 2000  # rows
_TO_QUOTE = (",", '"', "\r", "\n")
LEVEL = 1  # of packing: half as large again as the best, in a third of its time

Kind = Literal["text", "integer", "number", "binary", "moment", "day"]
_TYPES: dict[Kind, dict[str, str]] = {
    "text": {"type": "string"},
    "integer": {"type": "integer"},
    "number": {"type": "number"},
    "binary": {"type": "string", "format": "binary"},
    "moment": {"type": "datetime", "format": "%Y-%m-%dT%H:%M:%S.%fZ"},
    "day": {"type": "date"},
}
Row = Sequence[Any]
_UNREADABLE = (csv.Error, UnicodeDecodeError, zipfile.BadZipFile, zlib.error, EOFError)


@dataclass(frozen=True)
class Field:
    """A column: what it holds, and whether every row has it."""

    name: str
    kind: Kind
    required: bool


@dataclass(frozen=True)
class Resource:
    """A table: its columns, the one that names a row, and the tables that others refer to."""

    name: str
    about: str
    fields: tuple[Field, ...]
    key: str
    references: tuple[tuple[str, str, str], ...] = ()


def write_package(
    resources: Sequence[Resource], rows_of: Callable[[str], Iterable[Row]], schema: int
) -> Iterator[bytes]:
    """The package piece by piece, so that it is never held as a whole.

    Args: rows_of: the rows of a table, in the order in which they are to stand.
    """
    sink = _Sink()
    with zipfile.ZipFile(sink, "w", zipfile.ZIP_DEFLATED, compresslevel=LEVEL) as package:
        descriptor = json.dumps(_descriptor(resources, schema), indent=1, ensure_ascii=False)
        with package.open(DESCRIPTOR, "w") as raw:
            raw.write(descriptor.encode())
        for resource in resources:
            path = f"data/{resource.name}.csv"
            with package.open(path, "w", force_zip64=True) as raw:
                for text in _lines(resource, rows_of(resource.name)):
                    raw.write(text.encode())
                    if len(sink.held) > FLUSH:
                        yield sink.taken()
    yield sink.taken()


class _Sink(io.RawIOBase):
    """Takes what a zip writes, until somebody takes it away."""

    def __init__(self) -> None:
        self.held = bytearray()

    def writable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        self.held += data
        return len(data)

    def taken(self) -> bytes:
        found, self.held = bytes(self.held), bytearray()
        return found


def _descriptor(resources: Sequence[Resource], schema: int) -> dict[str, Any]:
    return {
        "profile": "tabular-data-package",
        "name": "lepidos-log",
        "title": "Log of a crew's catch: what was landed, cut, packed, frozen and eaten",
        "description": "Masses are in kg, lengths in m, temperatures in °C, times in UTC. An "
        "`undo` row takes back the row that it names. Rows of `entry` say in words what was done.",
        "lepidos": {"schema": schema},
        "resources": [_described(resource) for resource in resources],
    }


def _described(resource: Resource) -> dict[str, Any]:
    fields = [
        {"name": f.name, **_TYPES[f.kind], "constraints": {"required": f.required}}
        if f.required and f.kind != "text"
        else {"name": f.name, **_TYPES[f.kind]}
        for f in resource.fields
    ]
    schema: dict[str, Any] = {"fields": fields, "primaryKey": resource.key, "missingValues": [""]}
    if resource.references:
        schema["foreignKeys"] = [
            {"fields": column, "reference": {"resource": table, "fields": key}}
            for column, table, key in resource.references
        ]
    return {
        "profile": "tabular-data-resource",
        "name": resource.name,
        "path": f"data/{resource.name}.csv",
        "description": resource.about,
        "encoding": "utf-8",
        "dialect": {"delimiter": ",", "lineTerminator": "\r\n", "doubleQuote": True},
        "schema": schema,
    }


def _lines(resource: Resource, rows: Iterable[Row]) -> Iterator[str]:
    yield _written([[f.name for f in resource.fields]])
    kinds = [f.kind for f in resource.fields]
    left = iter(rows)
    while some := list(islice(left, AT_ONCE)):
        columns = [
            _texts(kind, cells) for kind, cells in zip(kinds, zip(*some, strict=True), strict=True)
        ]
        plain = not any(sign in "".join(texts) for texts in columns for sign in _TO_QUOTE)
        if plain and len(columns) > 1:
            # four times as fast as the writer, which looks at every sign of every cell
            yield "\r\n".join(map(",".join, zip(*columns, strict=True))) + "\r\n"
        else:
            yield _written(zip(*columns, strict=True))


def _written(rows: Iterable[Sequence[str]]) -> str:
    out = io.StringIO()
    csv.writer(out).writerows(rows)
    return out.getvalue()


def _texts(kind: Kind, cells: Sequence[Any]) -> list[str]:
    """A column's cells as they stand in the file: nothing is an empty cell."""
    if kind in {"integer", "number"}:
        return ["" if cell is None else repr(cell) for cell in cells]
    if kind == "binary":
        return ["" if cell is None else base64.b64encode(cell).decode() for cell in cells]
    return ["" if cell is None else cell for cell in cells]


class Package:
    """A package that is read. Raises BadInput, on opening and on reading, with where and why."""

    def __init__(self, path: Path) -> None:
        try:
            self._zip = zipfile.ZipFile(path)
            found = self._zip.getinfo(DESCRIPTOR)
            if found.file_size > MOST_DESCRIPTOR:
                raise BadInput(f"{DESCRIPTOR} is too large")
            said = json.loads(self._zip.read(found))
            self.schema = int(said["lepidos"]["schema"])
            paths = {str(r["name"]): str(r["path"]) for r in said["resources"]}
        except (zipfile.BadZipFile, OSError, EOFError) as error:
            raise BadInput(f"That is no zip file that can be read: {error}") from error
        except (KeyError, TypeError, ValueError, AttributeError, RecursionError) as error:
            raise BadInput("That is not a bundle of Lepidos: its description is missing") from error
        self.tables = tuple(paths)
        self._entries: dict[str, zipfile.ZipInfo] = {}
        for name, where in paths.items():
            if where != f"data/{name}.csv" or where not in self._zip.namelist():
                raise BadInput(f"{DESCRIPTOR} names the table “{name[:40]}”, which is not there")
            self._entries[name] = self._zip.getinfo(where)
        self.bytes = sum(entry.file_size for entry in self._entries.values())
        if self.bytes > MOST_BYTES:
            raise BadInput(f"The bundle is more than {MOST_BYTES // 10**9} GB unpacked")

    def size(self, table: str) -> int:
        """Of a table, in bytes."""
        return self._entries[table].file_size

    def columns(self, table: str) -> tuple[str, ...]:
        """The names at the head of a table."""
        with self._open(table) as text:
            return tuple(self._head(csv.reader(text), table))

    def rows(self, table: str, kinds: Sequence[tuple[Kind, bool]]) -> Iterator[tuple[int, Row]]:
        """The line on which each row ends, and its values.

        Args: kinds: of each column what it holds, and whether it may hold nothing.
        """
        csv.field_size_limit(MOST_CELL)
        with self._open(table) as text:
            reader = csv.reader(text)
            names = self._head(reader, table)
            read = [_reader(kind, nullable) for kind, nullable in kinds]
            while True:
                try:
                    cells = next(reader, None)
                except _UNREADABLE as error:
                    raise BadInput(
                        f"data/{table}.csv, after line {reader.line_num}: {error}"
                    ) from error
                if cells is None:
                    return
                if len(cells) != len(names):
                    raise BadInput(
                        f"data/{table}.csv, line {reader.line_num}: {len(cells)} cells, "
                        f"{len(names)} columns"
                    )
                try:
                    values = [f(cell) for f, cell in zip(read, cells, strict=True)]
                except (ValueError, OverflowError):
                    raise BadInput(_which(table, reader.line_num, names, cells, kinds)) from None
                yield reader.line_num, values

    def close(self) -> None:
        """Let go of the file."""
        self._zip.close()

    def _open(self, table: str) -> io.TextIOWrapper:
        return io.TextIOWrapper(self._zip.open(self._entries[table]), "utf-8", newline="")

    @staticmethod
    def _head(reader: Any, table: str) -> list[str]:
        try:
            names: list[str] = next(reader, [])
        except _UNREADABLE as error:
            raise BadInput(f"data/{table}.csv cannot be read: {error}") from error
        if not names or len(set(names)) != len(names):
            raise BadInput(f"data/{table}.csv has no line with the names of its columns")
        return names


def _which(
    table: str,
    line: int,
    names: Sequence[str],
    cells: Sequence[str],
    kinds: Sequence[tuple[Kind, bool]],
) -> str:
    """The sentence about the first cell that cannot be read."""
    for name, cell, (kind, nullable) in zip(names, cells, kinds, strict=True):
        try:
            _reader(kind, nullable)(cell)
        except (ValueError, OverflowError):
            return f"data/{table}.csv, line {line}, {name}: “{cell[:40]}” is not a {_WORDS[kind]}"
    return f"data/{table}.csv, line {line} cannot be read"


_WORDS: dict[Kind, str] = {
    "text": "text",
    "integer": "whole number",
    "number": "number",
    "binary": "base64 text",
    "moment": "time in UTC, as in 2026-07-14T12:10:00.000Z",
    "day": "date, as in 2026-07-14",
}


def _reader(kind: Kind, nullable: bool) -> Callable[[str], Any]:
    one = _READERS[kind]
    return (lambda cell: one(cell) if cell else None) if nullable else one


def _number(cell: str) -> float:
    value = float(cell)
    if not math.isfinite(value):
        raise ValueError(cell)
    return value


def _moment(cell: str) -> str:
    found = datetime.fromisoformat(cell)
    offset = found.utcoffset()
    # kept as it stands, so it has to stand as we write it: the text is what times are sorted by
    if offset is None or offset or len(cell) != 24 or not cell.endswith("Z"):
        raise ValueError(cell)
    return cell


def _day(cell: str) -> str:
    if len(cell) != 10:
        raise ValueError(cell)
    date.fromisoformat(cell)
    return cell


def _binary(cell: str) -> bytes:
    try:
        return base64.b64decode(cell, validate=True)
    except binascii.Error as error:
        raise ValueError(cell) from error


_READERS: dict[Kind, Callable[[str], Any]] = {
    "text": str,
    "integer": int,
    "number": _number,
    "binary": _binary,
    "moment": _moment,
    "day": _day,
}

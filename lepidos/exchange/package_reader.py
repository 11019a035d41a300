"""Reading a data package: its tables row by row, each cell as what its column holds."""

import base64
import binascii
import csv
import io
import json
import math
import zipfile
import zlib
from collections.abc import Callable, Iterator, Sequence
from datetime import date, datetime
from pathlib import Path
from typing import Any

from lepidos.core.errors import BadInput
from lepidos.exchange.data_package import DESCRIPTOR, Kind, Row

MAX_DESCRIPTOR = 2_000_000  # bytes
MAX_BYTES = 4_000_000_000  # of all tables, unpacked
MAX_CELL = 8_000_000
# One limit for the whole process, set once: two bundles at a time gave each other theirs back.
# Files of people have a limit of their own, see `table_csv`.
csv.field_size_limit(MAX_CELL)
_UNREADABLE = (csv.Error, UnicodeDecodeError, zipfile.BadZipFile, zlib.error, EOFError)


class Package:
    """A package that is read. Raises BadInput, on opening and on reading, with where and why."""

    def __init__(self, path: Path) -> None:
        try:
            self._zip = zipfile.ZipFile(path)
            found = self._zip.getinfo(DESCRIPTOR)
            if found.file_size > MAX_DESCRIPTOR:
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
        if self.bytes > MAX_BYTES:
            raise BadInput(f"The bundle is more than {MAX_BYTES // 10**9} GB unpacked")

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

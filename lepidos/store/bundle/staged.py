"""A log that came from elsewhere, in a file of its own, before any of it touches the crew's.

It is filled at the schema that it was written with and then migrated forward like any data file,
so that an older log comes in by the same steps.
"""

import json
import sqlite3
from collections.abc import Callable, Iterable
from pathlib import Path

from lepidos.core.errors import BadInput
from lepidos.store.base.rows import plain_sql
from lepidos.store.bundle.whole_log import CHUNK, Row, TableShape, chunks, shapes
from lepidos.store.file import migrate

# Before this schema what is true of a fish now could not be derived from its rows alone.
OLDEST = 10


class StagedLog:
    """An empty log at a schema, to be filled table by table, then `finish`ed."""

    def __init__(self, path: Path, schema: int) -> None:
        """Raises BadInput for a schema that cannot be read."""
        newest = migrate.steps()[-1][0]
        if schema > newest:
            raise BadInput(
                f"The bundle was written by a newer Lepidos (schema {schema}; this one knows "
                f"up to {newest}). Update this one first."
            )
        if schema < OLDEST:
            raise BadInput(f"The bundle's schema {schema} is too old to be read")
        path.unlink(missing_ok=True)
        self.path, self._schema = path, schema
        self._file = sqlite3.connect(path, check_same_thread=False, isolation_level=None)
        for pragma in ("journal_mode = OFF", "synchronous = OFF", "foreign_keys = OFF"):
            self._file.execute(f"PRAGMA {pragma}")
        migrate.up(self._file, schema)
        self.shapes = {shape.name: shape for shape in shapes(self._file)}
        # nothing is looked up while it is filled
        query = "SELECT name, sql FROM sqlite_schema WHERE type = 'index' AND sql IS NOT NULL"
        self._indexes = dict(self._file.execute(query))
        for name in self._indexes:
            self._file.execute(f"DROP INDEX {name}")
        self._file.execute("BEGIN")

    def fill(
        self,
        name: str,
        columns: tuple[str, ...],
        rows: Iterable[tuple[int, Row]],
        told: Callable[[int], None],
    ) -> int:
        """Write rows, each with the line it stood on; how many. `told` is called now and then.

        Raises BadInput, with table and line, for a row that cannot be of that table.
        """
        marks = ", ".join("?" * len(columns))
        names = ", ".join(f'"{column}"' for column in columns)
        insert = f"INSERT INTO {name} ({names}) VALUES ({marks})"  # noqa: S608 - checked before
        count = 0
        for some in chunks(iter(rows), CHUNK):
            try:
                self._file.executemany(insert, [row for _, row in some])
            except (sqlite3.Error, OverflowError):
                at = columns.index(self.shapes[name].key)
                self._one_by_one(name, insert, at, some)
            count += len(some)
            told(count)
        return count

    def _one_by_one(self, name: str, insert: str, at: int, some: list[Row]) -> None:
        """Find the row that was refused; the rest of it is thrown away with the file."""
        query = f"SELECT {self.shapes[name].key} FROM {name}"  # noqa: S608 - checked before
        known = {key for (key,) in self._file.execute(query)}
        for line, row in some:
            if row[at] in known:
                continue
            try:
                self._file.execute(insert, row)
            except (sqlite3.Error, OverflowError) as error:
                raise BadInput(f"data/{name}.csv, line {line}: {error}") from error
        raise BadInput(f"data/{name}.csv: a row stands there twice")

    def finish(self) -> None:
        """Check what refers to what, and bring it to today's schema. Raises BadInput."""
        self._file.execute("COMMIT")
        for table, row, parent, _ in self._file.execute("PRAGMA foreign_key_check"):
            raise BadInput(
                f"data/{table}.csv, row {row}: the {parent} that it belongs to is not in the bundle"
            )
        try:
            if self._schema < migrate.steps()[-1][0]:
                for sql in self._indexes.values():
                    self._file.execute(sql)
            migrate.up(self._file)
        except sqlite3.Error as error:
            raise BadInput(f"The bundle could not be brought to today's schema: {error}") from error
        self.shapes = {shape.name: shape for shape in shapes(self._file)}

    def shape(self, name: str) -> TableShape | None:
        """A table of the log, None when it has none of that name."""
        return self.shapes.get(name)

    @property
    def file(self) -> sqlite3.Connection:
        """The open file, for reading once finished."""
        return self._file

    def close(self) -> None:
        """Throw it away."""
        self._file.close()
        self.path.unlink(missing_ok=True)


def known_here(table: str, keys: list[str]) -> int:
    """How many of the rows the open file has. `table`: trip, fish or bag."""
    query = f"SELECT count(*) FROM {table} WHERE id IN (SELECT value FROM json_each(?))"  # noqa: S608
    return int(plain_sql(query, json.dumps(keys))[0][0])

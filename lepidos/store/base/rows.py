"""What every repository does with a table: read, find, add and change rows, as frozen records."""

from collections.abc import Callable
from functools import cache
from typing import Any

from peewee import SQL, ModelSelect

from lepidos.core.errors import Unknown
from lepidos.store.schema import TABLES, TripTable
from lepidos.store.schema.base import Table

Values = tuple[Any, ...]


def columns(model: type[Table]) -> tuple[str, ...]:
    """The names of a table's columns as its records have them: `trip_id` for a trip."""
    fields = model._meta.sorted_fields
    return tuple(getattr(field, "object_id_name", None) or field.name for field in fields)


def _maker(model: type[Table]) -> Callable[[Values], Any]:
    """Makes a record of a whole row as it comes from SQLite."""
    record = model.record
    converted = [
        (n, field.python_value)
        for n, field in enumerate(model._meta.sorted_fields)
        if type(field).__name__ in {"Instant", "Day", "BooleanField"}
    ]

    def make(row: Values) -> Any:
        values = list(row)
        for n, convert in converted:
            values[n] = convert(values[n])
        return record._make(values)

    return make


MAKERS: dict[type[Table], Callable[[Values], Any]] = {
    model: _maker(model) for model in TABLES if hasattr(model, "record")
}


def read(query: ModelSelect) -> list[Any]:
    """The records of a query for whole rows of one table."""
    record = query.model.record
    return [record._make(row) for row in query.tuples()]


def values(query: ModelSelect) -> list[Values]:
    """The rows of any query as plain tuples."""
    return [tuple(row) for row in query.tuples()]


def among(column: Any, hole: object) -> Any:
    """A condition: the column is one of the values of a JSON list. A `Ready` query's `IN`."""
    return column.in_(SQL("(SELECT value FROM json_each(?))", (hole,)))


def plain_sql(text: str, *given: object) -> list[Values]:
    """The rows of a query written out: for those on every page, whose building would cost more."""
    return list(TripTable._meta.database.execute_sql(text, given))


def many_sql(text: str, rows: list[Values]) -> None:
    """Write one statement for many rows, inside an open transaction."""
    TripTable._meta.database.connection().executemany(text, rows)


def put_many(model: type[Table], rows: list[dict[str, object]]) -> None:
    """Write whole rows, each by its fields' names, over those with their keys: what is derived.

    In SQL of our own, since the query builder takes longer over many rows than SQLite does.
    """
    fields = model._meta.sorted_fields
    names, marks = ", ".join(f.column_name for f in fields), ", ".join("?" * len(fields))
    many_sql(
        f"INSERT OR REPLACE INTO {model._meta.table_name} ({names}) VALUES ({marks})",  # noqa: S608
        [tuple(f.db_value(row[f.name]) for f in fields) for row in rows],
    )


def first(query: ModelSelect) -> Any:
    """The first record of a query for whole rows, or None."""
    return next(iter(read(query.limit(1))), None)


def find(model: type[Table], row_id: str, what: str) -> Any:
    """The record of that id, undone or not. Raises Unknown, which names `what`."""
    found = plain_sql(_by_key(model), row_id)
    if not found:
        raise Unknown(what, row_id)
    return MAKERS[model](found[0])


@cache
def _by_key(model: type[Table]) -> str:
    names = ", ".join(f.column_name for f in model._meta.sorted_fields)
    key = model._meta.primary_key.column_name
    return f"SELECT {names} FROM {model._meta.table_name} WHERE {key} = ?"  # noqa: S608


def add(model: type[Table], **values: object) -> Any:
    """Write a new row; its record. Raises KeyError for a name that is not one of its columns."""
    fields = model._meta.combined  # by a field's name, and by its column's
    given = {fields[name]: value for name, value in values.items()}
    for field in model._meta.sorted_fields:
        if field.default is not None:
            given.setdefault(field, field.default)
    plain_sql(
        _insert(model, tuple(field.column_name for field in given)),
        *(field.db_value(value) for field, value in given.items()),
    )
    return model.record(*(given.get(field) for field in model._meta.sorted_fields))


@cache
def _insert(model: type[Table], names: tuple[str, ...]) -> str:
    """In SQL of our own: building such a query each time cost a third of what a landing takes."""
    marks = ", ".join("?" * len(names))
    return f"INSERT INTO {model._meta.table_name} ({', '.join(names)}) VALUES ({marks})"  # noqa: S608


def change(model: type[Table], record: Any, **values: object) -> Any:
    """Write new values into a record's row; the record as it is then.

    A table with revisions counts this one. Raises ValueError for a name that is not one of its
    columns.
    """
    if "revision" in record._fields:
        values["revision"] = record.revision + 1
    changed = record._replace(**values)
    fields = dict(zip(columns(model), model._meta.sorted_fields, strict=True))
    update = {fields[name]: value for name, value in values.items()}
    model.update(update).where(model._meta.primary_key == record.id).execute()
    return changed


def split(row: Values, *tables: type[Table]) -> tuple[Any, ...]:
    """The records of a row that joins whole rows of several tables, one after the other."""
    found, at = [], 0
    for model in tables:
        end = at + len(model._meta.sorted_fields)
        found.append(model.record._make(row[at:end]))
        at = end
    return tuple(found)

"""Queries whose text is made once.

peewee makes a query's SQL again each time it runs, and that costs several times what running it
does. The bench asks the same few questions after every touch, so theirs are kept ready.
"""

import inspect
from collections.abc import Callable
from typing import Any, Generic, TypeVar

from peewee import ModelSelect

from lepidos.store.base.rows import MAKERS
from lepidos.store.file.snapshot import read_once
from lepidos.store.schema.base import Table

Record = TypeVar("Record")


class Ready(Generic[Record]):
    """A query for whole rows of one table, made once, with holes where its values go.

    `make` is given one hole for each of its parameters and may only compare with them.
    """

    def __init__(self, make: Callable[..., ModelSelect]) -> None:
        self._make = make
        self._made: tuple[type[Table], str, tuple[Any, ...]] | None = None
        self._holes = [f"\0hole {name}" for name in inspect.signature(make).parameters]

    def __call__(self, *values: object) -> list[Record]:
        """The records for these values, one a parameter."""
        return list(read_once((id(self), values), lambda: self._read(values)))

    def _read(self, values: tuple[object, ...]) -> list[Record]:
        # two threads may make it twice: both come to the same
        model, sql, fixed = self._made = self._made or self._text()
        given = dict(zip(self._holes, values, strict=True))
        filled = [given.get(value, value) for value in fixed]
        rows = model._meta.database.execute_sql(sql, filled)
        return [MAKERS[model](row) for row in rows]

    def first(self, *values: object) -> Record | None:
        """The first record, or None."""
        return next(iter(self(*values)), None)

    def _text(self) -> tuple[type[Table], str, tuple[Any, ...]]:
        query = self._make(*self._holes)
        sql, params = query.sql()
        if missing := set(self._holes) - set(params):
            raise ValueError(f"the query does not use {missing}")
        return query.model, sql, tuple(params)

"""What is written over is kept: a correction leaves a trace, and what was there can come back."""

import json
from collections.abc import Iterable
from datetime import datetime
from sqlite3 import IntegrityError as SqliteIntegrityError

from peewee import IntegrityError

from lepidos.core.errors import Conflict
from lepidos.store import records
from lepidos.store.base import entries
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import plain_sql, read
from lepidos.store.schema import TABLES, EarlierTable
from lepidos.store.schema.base import Table

# what an act may write over: no other table is put back, whatever a row of `earlier` says
WRITTEN_OVER = frozenset(
    {"trip", "person", "party", "fish", "measurement", "rule_card", "place", "board", "hold",
     "own_guide", "setting", "undo"}
)  # fmt: skip
_BY_NAME: dict[str, type[Table]] = {
    model._meta.table_name: model for model in TABLES if model._meta.table_name in WRITTEN_OVER
}
# rows of these are never thrown away: they are marked as undone, see `entries.undo`
LEDGER = frozenset({"fish", "measurement"})


class Act:
    """One act that writes over rows. In the transaction of what it does."""

    def __init__(self, ids: IdMaker, at: datetime) -> None:
        self.id = ids.new(at)
        self._ids, self._at = ids, at

    def keep(self, table: str, row_ids: Iterable[str]) -> None:
        """Keep rows that are about to be written over or thrown away; what is not there is left."""
        for row_id in row_ids:
            if (before := _as_it_is(table, row_id)) is not None:
                self._add(table, row_id, json.dumps(before))

    def made(self, table: str, row_ids: Iterable[str]) -> None:
        """Note rows that this act made."""
        for row_id in row_ids:
            self._add(table, row_id, None)

    def _add(self, table: str, row_id: str, before: str | None) -> None:
        values = {"act": self.id, "of_table": table, "row_id": row_id, "before": before}
        add_row(EarlierTable, id=self._ids.new(self._at), at=self._at, **values)


def put_back(ids: IdMaker, at: datetime, act: str) -> list[tuple[str, str]]:
    """Undo an act: every row is again what it was. The rows, by table and id, last written first.

    Raises Conflict where a row was written over again since, or others refer to a row that the
    act made.
    """
    rows = of_act(act)[::-1]
    for row in rows:
        if row.of_table not in WRITTEN_OVER:
            raise Conflict("That cannot be undone")
        if _later(row):
            raise Conflict("That was changed again since; undo the later change first")
    for row in rows:
        _put_back_one(ids, at, row)
    entries.undo(ids, "change", act, at)
    return [(row.of_table, row.row_id) for row in rows]


def of_act(act: str) -> list[records.Earlier]:
    """All that an act wrote over, in its order."""
    return read(EarlierTable.select().where(EarlierTable.act == act).order_by(EarlierTable.id))


def of_row(table: str, row_id: str) -> list[records.Earlier]:
    """All that a row was before, oldest first."""
    same = (EarlierTable.of_table == table) & (EarlierTable.row_id == row_id)
    return read(EarlierTable.select().where(same).order_by(EarlierTable.id))


def _as_it_is(table: str, row_id: str) -> dict[str, object] | None:
    names = columns_of(table)
    query = f"SELECT {', '.join(names)} FROM {table} WHERE {_key(table)} = ?"  # noqa: S608
    found = plain_sql(query, row_id)
    return dict(zip(names, found[0], strict=True)) if found else None


def columns_of(table: str) -> list[str]:
    """The names of a table's columns in the file."""
    return [field.column_name for field in _BY_NAME[table]._meta.sorted_fields]


def _key(table: str) -> str:
    return str(_BY_NAME[table]._meta.primary_key.column_name)


def _later(row: records.Earlier) -> bool:
    others = [r for r in of_row(row.of_table, row.row_id) if r.id > row.id and r.act != row.act]
    return any(not entries.is_undone(other.act) for other in others)


def _put_back_one(ids: IdMaker, at: datetime, row: records.Earlier) -> None:
    table, key = row.of_table, _key(row.of_table)
    if row.before is None and table in LEDGER:
        if not entries.is_undone(row.row_id):
            entries.undo(ids, table, row.row_id, at)
        return
    try:
        if row.before is None:
            plain_sql(f"DELETE FROM {table} WHERE {key} = ?", row.row_id)  # noqa: S608
            return
        known = columns_of(table)  # never the names that a row brings along
        values = {name: v for name, v in json.loads(row.before).items() if name in known}
        now = _as_it_is(table, row.row_id)
        if "revision" in values:  # a later one wins where two files meet
            values["revision"] = (now or values)["revision"] + 1
        names, marks = ", ".join(values), ", ".join("?" * len(values))
        sets = ", ".join(f"{name} = excluded.{name}" for name in values if name != key)
        plain_sql(
            f"INSERT INTO {table} ({names}) VALUES ({marks}) "  # noqa: S608
            f"ON CONFLICT ({key}) DO UPDATE SET {sets}",
            *values.values(),
        )
    except (IntegrityError, SqliteIntegrityError) as error:
        raise Conflict("Something rests on it already; undo that first") from error

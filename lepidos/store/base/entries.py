"""What was done, once each, and what was undone."""

from datetime import datetime
from typing import NamedTuple

from peewee import SQL

from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import first, read
from lepidos.store.file.snapshot import read_once
from lepidos.store.schema.entries import EntryTable, UndoTable

_BY_KEY: Ready[records.Entry] = Ready(lambda key: EntryTable.select().where(EntryTable.key == key))
_UNDONE: Ready[records.Undo] = Ready(
    lambda target: UndoTable.select().where(UndoTable.target_id == target).limit(1)
)


def by_key(key: str) -> records.Entry | None:
    """The entry that a request with this key made, if it was here before."""
    return _BY_KEY.first(key)


def last_like(action: str, digest: str) -> records.Entry | None:
    """The last entry that did the same, under whatever key."""
    same = (EntryTable.action == action) & (EntryTable.digest == digest)
    found: records.Entry | None = first(EntryTable.select().where(same).order_by(SQL("rowid DESC")))
    return found


def add(**values: object) -> records.Entry:
    """Record a use case; in the same transaction as what it did."""
    return add_row(EntryTable, **values)


class Latest(NamedTuple):
    """What was done last in the whole file, and the latest time at which anything was.

    `key` stands for the state of the file. A clock that went back is before `time`.
    """

    key: str
    sentence: str
    at: datetime
    time: datetime


def latest() -> Latest | None:
    """None in an empty file."""
    return read_once("latest", _latest)


def _latest() -> Latest | None:
    # plain SQL: every page asks this, and building the query would cost more than it
    query = (
        "SELECT key, sentence, at, (SELECT max(at) FROM entry) FROM entry "
        "ORDER BY rowid DESC LIMIT 1"
    )
    row = EntryTable._meta.database.execute_sql(query).fetchone()
    if row is None:
        return None
    return Latest(row[0], row[1], *(EntryTable.at.python_value(text) for text in row[2:]))


def newest(limit: int) -> list[records.Entry]:
    """What was done last, the last first."""
    return read(EntryTable.select().order_by(SQL("rowid DESC")).limit(limit))


def last_key() -> str:
    """The key of what was done last, "" when nothing was: it stands for the state of the file."""
    found = latest()
    return found.key if found else ""


def last_key_of_order(quiet: tuple[str, ...], but: str) -> str:
    """The key of the last entry whose action is `but` or begins with none of the `quiet` names, and
    how many fish are at the table: what the order of work and the cold of the fish stand on.
    """
    # plain SQL, with names written out: the partial index counts the fish that are at the table
    begins = " OR ".join(f"action LIKE '{name}.%'" for name in quiet)
    loud = f"action = '{but}' OR NOT ({begins})"
    latest = f"SELECT key FROM entry WHERE {loud} ORDER BY rowid DESC LIMIT 1"  # noqa: S608
    query = f"SELECT ({latest}), (SELECT count(*) FROM fish_now WHERE stage = 'table')"  # noqa: S608
    key, count = EntryTable._meta.database.execute_sql(query).fetchone()
    return f"{key}-{count}"


def latest_for(subject_id: str) -> records.Entry | None:
    """The entry that made this row."""
    found: records.Entry | None = first(
        EntryTable.select()
        .where(EntryTable.subject_id == subject_id, EntryTable.undoes == "")
        .order_by(SQL("rowid").desc())
    )
    return found


def undo(ids: IdMaker, kind: str, target_id: str, at: datetime) -> records.Undo:
    """Undo a row. The caller has checked that it can be."""
    return add_row(UndoTable, id=ids.new(at), kind=kind, target_id=target_id, at=at)


def is_undone(target_id: str) -> bool:
    """Whether a row was undone."""
    return _UNDONE.first(target_id) is not None


def undone_among(target_ids: list[str]) -> set[str]:
    """Those of the rows that were undone."""
    if not target_ids:
        return set()
    rows = UndoTable.select(UndoTable.target_id).where(UndoTable.target_id.in_(target_ids))
    return {row.target_id for row in rows}

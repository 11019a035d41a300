"""One name for one thing where two logs meet, and two names where two things have one."""

import json
import sqlite3
from collections import Counter
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from functools import cache
from typing import Any

from peewee import ForeignKeyField

from lepidos.store.base.rows import plain_sql
from lepidos.store.bundle.whole_log import Row, TableShape, chunks
from lepidos.store.schema import TABLES

# Things of one name that are one thing.
SAME_NAME = {"person": ("trip_id", "name"), "party": ("trip_id", "name"), "place": ("name",)}
# Columns that hold keys of rows, or codes of bags, without being bound to a table.
LOOSE = {"entry": ("subject_id", "undoes"), "undo": ("target_id",), "share_rule": ("shares",),
         "meal": ("codes",), "stocktake": ("missing", "strange")}  # fmt: skip
LOOSE_HERE = {"setting": ("name",)}  # a machine's own: "log written", and the place's key
LETTERS = "bcdefghijkmnpqrstuvwxyz"
MAX_TOLD = 200


@dataclass
class Report:
    """What met what: by table rows that are new, that were here already, that were changed by the
    other log; and a sentence for each thing that somebody should look at.
    """

    new: Counter[str] = field(default_factory=Counter)
    same: Counter[str] = field(default_factory=Counter)
    changed: Counter[str] = field(default_factory=Counter)
    met: list[str] = field(default_factory=list)
    touched: dict[str, set[str]] = field(default_factory=lambda: {"fish": set(), "bag": set()})

    def say(self, sentence: str) -> None:
        """Something that somebody should look at; the first few hundred are kept."""
        if len(self.met) < MAX_TOLD:
            self.met.append(sentence)


class Names:
    """Keys and codes that are others from here on, in rows that come in."""

    def __init__(self) -> None:
        self.keys: dict[str, str] = {}
        self.codes: dict[str, str] = {}  # of bags, in lists of codes
        self.of_row: dict[tuple[str, str], dict[str, Any]] = {}  # by table and key: new values

    def apply(self, shape: TableShape, row: Row) -> Row:
        """A row under the names that hold."""
        if not (self.keys or self.codes or self.of_row):
            return row
        given = self.of_row.get((shape.name, row[shape.at(shape.key)]))
        values = list(row)
        if given:
            for name, value in given.items():
                values[shape.at(name)] = value
        if self.keys:
            bound = {column for column, _ in shape.references} | {shape.key}
            for n, name in enumerate(shape.names):
                if name in bound:
                    values[n] = self.keys.get(values[n], values[n])
        for name in LOOSE.get(shape.name, ()):
            n = shape.at(name)
            for old, new in self.keys.items():
                values[n] = values[n].replace(old, new)
            for old, new in self.codes.items():
                values[n] = values[n].replace(f'"{old}"', f'"{new}"')
        return tuple(values)


def one_thing(
    staged: sqlite3.Connection,
    table: str,
    columns: tuple[str, ...],
    names: Names,
    report: Report,
) -> None:
    """Things of one name on both devices: both go by the earlier key."""
    query = f"SELECT id, {', '.join(columns)} FROM {table}"  # noqa: S608 - names of our own
    mine = {row[1:]: row[0] for row in plain_sql(query)}
    for key, *natural in staged.execute(query):
        here = mine.get(tuple(natural))
        if here is None or here == key:
            continue
        kept, dropped = min(here, key), max(here, key)
        report.say(f"{table.capitalize()} {natural[-1]} was on both: one now")
        if dropped == key:
            names.keys[key] = kept
        else:
            _rename_here(table, dropped, kept)


def _rename_here(table: str, old: str, new: str) -> None:
    """A row of the open file, and all that refers to it, under another key."""
    plain_sql(f"UPDATE {table} SET id = ? WHERE id = ?", new, old)  # noqa: S608
    for other, column in _refer_to(table):
        plain_sql(f"UPDATE {other} SET {column} = ? WHERE {column} = ?", new, old)  # noqa: S608
    for other, columns in (LOOSE | LOOSE_HERE).items():
        for column in columns:
            plain_sql(
                f"UPDATE {other} SET {column} = replace({column}, ?, ?) "  # noqa: S608
                f"WHERE instr({column}, ?)", old, new, old,
            )  # fmt: skip


@cache
def _refer_to(table: str) -> tuple[tuple[str, str], ...]:
    """The columns of the file that refer to a table, in the machine's own tables, too."""
    return tuple(
        (model._meta.table_name, field.column_name)
        for model in TABLES
        for field in model._meta.sorted_fields
        if isinstance(field, ForeignKeyField) and field.rel_model._meta.table_name == table
    )


def codes_of_fish(staged: sqlite3.Connection, names: Names, report: Report) -> None:
    """Two fish of a trip with one code, each landed on its own device: the later is renamed."""
    query = "SELECT trip_id, code, id, revision FROM fish"
    on_trips = f"{query} WHERE trip_id IN (SELECT value FROM json_each(?))"  # noqa: S608
    theirs = {row[2]: row for row in staged.execute(query)}
    trips = json.dumps(list({row[0] for row in theirs.values()}))
    mine = {row[2]: row for row in plain_sql(on_trips, trips)}
    # of a fish that both have, the one that holds gives the code
    both = {
        key: max((r for r in (mine.get(key), theirs.get(key)) if r), key=lambda r: (r[3], r[1]))
        for key in {*mine, *theirs}
    }
    taken = {(row[0], row[1]) for row in both.values()}
    owner: dict[tuple[str, str], str] = {}
    for key in sorted(both):
        trip, code, _, revision = both[key]
        if owner.setdefault((trip, code), key) == key:
            continue
        body = code
        fresh = next(body + c for c in _endings() if (trip, body + c) not in taken)
        taken.add((trip, fresh))
        owner[trip, fresh] = key
        report.say(f"Two fish are called {code}: the one that was landed later is {fresh} now")
        new = {"code": fresh, "revision": revision + 1}
        names.of_row["fish", key] = new
        if key in mine:
            plain_sql(
                "UPDATE fish SET code = ?, revision = ? WHERE id = ?", fresh, revision + 1, key
            )


def _endings() -> Iterable[str]:
    yield from LETTERS
    yield from (a + b for a in LETTERS for b in LETTERS)


def codes_of_bags(
    staged: sqlite3.Connection,
    new_code: Callable[[str], str],
    names: Names,
    report: Report,
) -> None:
    """Two bags with one code, drawn by chance: the later needs another label."""
    for some in chunks(staged.execute("SELECT code, id FROM bag ORDER BY id")):
        theirs: dict[str, str] = dict(some)
        here = plain_sql(
            "SELECT code, id FROM bag WHERE code IN (SELECT value FROM json_each(?))",
            json.dumps(list(theirs)),
        )
        for code, mine in here:
            other = theirs[code]
            if other == mine:
                continue
            later = max(mine, other)
            fresh = new_code(later)
            report.say(f"Two bags have the code {code}: the later is {fresh} now; label it again")
            if later == other:
                names.of_row["bag", other] = {"code": fresh}
                names.codes[code] = fresh
            else:
                plain_sql("UPDATE bag SET code = ? WHERE id = ?", fresh, mine)

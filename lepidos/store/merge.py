"""Two logs into one: every row of both, once; the same whichever comes in first.

Rows that are only ever added are joined by their keys. Of a row that both have and that differs,
the one that was corrected more often holds, then the later, then the greater text: a rule that
does not depend on which file asks. What two devices named alike is one thing (a party of a trip, a
person, a place), under the earlier key; where two different things got one name (a fish's code on
a trip, a bag's code), the later is renamed.
"""

import json
import sqlite3
from collections import Counter
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import Any

from lepidos.store.rows import many_sql, plain_sql
from lepidos.store.whole_log import Row, TableShape, chunks, rows_of, shapes

# Things of one name that are one thing.
SAME_NAME = {"person": ("trip_id", "name"), "party": ("trip_id", "name"), "place": ("name",)}
# One row for each of these; the later said holds.
ONE_EACH = {"setting": ("name",), "own_guide": ("kind", "key"), "rule_card": ("species", "area"),
            "undo": ("target_id",)}  # fmt: skip
# Columns that hold keys of rows, or codes of bags, without being bound to a table.
LOOSE = {"entry": ("subject_id", "undoes"), "undo": ("target_id",), "share_rule": ("shares",),
         "setting": ("name",), "meal": ("codes",), "stocktake": ("missing", "strange")}  # fmt: skip
LETTERS = "bcdefghijkmnpqrstuvwxyz"
MOST_TOLD = 200

Told = Callable[[str, float], None]


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
        if len(self.met) < MOST_TOLD:
            self.met.append(sentence)


def merge(staged: sqlite3.Connection, new_code: Callable[[str], str], told: Told) -> Report:
    """Bring a finished staged log into the open file, inside a transaction that writes.

    Args:
        new_code: Another code for a bag, made from its key alone.
        told: Called with a table and the part of all rows that are done; what it raises ends it.
    """
    plain_sql("PRAGMA defer_foreign_keys = 1")
    tables = shapes(staged)
    report, names = Report(), _Names()
    for table, columns in SAME_NAME.items():
        _one_thing(staged, table, columns, tables, names, report)
    _codes_of_fish(staged, names, report)
    _codes_of_bags(staged, new_code, names, report)
    total = sum(staged.execute(f"SELECT count(*) FROM {t.name}").fetchone()[0] for t in tables)  # noqa: S608
    done = 0
    for shape in tables:
        for some in chunks(rows_of(staged, shape)):
            told(shape.name, done / max(1, total))
            _bring_in(shape, [names.apply(shape, row) for row in some], report)
            done += len(some)
    _touch_undone(report)
    return report


class _Names:
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


def _one_thing(
    staged: sqlite3.Connection,
    table: str,
    columns: tuple[str, ...],
    tables: Iterable[TableShape],
    names: _Names,
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
            _rename_here(tables, table, dropped, kept)


def _rename_here(tables: Iterable[TableShape], table: str, old: str, new: str) -> None:
    """A row of the open file, and all that refers to it, under another key."""
    plain_sql(f"UPDATE {table} SET id = ? WHERE id = ?", new, old)  # noqa: S608
    for shape in tables:
        for column, parent in shape.references:
            if parent == table:
                plain_sql(f"UPDATE {shape.name} SET {column} = ? WHERE {column} = ?", new, old)  # noqa: S608
        for column in LOOSE.get(shape.name, ()):
            plain_sql(
                f"UPDATE {shape.name} SET {column} = replace({column}, ?, ?) "  # noqa: S608
                f"WHERE instr({column}, ?)", old, new, old,
            )  # fmt: skip
    if table == "place":
        plain_sql("UPDATE bag_now SET place_id = ? WHERE place_id = ?", new, old)


def _codes_of_fish(staged: sqlite3.Connection, names: _Names, report: Report) -> None:
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


def _codes_of_bags(
    staged: sqlite3.Connection,
    new_code: Callable[[str], str],
    names: _Names,
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


def _bring_in(shape: TableShape, rows: list[Row], report: Report) -> None:
    at = shape.at(shape.key)
    columns = ", ".join(shape.names)
    keys = json.dumps([row[at] for row in rows])
    query = (
        f"SELECT {columns} FROM {shape.name} WHERE {shape.key} IN (SELECT value FROM json_each(?))"  # noqa: S608
    )
    mine = {row[at]: tuple(row) for row in plain_sql(query, keys)}
    fresh: list[Row] = []
    for row in rows:
        here = mine.get(row[at])
        if here is None:
            fresh.append(row)
        elif here == row:
            report.same[shape.name] += 1
        else:
            _both_differ(shape, here, row, report)
    if shape.name in ONE_EACH:
        fresh = _later_said(shape, fresh, report)
    marks = ", ".join("?" * len(shape.names))
    many_sql(f"INSERT INTO {shape.name} ({columns}) VALUES ({marks})", fresh)  # noqa: S608
    report.new[shape.name] += len(fresh)
    _touch(shape, fresh, report)


def _rank(shape: TableShape, row: Row) -> tuple[int, str, str]:
    """The greater of two rows holds."""
    named = dict(zip(shape.names, row, strict=True))
    return (named.get("revision", 0), named.get("at") or "", json.dumps(row, default=bytes.hex))


def _both_differ(shape: TableShape, mine: Row, theirs: Row, report: Report) -> None:
    held = max((mine, theirs), key=lambda row: _rank(shape, row))
    differ = [n for n, a, b in zip(shape.names, mine, theirs, strict=True) if a != b]
    told = [n for n in differ if n != "revision"]
    if told:
        values = "; ".join(
            f"{n} here {mine[shape.at(n)]}, there {theirs[shape.at(n)]}" for n in told[:3]
        )
        which = "the other's" if held is theirs else "this one's"
        report.say(f"One {shape.name.replace('_', ' ')} differs ({values}): {which} holds")
    if held is mine:
        report.same[shape.name] += 1
        return
    report.changed[shape.name] += 1
    sets = ", ".join(f"{name} = ?" for name in differ)
    plain_sql(
        f"UPDATE {shape.name} SET {sets} WHERE {shape.key} = ?",  # noqa: S608
        *[theirs[shape.at(name)] for name in differ],
        theirs[shape.at(shape.key)],
    )
    _touch(shape, [theirs], report)


def _later_said(shape: TableShape, rows: list[Row], report: Report) -> list[Row]:
    """Of rows of which the file has one each, those that hold; what they replace is taken out."""
    columns, kept = ONE_EACH[shape.name], []
    where = " AND ".join(f"{column} = ?" for column in columns)
    query = f"SELECT {', '.join(shape.names)} FROM {shape.name} WHERE {where}"  # noqa: S608
    for row in rows:
        natural = [row[shape.at(column)] for column in columns]
        here = plain_sql(query, *natural)
        if here and _rank(shape, tuple(here[0])) > _rank(shape, row):
            report.same[shape.name] += 1
            continue
        if here:
            plain_sql(f"DELETE FROM {shape.name} WHERE {where}", *natural)  # noqa: S608
        kept.append(row)
    return kept


def _touch(shape: TableShape, rows: list[Row], report: Report) -> None:
    """Fish and bags of which something new is known."""
    if not rows:
        return
    if shape.name in report.touched:
        at = shape.at(shape.key)
        report.touched[shape.name].update(row[at] for row in rows)
    for column, parent in shape.references:
        if parent in report.touched:
            at = shape.at(column)
            report.touched[parent].update(row[at] for row in rows if row[at])
    if shape.name == "undo":
        at = shape.at("target_id")
        report.touched.setdefault("undone", set()).update(row[at] for row in rows)


def _touch_undone(report: Report) -> None:
    """What was undone changes its fish or its bag."""
    undone = json.dumps(sorted(report.touched.get("undone", ())))
    for parent, tables in (("fish", ("measurement", "fact", "weighing")), ("bag", ("move",))):
        found = report.touched[parent]
        for table in tables:
            query = f"SELECT {parent}_id FROM {table} WHERE id IN (SELECT value FROM json_each(?))"  # noqa: S608
            found.update(key for (key,) in plain_sql(query, undone))
        query = f"SELECT id FROM {parent} WHERE id IN (SELECT value FROM json_each(?))"  # noqa: S608
        found.update(key for (key,) in plain_sql(query, undone))

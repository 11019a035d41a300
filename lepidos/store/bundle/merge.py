"""Two logs into one: every row of both, once; the same whichever comes in first.

Rows that are only ever added are joined by their keys. Of a row that both have and that differs,
the one that was corrected more often holds, then the later, then the greater text: a rule that
does not depend on which file asks. What two devices named alike is one thing (a party of a trip, a
person, a place), under the earlier key; where two different things got one name (a fish's code on
a trip, a bag's code), the later is renamed.
"""

import json
import sqlite3
from collections.abc import Callable

from lepidos.store.base.rows import many_sql, plain_sql
from lepidos.store.bundle.contradictions import touched
from lepidos.store.bundle.merge_names import (
    SAME_NAME,
    Names,
    Report,
    codes_of_bags,
    codes_of_fish,
    one_thing,
)
from lepidos.store.bundle.whole_log import Row, TableShape, chunks, rows_of, shapes

# One row for each of these; the later said holds.
ONE_EACH = {"own_guide": ("kind", "key"), "rule_card": ("species", "area"),
            "undo": ("target_id",)}  # fmt: skip
Told = Callable[[str, float], None]


def merge(staged: sqlite3.Connection, new_code: Callable[[str], str], told: Told) -> Report:
    """Bring a finished staged log into the open file, inside a transaction that writes.

    Args:
        new_code: Another code for a bag, made from its key alone.
        told: Called with a table and the part of all rows that are done; what it raises ends it.
    """
    plain_sql("PRAGMA defer_foreign_keys = 1")
    tables = shapes(staged)
    report, names = Report(), Names()
    for table, columns in SAME_NAME.items():
        one_thing(staged, table, columns, names, report)
    codes_of_fish(staged, names, report)
    codes_of_bags(staged, new_code, names, report)
    total = sum(staged.execute(f"SELECT count(*) FROM {t.name}").fetchone()[0] for t in tables)  # noqa: S608
    done = 0
    for shape in tables:
        for some in chunks(rows_of(staged, shape)):
            told(shape.name, done / max(1, total))
            _bring_in(shape, [names.apply(shape, row) for row in some], report)
            done += len(some)
    _touch_undone(report)
    return report


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
    fish, bags = touched(report.touched.get("undone", ()))
    report.touched["fish"] |= fish
    report.touched["bag"] |= bags

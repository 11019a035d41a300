"""A data file from elsewhere: nothing in it is taken on trust, and no right comes with it.

The file is looked at as a copy, before it takes the place of the crew's own: see `restore`.
"""

import re
import sqlite3
from contextlib import closing
from pathlib import Path

from lepidos.core.errors import BadInput
from lepidos.store.bundle.row_checks import check_table
from lepidos.store.bundle.whole_log import DERIVED, NOT_TOLD, OF_MACHINE, shapes, shapes_of
from lepidos.store.file import migrate

# `migration` tells of the file itself, and `file_mark` of the start that wrote it last
OF_THIS_MACHINE = tuple(name for name in OF_MACHINE if name not in {"migration", "file_mark"})
_SCHEMA = "SELECT type, name, tbl_name, sql FROM sqlite_schema WHERE name NOT LIKE 'sqlite_%'"

# What is true of a fish and of a bag now stands in a row beside it: one each, and of the same trip.
_DERIVED_ODD = (
    ("fish_now", "SELECT 1 FROM fish LEFT JOIN fish_now ON fish_now.fish_id = fish.id "
     "WHERE fish_now.trip_id IS NOT fish.trip_id OR fish_now.species IS NOT fish.species LIMIT 1"),
    ("bag_now", "SELECT 1 FROM bag LEFT JOIN bag_now ON bag_now.bag_id = bag.id "
     "WHERE bag_now.trip_id IS NOT bag.trip_id LIMIT 1"),
)  # fmt: skip


def check_schema(file: sqlite3.Connection) -> None:
    """Raise BadInput for anything in a file's schema that its version of Lepidos does not make.

    A trigger or a view of a stranger's would run with the first write. To be called first.
    """
    version = int(file.execute("PRAGMA user_version").fetchone()[0])
    migrate.check_known(Path(file.execute("PRAGMA database_list").fetchone()[2]), version)
    with closing(sqlite3.connect(":memory:")) as made:
        migrate.up(made, version)
        odd = sorted(_schema(file) ^ _schema(made))
        names = {name for (name,) in made.execute("SELECT name FROM migration")}
    if odd:
        kind, name, *_ = odd[0]
        raise BadInput(f"the {kind} “{str(name)[:40]}” is not as Lepidos makes it")
    # a step that is noted and was not taken would stop the start of a later Lepidos
    if {name for (name,) in file.execute("SELECT name FROM migration")} != names:
        raise BadInput("the steps noted in it are not those that lead to its schema")


def _schema(file: sqlite3.Connection) -> set[tuple[str, str, str, str]]:
    return {
        (kind, name, table, re.sub(r"--[^\n]*|\s+", " ", sql or "").replace("  ", " ").strip())
        for kind, name, table, sql in file.execute(_SCHEMA)
    }


def check_rows(file: sqlite3.Connection) -> None:
    """Raise BadInput for the first row that no form of the app would have made."""
    for table, row, parent, _ in file.execute("PRAGMA foreign_key_check"):
        raise BadInput(f"table {table}, row {row}: the {parent} that it belongs to is not there")
    for shape in (*shapes(file), *shapes_of(file, DERIVED)):
        check_table(file, shape, every=True)
    for table, query in _DERIVED_ODD:
        if file.execute(query).fetchone():
            raise BadInput(f"table {table}: it does not fit what it is calculated from")


def keep_own(file: sqlite3.Connection, present: Path) -> None:
    """Give a file the rights, addresses and settings of the one that it replaces, for its own.

    `present` may be missing or damaged; then there are none. Raises sqlite3.Error.
    """
    file.execute("BEGIN IMMEDIATE")
    for table in (*OF_THIS_MACHINE, "file_mark"):
        file.execute(f"DELETE FROM {table}")  # noqa: S608 - names of our own
    # what one of these was before is the other machine's, too
    file.execute(f"DELETE FROM earlier WHERE of_table IN {NOT_TOLD}")  # noqa: S608
    for table, columns, rows in _own_rows(present):
        names, marks = ", ".join(columns), ", ".join("?" * len(columns))
        file.executemany(f"INSERT INTO {table} ({names}) VALUES ({marks})", rows)  # noqa: S608
    # a guest's party, or the trip of an address, may not be in the file
    for table, row, *_ in file.execute("PRAGMA foreign_key_check").fetchall():
        if table in OF_THIS_MACHINE:
            file.execute(f"DELETE FROM {table} WHERE rowid = ?", (row,))  # noqa: S608
    file.execute("COMMIT")


def _own_rows(present: Path) -> list[tuple[str, list[str], list[tuple[object, ...]]]]:
    try:
        with closing(sqlite3.connect(f"{present.absolute().as_uri()}?mode=ro", uri=True)) as own:
            if own.execute("PRAGMA user_version").fetchone()[0] != migrate.steps()[-1][0]:
                return []
            found = []
            for table in OF_THIS_MACHINE:
                rows = own.execute(f"SELECT * FROM {table}")  # noqa: S608
                found.append((table, [column[0] for column in rows.description], rows.fetchall()))
            return found
    except sqlite3.Error:
        return []

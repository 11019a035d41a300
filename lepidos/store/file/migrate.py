"""Forward migrations: numbered SQL files, each run once, in one transaction with its record."""

import sqlite3
from pathlib import Path

from lepidos.store.file.file_problems import NewerFile

FOLDER = Path(__file__).parents[1] / "migrations"


def steps() -> list[tuple[int, Path]]:
    """Number and file of every migration, in order."""
    return sorted((int(path.name[:4]), path) for path in FOLDER.glob("[0-9]*.sql"))


def check_known(path: Path, version: int) -> None:
    """Raise NewerFile when a file has a schema of a later Lepidos."""
    if version > (known := steps()[-1][0]):
        raise NewerFile(path, version, known)


def up(connection: sqlite3.Connection, to: int | None = None) -> int:
    """Bring the file forward; returns the version it has then.

    Args: to: stop after this number (for tests that need an older file).
    Raises: NewerFile. A step that fails leaves the file as it was before that step.
    """
    known = steps()
    version = int(connection.execute("PRAGMA user_version").fetchone()[0])
    check_known(Path(connection.execute("PRAGMA database_list").fetchone()[2]), version)
    for number, path in known:
        if number <= version or (to is not None and number > to):
            continue
        # two processes may start at once: take the lock, then look again
        connection.execute("BEGIN IMMEDIATE")
        try:
            if int(connection.execute("PRAGMA user_version").fetchone()[0]) < number:
                for statement in _statements(path.read_text("utf-8")):
                    connection.execute(statement)
                connection.execute(
                    "CREATE TABLE IF NOT EXISTS migration (name TEXT PRIMARY KEY, at TEXT NOT NULL)"
                )
                connection.execute(
                    "INSERT INTO migration VALUES (?, strftime('%Y-%m-%dT%H:%M:%SZ', 'now'))",
                    (path.stem,),
                )
                connection.execute(f"PRAGMA user_version = {number}")
            connection.execute("COMMIT")
        except BaseException:
            connection.execute("ROLLBACK")
            raise
    return int(connection.execute("PRAGMA user_version").fetchone()[0])


def _statements(script: str) -> list[str]:
    # executescript would commit on its own, so the script is run statement by statement
    found, pending = [], ""
    for line in script.splitlines():
        pending += line + "\n"
        if sqlite3.complete_statement(pending):
            found.append(pending)
            pending = ""
    return found

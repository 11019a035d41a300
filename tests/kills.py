"""Kills amid what touches the whole file: a copy of it, going back to one, bringing an old one forward.

Each function kills at a moment drawn from a seed, again and again, and raises AssertionError when
something that was acknowledged is in no file any more, or a file is there that cannot be read.
"""

import sqlite3
import threading
import time
import urllib.parse
import urllib.request
from collections.abc import Iterator
from contextlib import closing, suppress
from datetime import UTC, datetime
from pathlib import Path
from random import Random
from typing import Any

from lepidos.store.base.ids import IdMaker
from lepidos.store.file import migrate
from tests import warm
from tests.server import CLOCK, ENV, Server

OLD_FISH = 4000


def keys(path: Path) -> set[str]:
    """The keys of a file's entries. Raises AssertionError for a file that is not whole."""
    with closing(sqlite3.connect(path)) as file:
        whole = file.execute("PRAGMA integrity_check").fetchone()[0]
        if whole != "ok":
            raise AssertionError(f"{path} is damaged: {whole}")
        return {key for (key,) in file.execute("SELECT key FROM entry")}


def copies(server: Server, acknowledged: dict[str, Any], rounds: int, rng: Random) -> int:
    """Kill a running app while it copies its file; how many copies there are. It runs afterwards.

    `acknowledged` grows meanwhile, by other hands.
    """
    for _ in range(rounds):
        maker = threading.Thread(target=_ask_for_copy, args=(server,), daemon=True)
        maker.start()
        time.sleep(rng.uniform(0.0, 0.3))
        before = set(acknowledged)
        server.kill()
        maker.join(10)
        _has(keys(server.folder / "lepidos.sqlite"), before, "the data file")
        for path in _copies_of(server.folder):
            keys(path)
        server.start()
    return len(_copies_of(server.folder))


def _ask_for_copy(server: Server) -> None:
    key = f"copy-{time.time_ns()}"
    data = urllib.parse.urlencode({"key": key}).encode()
    asked = urllib.request.Request(f"{server.base}/health/copy", data)
    with suppress(OSError):
        urllib.request.urlopen(asked, timeout=20).read()


def _copies_of(folder: Path) -> list[Path]:
    return sorted((folder / "backups").glob("*.sqlite"))


def restores(folder: Path, copy: Path, acknowledged: set[str], rounds: int, rng: Random) -> int:
    """Kill `lepidos restore COPY` at some moment, then let it finish; how often it was killed amid."""
    wanted, killed = keys(copy), 0
    for _ in range(rounds):
        process = _restore(folder, copy)
        time.sleep(rng.uniform(0.0, 0.12))
        killed += process.is_alive()
        process.kill()
        process.join()
        _has(set().union(*map(keys, _every_file(folder))), acknowledged, "all files together")
        process = _restore(folder, copy)
        process.join()
        if process.exitcode:
            raise AssertionError(f"restore ended with {process.exitcode}")
        if keys(folder / "lepidos.sqlite") != wanted:
            raise AssertionError("what came back is not what the copy has")
        _has(set().union(*map(keys, _every_file(folder))), acknowledged, "all files together")
    return killed


def _restore(folder: Path, copy: Path) -> Any:
    return warm.start(["restore", str(copy), "--data-dir", str(folder)], dict(ENV))


def _every_file(folder: Path) -> Iterator[Path]:
    yield from folder.rglob("*.sqlite")


def migrations(folder: Path, rounds: int, rng: Random) -> int:
    """Kill the app while it brings a file of the first schema forward; how often amid it."""
    killed = 0
    for number in range(rounds):
        home = folder / f"old-{number}"
        home.mkdir()
        _old_file(home / "lepidos.sqlite")
        server = Server(home, searches=False)
        words = ["run", "--data-dir", str(home), "--port", str(server.port)]
        process = warm.start(words, {**ENV, "LEPIDOS_CLOCK_AT": CLOCK})
        time.sleep(rng.uniform(0.1, 0.9))
        killed += not server.answers()
        process.kill()
        process.join()
        server.start()
        server.kill()
        with closing(sqlite3.connect(home / "lepidos.sqlite")) as file:
            fish = file.execute(
                "SELECT COUNT(*) FROM fish JOIN fish_now ON fish_id = id"
            ).fetchone()
            version = file.execute("PRAGMA user_version").fetchone()
        if fish != (OLD_FISH,) or version != (migrate.steps()[-1][0],):
            raise AssertionError(f"{fish} fish in schema {version} after the kill")
        keys(home / "lepidos.sqlite")
    return killed


def _old_file(path: Path) -> None:
    at, ids = "2026-07-14T07:00:00.000Z", IdMaker(Random(1))
    landed = datetime(2026, 7, 14, 7, tzinfo=UTC)
    trip = ids.new(landed)
    with closing(sqlite3.connect(path, isolation_level=None)) as file:
        migrate.up(file, to=1)
        file.execute("BEGIN")
        file.execute(
            "INSERT INTO trip VALUES (?, 'Marram Lass', 'boat', 'Skarrow Quay', '2026-07-14', 'UTC', ?)", (trip, at)
        )  # fmt: skip
        for n in range(OLD_FISH):
            fish = ids.new(landed)
            file.execute(
                "INSERT INTO fish VALUES (?, ?, ?, 'pollack', NULL, NULL, 'on', ?)", (fish, trip, f"P{n}", at)
            )  # fmt: skip
            file.execute(
                "INSERT INTO measurement VALUES (?, ?, 'length', 0.5, 'total', 'typed', ?)", (ids.new(landed), fish, at)
            )  # fmt: skip
            file.execute(
                "INSERT INTO fish_now VALUES (?, ?, 'pollack', 'slab', 'bled', 0.5, 'total', NULL, NULL, 0, 0)", (fish, trip)
            )  # fmt: skip
        file.execute("COMMIT")


def _has(found: set[str], wanted: set[str], where: str) -> None:
    if missing := wanted - found:
        raise AssertionError(f"{len(missing)} acknowledged writes are not in {where}")

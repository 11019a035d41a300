"""A bundle looked at: read into a log of its own, checked, before any of it touches the crew's."""

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, timedelta
from pathlib import Path

from lepidos.core.errors import BadInput
from lepidos.core.freezer.temperature_log import MOST_MINUTES
from lepidos.core.limits import MOST_FISH_M
from lepidos.exchange.package_reader import Package
from lepidos.stations.base.context import AppContext
from lepidos.stations.bundle.known_words import check_words
from lepidos.stations.pack.by_hand import LEAST_SIDE_M
from lepidos.store import staged as staging
from lepidos.store.ids import read_id
from lepidos.store.row_checks import check_log
from lepidos.store.staged import StagedLog
from lepidos.store.whole_log import OF_MACHINE

Told = Callable[[str, float], None]
AHEAD = timedelta(days=31)  # a machine's clock that stands wrong is mostly behind (practice)
MINUTES_A_DAY = 24 * 60


@dataclass(frozen=True)
class Contents:
    """What is in a bundle: how many, from which day to which, and how many are here already."""

    trips: int
    fish: int
    bags: int
    first: date | None
    last: date | None
    known_trips: int
    known_fish: int
    known_bags: int


def read_bundle(ctx: AppContext, path: Path, beside: Path, told: Told) -> tuple[StagedLog, str]:
    """Read a bundle into a file `beside`; the log, and the bundle's digest.

    `told` is called with a table and the part that is read, and may raise to end it. Raises
    BadInput with where and why; then nothing of it is left.
    """
    package = Package(path)
    try:
        log = StagedLog(beside, package.schema)
        try:
            _fill(package, log, told)
            log.finish()
            _check(ctx, log)
        except BaseException:
            log.close()
            raise
    finally:
        package.close()
    with path.open("rb") as file:
        return log, hashlib.file_digest(file, "sha256").hexdigest()


def _fill(package: Package, log: StagedLog, told: Told) -> None:
    done = 0
    if missing := sorted(set(log.shapes) - set(package.tables)):
        raise BadInput(f"The bundle has no table {missing[0]}")
    for name in package.tables:
        shape = log.shape(name)
        if shape is None and name in OF_MACHINE:
            continue  # an earlier Lepidos wrote them out, too; they are another machine's own
        if shape is None:
            raise BadInput(f"The bundle has a table “{name[:40]}” that its schema does not know")
        columns = package.columns(name)
        if set(columns) != set(shape.names):
            odd = sorted(set(columns) ^ set(shape.names))[0]
            raise BadInput(f"data/{name}.csv: the column {odd[:40]} is missing, or one too many")
        by_name = {column.name: column for column in shape.columns}
        kinds = [(by_name[c].kind, by_name[c].nullable) for c in columns]
        before, size = done, package.size(name)
        # rows are all of about one length: how far it is comes from how many there were
        log.fill(
            name,
            columns,
            ((line, tuple(row)) for line, row in package.rows(name, kinds)),
            lambda n, name=name, before=before, size=size: told(  # type: ignore[misc]
                name, min(1.0, (before + min(size, n * 120)) / max(1, package.bytes))
            ),
        )
        done += size
        told(name, done / max(1, package.bytes))


def _check(ctx: AppContext, log: StagedLog) -> None:
    """What a page could not show is not taken in."""
    check_log(log.file)
    _check_times(ctx, log)
    check_words(ctx.guide, log)
    for sentence, query in staging.ODD:
        days = MOST_MINUTES / MINUTES_A_DAY
        limits = {"fish_m": MOST_FISH_M, "days": days, "side": LEAST_SIDE_M * 0.999}
        if log.file.execute(query, limits).fetchone():
            raise BadInput(sentence)


def _check_times(ctx: AppContext, log: StagedLog) -> None:
    """Keys rise from the newest: one of next year would be in the way of all that come after."""
    for shape in log.shapes.values():
        (newest,) = log.file.execute(f"SELECT max({shape.key}) FROM {shape.name}").fetchone()  # noqa: S608
        made = read_id(newest or "")
        if shape.key == "id" and made and made.datetime > ctx.clock() + AHEAD:
            raise BadInput(
                f"data/{shape.name}.csv: the newest row was made on {made.datetime:%Y-%m-%d}, "
                "which is still to come. Set the clock of both machines"
            )


def contents(ctx: AppContext, log: StagedLog) -> Contents:
    """What a log that was read holds, and how much of it is here."""
    first, last = log.file.execute("SELECT min(on_date), max(on_date) FROM trip").fetchone()
    counts: dict[str, int] = {}
    known: dict[str, int] = {}
    with ctx.store.reading():
        for table in ("trip", "fish", "bag"):
            keys = [key for (key,) in log.file.execute(f"SELECT id FROM {table}")]  # noqa: S608
            counts[table], known[table] = len(keys), staging.known_here(table, keys)
    return Contents(
        counts["trip"],
        counts["fish"],
        counts["bag"],
        date.fromisoformat(first) if first else None,
        date.fromisoformat(last) if last else None,
        known["trip"],
        known["fish"],
        known["bag"],
    )

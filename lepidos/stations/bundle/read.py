"""A bundle looked at: read into a log of its own, checked, before any of it touches the crew's."""

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from lepidos.core.errors import BadInput
from lepidos.exchange.package_reader import Package
from lepidos.stations.base.context import AppContext
from lepidos.stations.bundle.whole import check_whole
from lepidos.store.bundle.log_queries import days_of_trips, words_in
from lepidos.store.bundle.row_checks import check_log
from lepidos.store.bundle.staged import StagedLog, known_here
from lepidos.store.bundle.whole_log import OF_MACHINE

Told = Callable[[str, float], None]


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
            check_log(log.file)
            check_whole(ctx.guide, ctx.clock(), log.file)
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


def contents(ctx: AppContext, log: StagedLog) -> Contents:
    """What a log that was read holds, and how much of it is here."""
    first, last = days_of_trips(log.file)
    counts: dict[str, int] = {}
    known: dict[str, int] = {}
    with ctx.store.reading():
        for table in ("trip", "fish", "bag"):
            keys = list(words_in(log.file, table, "id"))
            counts[table], known[table] = len(keys), known_here(table, keys)
    return Contents(
        counts["trip"],
        counts["fish"],
        counts["bag"],
        first,
        last,
        known["trip"],
        known["fish"],
        known["bag"],
    )

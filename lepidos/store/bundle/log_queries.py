"""Questions to a whole log that came from elsewhere: a staged bundle, or a data file to restore."""

from collections.abc import Iterator, Mapping
from datetime import date

from lepidos.store.bundle.whole_log import LogFile, TableShape

# What no column shows by itself: a sentence, and a query that finds it. The staged file has no
# indexes but those of its keys: a query looks through a table once.
_ODD = (
    ("data/measurement.csv: a length that no fish has",
     "SELECT 1 FROM measurement WHERE quantity = 'length' AND value > :fish_m LIMIT 1"),
    ("data/measurement.csv: a fish has no length",
     "SELECT 1 FROM fish WHERE id NOT IN (SELECT fish_id FROM measurement "
     "WHERE quantity = 'length' AND id NOT IN (SELECT target_id FROM undo)) LIMIT 1"),
    ("data/fish.csv: a fish is a party's or a person's of another trip",
     "SELECT 1 FROM fish LEFT JOIN party ON party.id = party_id "
     "LEFT JOIN person ON person.id = caught_by "
     "WHERE fish.trip_id <> coalesce(party.trip_id, fish.trip_id) "
     "OR fish.trip_id <> coalesce(person.trip_id, fish.trip_id) LIMIT 1"),
    ("data/fact.csv: a fish lay at a board that is not in the bundle",
     "SELECT 1 FROM fact WHERE kind = 'board' AND name NOT IN (SELECT id FROM board) LIMIT 1"),
    ("data/portion.csv: a stretch of a piece ends before it begins",
     "SELECT 1 FROM portion WHERE to_m < from_m LIMIT 1"),
    ("data/weighing.csv: pieces weighed together without the interval of each",
     "SELECT 1 FROM weighing WHERE joint <> '' AND (low_kg IS NULL OR high_kg IS NULL) LIMIT 1"),
    ("data/rule_card.csv: a season without its first or its last day",
     "SELECT 1 FROM rule_card WHERE (season_from = '') <> (season_to = '') LIMIT 1"),
    ("data/supply_count.csv: no bag is so narrow or so short",
     "SELECT 1 FROM supply_count WHERE width_m < :side "
     "OR length_m BETWEEN 1e-12 AND :side LIMIT 1"),
    ("data/weighing.csv: an interval that its weight is not in",
     "SELECT 1 FROM weighing WHERE low_kg > kg OR high_kg < kg LIMIT 1"),
    ("data/weighing.csv: an interval without its other end",
     "SELECT 1 FROM weighing WHERE (low_kg IS NULL) <> (high_kg IS NULL) LIMIT 1"),
    ("data/board.csv: a break without its beginning or its end, or that ends before it begins",
     "SELECT 1 FROM board WHERE (break_from IS NULL) <> (break_to IS NULL) "
     "OR break_to <= break_from LIMIT 1"),
    ("data/temperature_slice.csv: times and temperatures are not as many",
     "SELECT 1 FROM temperature_slice WHERE length(at_s) <> 2 * length(centi_c) LIMIT 1"),
    ("data/temperature_log.csv: a log that ends before it begins, or is longer than ten years",
     "SELECT 1 FROM temperature_log WHERE last_at < first_at "
     "OR julianday(last_at) - julianday(first_at) > :days LIMIT 1"),
)  # fmt: skip


def first_odd(file: LogFile, limits: Mapping[str, float]) -> str:
    """The first relation between rows that cannot be, as a sentence; "" when all can.

    `limits`: `fish_m` the longest fish [m], `days` the longest log, `side` the least side of a bag.
    """
    return next((said for said, query in _ODD if file.execute(query, limits).fetchone()), "")


def words_in(file: LogFile, table: str, column: str, kind: str = "") -> Iterator[str]:
    """The different values of a column; with `kind`, of the rows of that kind."""
    query = f"SELECT DISTINCT {column} FROM {table}"  # noqa: S608 - names of our own
    rows = file.execute(f"{query} WHERE kind = ?", (kind,)) if kind else file.execute(query)
    yield from (word for (word,) in rows)


def newest_key(file: LogFile, shape: TableShape) -> str:
    """The greatest key of a table; "" when it has no row."""
    query = f"SELECT max({shape.key}) FROM {shape.name}"  # noqa: S608 - names of our own
    return str(file.execute(query).fetchone()[0] or "")


def days_of_trips(file: LogFile) -> tuple[date | None, date | None]:
    """The first and the last day of its trips; None where it has none."""
    first, last = file.execute("SELECT min(on_date), max(on_date) FROM trip").fetchone()
    return (date.fromisoformat(first), date.fromisoformat(last)) if first else (None, None)

"""Fish, what was measured and done on them, and what is true of each now."""

from datetime import datetime

from lepidos.core.errors import Unknown
from lepidos.store import records
from lepidos.store.base import entries
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import change as change_row
from lepidos.store.base.rows import find, plain_sql
from lepidos.store.base.standing import (
    by_fish,
    standing_of,
    standing_of_trip,
    those_standing,
)
from lepidos.store.schema.cutting import WeighingTable
from lepidos.store.schema.fish import (
    FactTable,
    FishNowTable,
    FishTable,
    MeasurementTable,
)

_FISH: Ready[records.Fish] = Ready(lambda fish: FishTable.select().where(FishTable.id == fish))
_NOW: Ready[records.FishNow] = Ready(
    lambda fish: FishNowTable.select().where(FishNowTable.fish == fish)
)
_FISH_OF_TRIP: Ready[records.Fish] = Ready(
    lambda trip: (
        FishTable.select().where(FishTable.trip == trip).order_by(FishTable.landed_at, FishTable.id)
    )
)
_STATES_OF_TRIP: Ready[records.FishNow] = Ready(
    lambda trip: FishNowTable.select().where(
        FishNowTable.trip == trip, FishNowTable.stage != "withdrawn"
    )
)
_FACTS: Ready[records.Fact] = standing_of(FactTable)
_MEASUREMENTS: Ready[records.Measurement] = standing_of(MeasurementTable)
_WEIGHINGS: Ready[records.Weighing] = standing_of(WeighingTable)
_FACTS_OF_TRIP: Ready[records.Fact] = standing_of_trip(FactTable)
_WEIGHINGS_OF_TRIP: Ready[records.Weighing] = Ready(
    lambda trip: those_standing(
        WeighingTable.select(WeighingTable)
        .join(FishNowTable, on=(FishNowTable.fish == WeighingTable.fish))
        .where(FishNowTable.trip == trip, FishNowTable.stage != "withdrawn")
        .order_by(WeighingTable.id),
        WeighingTable,
    )
)


def add(ids: IdMaker, at: datetime, **values: object) -> records.Fish:
    """A fish as described; measurements and facts are rows of their own."""
    return add_row(FishTable, id=ids.new(at), **values)


def get(fish_id: str) -> records.Fish:
    """Raises Unknown."""
    fish = _FISH.first(fish_id)
    if fish is None:
        raise Unknown("fish", fish_id)
    return fish


def change(fish: records.Fish, **values: object) -> records.Fish:
    """Correct what a fish is described as; what was measured on it are rows of their own."""
    found: records.Fish = change_row(FishTable, fish, **values)
    return found


def codes_of(trip_id: str) -> set[str]:
    """Every code used on a trip, withdrawn fish included."""
    return {code for (code,) in plain_sql("SELECT code FROM fish WHERE trip_id = ?", trip_id)}


# how a length that nobody measured is known: by the weight, or between the ends of a dozen
BY_WEIGHT, BETWEEN = "weight", "between"
NOT_MEASURED = frozenset({BY_WEIGHT, BETWEEN})


def measure(ids: IdMaker, at: datetime, **values: object) -> records.Measurement:
    """Add a measurement."""
    return add_row(MeasurementTable, id=ids.new(at), at=at, **values)


def add_fact(ids: IdMaker, at: datetime, fish_id: str, kind: str, name: str) -> records.Fact:
    """Add a dated fact."""
    return add_row(FactTable, id=ids.new(at), fish=fish_id, kind=kind, name=name, at=at)


def fact(fact_id: str) -> records.Fact:
    """A fact, undone or not. Raises Unknown."""
    found: records.Fact = find(FactTable, fact_id, "note")
    return found


def of_lot(lot: str) -> list[str]:
    """The fish landed together under that key, those that stand, in the order of their landing."""
    query = """
        SELECT fish_id FROM fact WHERE kind = 'lot' AND name = ?
          AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id IN (fact.id, fact.fish_id))
        ORDER BY fish_id
    """
    return [fish_id for (fish_id,) in plain_sql(query, lot)]


def weigh(ids: IdMaker, at: datetime, **values: object) -> records.Weighing:
    """Add a weighing."""
    return add_row(WeighingTable, id=ids.new(at), at=at, **values)


def last_time(fish_id: str) -> datetime | None:
    """When the latest thing was done to a fish, undone or not."""
    ((at,),) = plain_sql("SELECT max(at) FROM fact WHERE fish_id = ?", fish_id)
    found: datetime | None = FactTable.at.python_value(at)
    return found


def facts_of(fish_id: str, kind: str = "") -> list[records.Fact]:
    """Facts that stand, oldest first; of one kind, or all."""
    return [f for f in _FACTS(fish_id) if not kind or f.kind == kind]


def facts_of_trip(trip_id: str) -> dict[str, list[records.Fact]]:
    """By fish: the facts that stand, in the order in which they were so."""
    return by_fish(_FACTS_OF_TRIP(trip_id))


def measurements_of(fish_id: str) -> list[records.Measurement]:
    """Measurements that stand, oldest first."""
    return _MEASUREMENTS(fish_id)


def weighings_of(fish_id: str) -> list[records.Weighing]:
    """Weighings that stand, oldest first."""
    return _WEIGHINGS(fish_id)


def weighing(weighing_id: str) -> records.Weighing:
    """One weighing that stands. Raises Unknown."""
    found: records.Weighing = find(WeighingTable, weighing_id, "piece")
    if entries.is_undone(weighing_id):
        raise Unknown("piece", weighing_id)
    return found


def weighings_of_trip(trip_id: str) -> list[records.Weighing]:
    """Every weighing that stands on a trip's fish that stand."""
    return _WEIGHINGS_OF_TRIP(trip_id)


def now(fish_id: str) -> records.FishNow:
    """What is true of a fish now. Raises Unknown."""
    row = _NOW.first(fish_id)
    if row is None:
        raise Unknown("fish", fish_id)
    return row


def states_of_trip(trip_id: str) -> list[records.FishNow]:
    """What is true of each of a trip's fish that stand."""
    return _STATES_OF_TRIP(trip_id)


def of_trip(trip_id: str) -> list[tuple[records.Fish, records.FishNow]]:
    """A trip's fish that stand, in the order they were landed."""
    states = {row.fish_id: row for row in states_of_trip(trip_id)}
    return [(row, states[row.id]) for row in _FISH_OF_TRIP(trip_id) if row.id in states]


def species_totals() -> list[tuple[str, int, float, float]]:
    """Over all trips, finished fish that were weighed whole: species, count, round, fillet [kg]."""
    query = """
        SELECT species, count(*), sum(whole_kg), sum(fillet_kg) FROM fish_now
        WHERE stage = 'done' AND whole_kg IS NOT NULL AND fillet_kg > 0 AND doubt = ''
        GROUP BY species ORDER BY species
    """
    return [(species, number, whole, fillet) for species, number, whole, fillet in plain_sql(query)]


def any_of(species: str) -> bool:
    """Whether the file has a fish of a species."""
    return FishTable.select().where(FishTable.species == species).exists()


def count() -> int:
    """Every fish in the file, withdrawn ones included."""
    return FishTable.select().count()


def weighed_whole(species: str, most: int) -> list[tuple[float, str, float]]:
    """Fish of a species that were weighed whole, the latest last: length [m], its type, kg."""
    query = """
        SELECT length_m, length_type, whole_kg FROM fish_now
        WHERE species = ? AND whole_kg IS NOT NULL AND stage <> 'withdrawn'
        ORDER BY fish_id DESC LIMIT ?
    """
    return [tuple(row) for row in plain_sql(query, species, most)][::-1]


def lengths_taken(species: str, most: int) -> list[dict[str, float]]:
    """Of each fish of a species that was measured in two ways or more, the latest last: its lengths
    [m] by their type; of two of a type the later one.
    """
    query = """
        SELECT fish.id, m.length_type, m.value FROM fish
        JOIN measurement AS m ON m.fish_id = fish.id AND m.quantity = 'length'
        WHERE fish.id IN (
          SELECT f.id FROM fish AS f JOIN measurement AS n ON n.fish_id = f.id
          WHERE f.species = ? AND n.quantity = 'length'
            AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id IN (n.id, f.id))
          GROUP BY f.id HAVING count(DISTINCT n.length_type) > 1
          ORDER BY f.id DESC LIMIT ?)
          AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = m.id)
        ORDER BY fish.id, m.id
    """
    found: dict[str, dict[str, float]] = {}
    for fish_id, kind, value in plain_sql(query, species, most):
        found.setdefault(fish_id, {})[kind] = value
    return list(found.values())

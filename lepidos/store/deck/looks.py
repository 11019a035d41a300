"""What a probe read in a fish, and how its marks looked."""

from datetime import datetime

from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import find
from lepidos.store.base.standing import by_fish, standing, standing_of_trip
from lepidos.store.schema.fish import LookTable, ReadingTable

_READINGS_OF_TRIP: Ready[records.Reading] = standing_of_trip(ReadingTable)
_LOOKS_OF_TRIP: Ready[records.Look] = standing_of_trip(LookTable)


def read_core(ids: IdMaker, at: datetime, **values: object) -> records.Reading:
    """Add a probe's reading."""
    return add_row(ReadingTable, id=ids.new(at), at=at, **values)


def look_at(ids: IdMaker, at: datetime, **values: object) -> records.Look:
    """Add what was seen at a mark."""
    return add_row(LookTable, id=ids.new(at), at=at, **values)


def reading(reading_id: str) -> records.Reading:
    """A probe's reading, undone or not. Raises Unknown."""
    found: records.Reading = find(ReadingTable, reading_id, "reading")
    return found


def look(look_id: str) -> records.Look:
    """A mark that was looked at, undone or not. Raises Unknown."""
    found: records.Look = find(LookTable, look_id, "look")
    return found


def same_look(row: records.Look) -> list[records.Look]:
    """Every mark that was noted in the same look as this one, and stands."""
    return standing(
        LookTable.select().where(LookTable.fish == row.fish_id, LookTable.at == row.at), LookTable
    )


def readings_of_trip(trip_id: str) -> dict[str, list[records.Reading]]:
    """By fish: the probe's readings that stand, oldest first."""
    return by_fish(_READINGS_OF_TRIP(trip_id))


def looks_of_trip(trip_id: str) -> dict[str, dict[str, records.Look]]:
    """By fish: the last look at each mark, by the order in which they were written."""
    found: dict[str, dict[str, records.Look]] = {}
    for row in sorted(_LOOKS_OF_TRIP(trip_id), key=lambda look: str(look.id)):
        found.setdefault(row.fish_id, {})[row.mark] = row
    return found

"""The cutting session: what was seen, where by-products go, forecasts, and the scale's loads."""

import json
from collections.abc import Iterable
from datetime import datetime

from peewee import JOIN, fn

from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import among, find, plain_sql, read, split, values
from lepidos.store.base.standing import (
    by_fish,
    standing,
    standing_of,
    standing_of_trip,
    those_standing,
)
from lepidos.store.schedule.work import BOARD
from lepidos.store.schema.cutting import FateRowTable, ForecastTable, SightRowTable, WeighingTable
from lepidos.store.schema.entries import UndoTable
from lepidos.store.schema.fish import FactTable, FishNowTable, FishTable
from lepidos.store.schema.wishes import WishTable

_SIGHTS: Ready[records.SightRow] = standing_of(SightRowTable)
_SIGHTS_OF_TRIP: Ready[records.SightRow] = standing_of_trip(SightRowTable)
_SPOTS_OF: Ready[records.SightRow] = Ready(
    lambda fish: those_standing(
        SightRowTable.select().where(among(SightRowTable.fish, fish), SightRowTable.lost_kg > 0),
        SightRowTable,
    )
)
_FORECAST: Ready[records.Forecast] = Ready(
    lambda fish: ForecastTable.select().where(ForecastTable.fish == fish)
)
_FATES: Ready[records.FateRow] = standing_of(FateRowTable)
_FATES_OF_TRIP: Ready[records.FateRow] = standing_of_trip(FateRowTable)


def see(ids: IdMaker, at: datetime, **values: object) -> records.SightRow:
    """Add something that was seen."""
    return add_row(SightRowTable, id=ids.new(at), at=at, **values)


def sight(sight_id: str) -> records.SightRow:
    """Something seen, undone or not. Raises Unknown."""
    found: records.SightRow = find(SightRowTable, sight_id, "sighting")
    return found


def sights_of(fish_id: str) -> list[records.SightRow]:
    """What was seen on a fish and stands, oldest first."""
    return _SIGHTS(fish_id)


def sights_of_trip(trip_id: str) -> dict[str, list[records.SightRow]]:
    """By fish: what was seen and stands."""
    return by_fish(_SIGHTS_OF_TRIP(trip_id))


def spots_of_fish(fish_ids: Iterable[str]) -> dict[str, list[records.SightRow]]:
    """By fish: what was seen, stands, and was cut out."""
    return by_fish(_SPOTS_OF(json.dumps(list(fish_ids))))


def decide(ids: IdMaker, at: datetime, **values: object) -> records.FateRow:
    """Add where a piece goes."""
    return add_row(FateRowTable, id=ids.new(at), at=at, **values)


def fate(fate_id: str) -> records.FateRow:
    """Where a piece goes, undone or not. Raises Unknown."""
    found: records.FateRow = find(FateRowTable, fate_id, "by-product use")
    return found


def fates_of(fish_id: str) -> dict[str, records.FateRow]:
    """By piece: the last decision that stands."""
    return {row.piece: row for row in _FATES(fish_id)}


def fates_of_trip(trip_id: str) -> dict[str, dict[str, records.FateRow]]:
    """By fish and piece: the last decision that stands."""
    found: dict[str, dict[str, records.FateRow]] = {}
    for row in _FATES_OF_TRIP(trip_id):
        found.setdefault(row.fish_id, {})[row.piece] = row
    return found


def last_fates(trip_id: str) -> dict[str, str]:
    """By piece: where the crew last sent such a piece on this trip."""
    return {row.piece: row.fate for row in _FATES_OF_TRIP(trip_id)}


def foresee(**values: object) -> None:
    """Keep what was foreseen of a fish; the first forecast stays."""
    ForecastTable.insert(**values).on_conflict_ignore().execute()


def forecast_of(fish_id: str) -> records.Forecast | None:
    """What was foreseen of a fish."""
    return _FORECAST.first(fish_id)


def scored(most: int) -> list[records.Forecast]:
    """The forecasts of the fish finished last; not of those with a piece judged by eye or weighed
    before it was trimmed.
    """
    rows = (
        ForecastTable.select(ForecastTable)
        .join(FishNowTable, on=(FishNowTable.fish == ForecastTable.fish))
        .where(FishNowTable.stage == "done", FishNowTable.fillet_kg > 0, FishNowTable.doubt == "")
        .order_by(ForecastTable.fish.desc())
        .limit(most)
    )
    return read(rows)


def finished(species: str, most: int) -> list[tuple[records.FishNow, str]]:
    """The fish of a species finished last that were weighed whole, with their skin as it was cut.

    Those of which a piece was for something else are left out: their sides are not alike.
    """
    settled = (
        (WishTable.fish == FishNowTable.fish)
        & WishTable.settled
        & ~fn.EXISTS(UndoTable.select().where(UndoTable.target_id == WishTable.id))
    )
    rows = (
        FishNowTable.select(FishNowTable, fn.COALESCE(WishTable.skin, FishTable.skin))
        .join(FishTable, on=(FishTable.id == FishNowTable.fish))
        .switch(FishNowTable)
        .join(WishTable, JOIN.LEFT_OUTER, on=settled)
        .where(
            fn.COALESCE(WishTable.pieces, "{}") == "{}",
            FishNowTable.species == species,
            FishNowTable.stage == "done",
            FishNowTable.whole_kg.is_null(False),
            FishNowTable.fillet_kg > 0,
        )
        .order_by(FishNowTable.fish.desc())
        .limit(most)
    )
    return [(split(row, FishNowTable)[0], row[-1]) for row in values(rows)]


def boards_of(fish_ids: Iterable[str]) -> dict[str, str]:
    """By fish: the board on which it lay last."""
    ids = list(fish_ids)
    found: dict[str, str] = {}
    for start in range(0, len(ids), 500):
        query = FactTable.select().where(
            FactTable.fish.in_(ids[start : start + 500]), FactTable.kind == BOARD
        )
        for row in standing(query.order_by(FactTable.at, FactTable.id), FactTable):
            found[row.fish_id] = row.name
    return found


def finished_mark() -> str:
    """Stands for which fish are finished, and what was cut out of fish: what was learned from them
    holds while this stays."""
    # plain SQL: the partial index is used only when the name is written out
    query = (
        "SELECT (SELECT count(*) FROM fish_now WHERE stage = 'done'), "
        "(SELECT max(id) FROM fact WHERE kind = 'work' AND name = 'closed'), "
        "(SELECT count(*) FROM sight WHERE lost_kg > 0), "
        "(SELECT count(*) FROM undo WHERE kind = 'sight')"
    )
    return "-".join(map(str, FishNowTable._meta.database.execute_sql(query).fetchone()))


def weighings_of_fish(fish_ids: Iterable[str]) -> dict[str, list[records.Weighing]]:
    """By fish: weighings that stand."""
    ids = list(fish_ids)
    found: dict[str, list[records.Weighing]] = {}
    for start in range(0, len(ids), 500):
        query = WeighingTable.select().where(WeighingTable.fish.in_(ids[start : start + 500]))
        for row in standing(query.order_by(WeighingTable.id), WeighingTable):
            found.setdefault(row.fish_id, []).append(row)
    return found


def taken_of_load(mark: str) -> records.Weighing | None:
    """The weighing that took this load of the scale, if one stands."""
    if not mark:
        return None
    query = (
        WeighingTable.select()
        .where(WeighingTable.load_mark == mark)
        .order_by(WeighingTable.id.desc())
    )
    return next(iter(standing(query, WeighingTable)), None)


def on_the_pan(stretch: str) -> records.Weighing | None:
    """The last weighing that stands since the display was last at nothing."""
    if not stretch:
        return None
    query = WeighingTable.select().where(WeighingTable.load_mark.startswith(f"{stretch}."))
    rows = standing(query.order_by(WeighingTable.id.desc()).limit(1), WeighingTable)
    return rows[0] if rows else None


def of_joint(joint: str) -> list[records.Weighing]:
    """Every piece of a joint weighing that stands."""
    query = WeighingTable.select().where(WeighingTable.joint == joint).order_by(WeighingTable.id)
    return standing(query, WeighingTable) if joint else []


def days_of_fish(fish_ids: list[str]) -> dict[str, tuple[str, float | None]]:
    """By fish: its trip, and the air on that day [°C], where it was noted."""
    query = """
        SELECT fish.id, trip.id, trip.air_c FROM fish JOIN trip ON trip.id = fish.trip_id
        WHERE fish.id IN (SELECT value FROM json_each(?))
    """
    return {fish: (trip, air) for fish, trip, air in plain_sql(query, json.dumps(fish_ids))}


def timed(most: int) -> list[tuple[str, str, float, float]]:
    """Of the finished fish with a time and a weight: cutter, species, kg, seconds; oldest first."""
    query = """
        SELECT board.name, species, whole_kg, seconds FROM fish_now
        JOIN board ON board.id = fish_now.board_id
        WHERE stage = 'done' AND seconds IS NOT NULL AND whole_kg IS NOT NULL
        ORDER BY fish_id DESC LIMIT ?
    """
    return list(reversed(plain_sql(query, most)))

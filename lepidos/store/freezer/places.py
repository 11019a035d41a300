"""Freezer places: what they are called, what they are like, and how much is in them."""

from datetime import datetime

from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import find, plain_sql, read
from lepidos.store.base.standing import all_standing
from lepidos.store.schema.bags import MoveTable
from lepidos.store.schema.places import PlaceSaidTable, PlaceTable, StocktakeTable

_PLACES: Ready[records.Place] = Ready(lambda: PlaceTable.select().order_by(PlaceTable.id))
_SAID: Ready[records.PlaceSaid] = all_standing(PlaceSaidTable)
_STOCKTAKES: Ready[records.Stocktake] = all_standing(StocktakeTable)


def places() -> list[tuple[records.Place, int]]:
    """Freezer places with how many bags each holds."""
    query = "SELECT place_id, count(*) FROM bag_now WHERE state = 'in' GROUP BY place_id"
    counts: dict[str, int] = dict(plain_sql(query))
    return [(row, counts.get(row.id, 0)) for row in _PLACES()]


def last_place() -> str:
    """The id of the place that a bag was put into last; "" when none ever was."""
    query = """
        SELECT place_id FROM move WHERE place_id IS NOT NULL
          AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = move.id)
        ORDER BY id DESC LIMIT 1
    """
    found = plain_sql(query)
    return str(found[0][0]) if found else ""


def place(place_id: str) -> records.Place:
    """Raises Unknown."""
    found: records.Place = find(PlaceTable, place_id, "place")
    return found


def place_named(name: str) -> records.Place | None:
    """A place by its name, in any case."""
    # SQLite folds ASCII only, and there are few places
    wanted = name.casefold()
    return next((row for row in read(PlaceTable.select()) if row.name.casefold() == wanted), None)


def add_place(ids: IdMaker, at: datetime, name: str) -> records.Place:
    """A new freezer place."""
    return add_row(PlaceTable, id=ids.new(at), name=name)


def say_place(ids: IdMaker, at: datetime, **values: object) -> records.PlaceSaid:
    """What a place is like from now on."""
    return add_row(PlaceSaidTable, id=ids.new(at), at=at, **values)


def place_said(row_id: str) -> records.PlaceSaid:
    """Raises Unknown."""
    found: records.PlaceSaid = find(PlaceSaidTable, row_id, "place")
    return found


def said_of_places() -> dict[str, records.PlaceSaid]:
    """By place: what it is like, where somebody said."""
    return {row.place_id: row for row in _SAID()}


def kg_in() -> dict[str, float]:
    """By place: kilograms in it."""
    query = """
        SELECT place_id, sum(kg) FROM bag_now JOIN bag ON bag.id = bag_now.bag_id
        WHERE state = 'in' GROUP BY 1
    """
    return dict(plain_sql(query))


def kg_put_in(since: datetime) -> dict[str, float]:
    """By place: kilograms that went in since then and are still there."""
    query = """
        SELECT bag_now.place_id, sum(bag.kg) FROM bag_now JOIN bag ON bag.id = bag_now.bag_id
        WHERE bag_now.state = 'in' AND EXISTS (
          SELECT 1 FROM move WHERE move.bag_id = bag.id AND move.place_id = bag_now.place_id
            AND move.at >= ?
            AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = move.id))
        GROUP BY 1
    """
    return dict(plain_sql(query, MoveTable.at.db_value(since)))


def add_stocktake(ids: IdMaker, at: datetime, **values: object) -> records.Stocktake:
    """A place was counted through."""
    return add_row(StocktakeTable, id=ids.new(at), at=at, **values)


def stocktake(row_id: str) -> records.Stocktake:
    """Raises Unknown."""
    found: records.Stocktake = find(StocktakeTable, row_id, "stocktake")
    return found


def last_stocktakes() -> dict[str, records.Stocktake]:
    """By place: the last count that stands."""
    return {row.place_id: row for row in _STOCKTAKES()}

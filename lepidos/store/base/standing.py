"""Queries for the rows that were not undone, as every repository asks them."""

from peewee import fn

from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import among, read
from lepidos.store.schema.entries import UndoTable
from lepidos.store.schema.fish import FishNowTable


def of_trip_query(model, trip_id: str):
    """A query for the rows of a trip's fish, in the order in which they were so."""
    return (
        model.select(model)
        .join(FishNowTable, on=(FishNowTable.fish == model.fish))
        .where(FishNowTable.trip == trip_id)
        .order_by(model.at, model.id)
    )


def those_standing(query, model):
    """A query's rows that were not undone, as a query."""
    taken_back = UndoTable.select().where(UndoTable.target_id == model.id)
    return query.where(~fn.EXISTS(taken_back))


def standing(query, model):
    """The rows of a query that were not undone."""
    return read(those_standing(query, model))


def in_order(query):
    """A query in the order in which its rows were made, whatever the clock said.

    By key and not by place in the file: rows that came from another device have their time there.
    """
    return query.order_by(query.model.id)


def standing_of(model) -> Ready:
    """A fish's rows that stand, in the order in which they were written."""
    return Ready(
        lambda fish: in_order(those_standing(model.select().where(model.fish == fish), model))
    )


def all_standing(model) -> Ready:
    """All rows that stand, in the order in which they were made."""
    return Ready(lambda: in_order(those_standing(model.select(), model)))


def standing_of_these(model) -> Ready:
    """Several fish's rows that stand, in the order in which they were made."""
    return Ready(
        lambda ids: in_order(those_standing(model.select().where(among(model.fish, ids)), model))
    )


def standing_of_trip(model) -> Ready:
    """A trip's fish's rows that stand, in the order in which they were so."""
    return Ready(lambda trip: those_standing(of_trip_query(model, trip), model))


def by_fish(rows: list) -> dict[str, list]:
    """Rows of fish, by the fish's id, in the order they came."""
    found: dict[str, list] = {}
    for row in rows:
        found.setdefault(row.fish_id, []).append(row)
    return found

"""What of each piece lies in which bag, and what that says of pieces, bags and fish."""

import json
from datetime import datetime

from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import plain_sql, split, values
from lepidos.store.schema.bags import BagNowTable, BagTable, PortionTable
from lepidos.store.schema.cutting import WeighingTable
from lepidos.store.schema.fish import FishTable


def add(ids: IdMaker, at: datetime, **values: object) -> records.Portion:
    """A stretch of a piece, in a bag."""
    return add_row(PortionTable, id=ids.new(at), **values)


def of_bag(bag_id: str) -> list[tuple[records.Portion, records.Weighing, records.Fish]]:
    """What is in a bag, with the pieces and fish that it came from."""
    rows = (
        PortionTable.select(PortionTable, WeighingTable, FishTable)
        .join(WeighingTable)
        .join(FishTable)
        .where(PortionTable.bag == bag_id)
        .order_by(PortionTable.id)
    )
    return [split(row, PortionTable, WeighingTable, FishTable) for row in values(rows)]


def of_piece(weighing_id: str) -> list[tuple[records.Portion, records.Bag]]:
    """Bags that hold some of a piece and were not undone."""
    rows = (
        PortionTable.select(PortionTable, BagTable)
        .join(BagTable)
        .join(BagNowTable, on=(BagNowTable.bag == BagTable.id))
        .where(PortionTable.weighing == weighing_id, BagNowTable.state != "withdrawn")
        .order_by(PortionTable.position)
    )
    return [split(row, PortionTable, BagTable) for row in values(rows)]


_PACKED: Ready[records.Portion] = Ready(
    lambda trip: (
        PortionTable.select(PortionTable)
        .join(BagNowTable, on=(BagNowTable.bag == PortionTable.bag))
        .where(BagNowTable.trip == trip, BagNowTable.state != "withdrawn")
    )
)


def of_trip(trip_id: str) -> dict[str, list[records.Portion]]:
    """By weighing: what of it is in bags of a trip that stand, by position."""
    found: dict[str, list[records.Portion]] = {}
    for row in _PACKED(trip_id):
        found.setdefault(row.weighing_id, []).append(row)
    return {key: sorted(rows, key=lambda row: row.position) for key, rows in found.items()}


def weighed_marks() -> dict[tuple[str, str], str]:
    """By species and piece: a mark that changes when a bag of it is weighed or undone."""
    query = """
        SELECT species, piece, count(*), max(bag.id) FROM bag
        JOIN bag_now ON bag_now.bag_id = bag.id
        WHERE measured AND state != 'withdrawn' GROUP BY species, piece
    """
    return {(kind, piece): f"{n} {last}" for kind, piece, n, last in plain_sql(query)}


def weighed_stretches(
    species: str, piece: str, most: int
) -> list[tuple[str, float, float, float, float, str]]:
    """What lay in the last weighed bags of a kind of piece, oldest first.

    Each row: the bag, its weight [kg], the ends of a stretch in shares of its piece's length, the
    piece's weight [kg], and its fish.
    """
    query = """
        WITH last AS (
          SELECT bag.id, bag.kg FROM bag JOIN bag_now ON bag_now.bag_id = bag.id
          WHERE species = ? AND piece = ? AND measured AND state != 'withdrawn'
          ORDER BY bag.id DESC LIMIT ?
        )
        SELECT last.id, last.kg, from_m / length_m, to_m / length_m, weighing.kg, fish_id
        FROM last JOIN portion ON portion.bag_id = last.id
        JOIN weighing ON weighing.id = portion.weighing_id
        WHERE length_m > 0 ORDER BY last.id, portion.id
    """
    return [tuple(row) for row in plain_sql(query, species, piece, most)]


def fish_in_bags(trip_id: str) -> dict[str, set[str]]:
    """By bag of a trip that stands: the fish that are in it."""
    query = """
        SELECT portion.bag_id, weighing.fish_id FROM portion
        JOIN weighing ON weighing.id = portion.weighing_id
        JOIN bag_now ON bag_now.bag_id = portion.bag_id
        WHERE bag_now.trip_id = ? AND bag_now.state != 'withdrawn'
    """
    found: dict[str, set[str]] = {}
    for bag, fish in plain_sql(query, trip_id):
        found.setdefault(bag, set()).add(fish)
    return found


def shares_of_trip(trip_id: str) -> dict[str, float]:
    """By weighing: which part of it is in bags that stand."""
    query = """
        SELECT portion.weighing_id, sum(share) FROM portion
        JOIN weighing ON weighing.id = portion.weighing_id
        JOIN fish_now ON fish_now.fish_id = weighing.fish_id
        JOIN bag_now ON bag_now.bag_id = portion.bag_id
        WHERE fish_now.trip_id = ? AND bag_now.state != 'withdrawn' GROUP BY 1
    """
    return dict(plain_sql(query, trip_id))


def count_waiting(trip_id: str, pieces: list[str], packed: float) -> int:
    """How many of a trip's weighed pieces of these kinds are not yet in bags by this share."""
    query = """
        SELECT count(*) FROM weighing JOIN fish_now ON fish_now.fish_id = weighing.fish_id
        WHERE fish_now.trip_id = ? AND fish_now.stage != 'withdrawn'
          AND weighing.piece IN (SELECT value FROM json_each(?))
          AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = weighing.id)
          AND (SELECT coalesce(sum(share), 0) FROM portion
               JOIN bag_now ON bag_now.bag_id = portion.bag_id
               WHERE portion.weighing_id = weighing.id AND bag_now.state != 'withdrawn') < ?
    """
    ((count,),) = plain_sql(query, trip_id, json.dumps(pieces), packed)
    return int(count)


def longest_in(bag_ids: list[str]) -> dict[str, float]:
    """By bag: the length of the longest stretch of a piece in it [m], where lengths are known."""
    query = """
        SELECT bag_id, max(to_m - from_m) FROM portion
        WHERE bag_id IN (SELECT value FROM json_each(?)) GROUP BY 1
    """
    return dict(plain_sql(query, json.dumps(bag_ids)))


def sights_in(bag_ids: list[str]) -> list[tuple[str, str]]:
    """What was seen on the fish in bags: pairs of a bag's id and the sight's key."""
    query = """
        SELECT DISTINCT portion.bag_id, sight.what FROM portion
        JOIN weighing ON weighing.id = portion.weighing_id
        JOIN sight ON sight.fish_id = weighing.fish_id
        WHERE portion.bag_id IN (SELECT value FROM json_each(?))
          AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = sight.id)
    """
    return [(bag, what) for bag, what in plain_sql(query, json.dumps(bag_ids))]

"""Rows that cannot all be true: what two devices entered apart and a merge brought together."""

import json
from collections.abc import Iterable
from typing import NamedTuple

from lepidos.store import records
from lepidos.store.base.earlier import Act
from lepidos.store.base.rows import find, plain_sql
from lepidos.store.bundle.whole_log import IMPORT
from lepidos.store.schema.cutting import WeighingTable

# what a piece's shares may add up to: each is rounded
WHOLE = 1.005
OVERLAP_M = 0.001  # no knife cuts closer


class Packed(NamedTuple):
    """A piece of which there is more in bags than there is of it.

    `first` is the bag sealed first of those that hold the same stretch as another, `others` hold
    some of that stretch, too.
    """

    weighing_id: str
    share: float
    first: str
    others: tuple[str, ...]


class Again(NamedTuple):
    """A piece of a fish that was weighed more than once."""

    fish_id: str
    piece: str
    side: str
    weighing_ids: tuple[str, ...]


def was_merged() -> bool:
    """Whether another log ever came into this one."""
    return bool(plain_sql(f"SELECT 1 FROM entry WHERE action = '{IMPORT}' LIMIT 1"))  # noqa: S608


def packed_twice() -> list[Packed]:
    """Pieces whose shares in bags add up to more than the whole."""
    query = """
        SELECT weighing_id, sum(share), json_group_array(
          json_array(portion.bag_id, from_m, CASE WHEN length_m > 0 THEN to_m ELSE 1 END))
        FROM portion JOIN bag_now ON bag_now.bag_id = portion.bag_id AND state <> 'withdrawn'
        GROUP BY weighing_id HAVING sum(share) > ?
    """
    return [
        Packed(key, share, *_same_stretch(json.loads(found)))
        for key, share, found in plain_sql(query, WHOLE)
    ]


def _same_stretch(found: list[tuple[str, float, float]]) -> tuple[str, tuple[str, ...]]:
    """Of stretches in bags [m]: the first bag that shares one with others, and those others."""
    for bag, start, end in sorted(found):
        others = {
            b for b, at, to in found if b != bag and min(to, end) - max(at, start) > OVERLAP_M
        }
        if others:
            return bag, tuple(sorted(others))
    first, *rest = sorted({bag for bag, _, _ in found})
    return first, tuple(rest)


def bags_of_undone() -> list[tuple[str, str]]:
    """Bags, each with a piece in it whose weight was undone."""
    query = """
        SELECT DISTINCT portion.bag_id, weighing_id FROM undo
        JOIN portion ON portion.weighing_id = undo.target_id
        JOIN bag_now ON bag_now.bag_id = portion.bag_id AND state <> 'withdrawn'
    """
    return [(bag, weighing) for bag, weighing in plain_sql(query)]


def withdrawn_with_weights() -> dict[str, tuple[str, ...]]:
    """By fish whose landing was undone: its weights that stand."""
    query = """
        SELECT fish_now.fish_id, json_group_array(weighing.id) FROM fish_now
        JOIN weighing ON weighing.fish_id = fish_now.fish_id
        WHERE stage = 'withdrawn'
          AND NOT EXISTS (SELECT 1 FROM undo WHERE target_id = weighing.id)
        GROUP BY fish_now.fish_id
    """
    return {fish: tuple(sorted(json.loads(keys))) for fish, keys in plain_sql(query)}


def weighed_again(pieces: Iterable[str]) -> list[Again]:
    """Pieces of these kinds, which come on the scale once, with several weights that stand.

    Those of which somebody said that both are right are left out.
    """
    query = """
        SELECT weighing.fish_id, piece, side, json_group_array(weighing.id) FROM weighing
        JOIN fish_now ON fish_now.fish_id = weighing.fish_id AND stage <> 'withdrawn'
        WHERE joint = '' AND piece IN (SELECT value FROM json_each(?))
          AND NOT EXISTS (SELECT 1 FROM undo WHERE target_id = weighing.id)
          AND NOT EXISTS (SELECT 1 FROM fact WHERE fact.fish_id = weighing.fish_id
            AND kind = 'answer' AND name = 'again.' || weighing.id)
        GROUP BY weighing.fish_id, piece, side HAVING count(*) > 1
    """
    rows = plain_sql(query, json.dumps(sorted(pieces)))
    return [Again(f, p, s, tuple(sorted(json.loads(keys)))) for f, p, s, keys in rows]


def weight(weighing_id: str) -> records.Weighing:
    """A weight that was entered, undone or not. Raises Unknown."""
    found: records.Weighing = find(WeighingTable, weighing_id, "piece")
    return found


def bags_of_piece(weighing_id: str) -> list[str]:
    """Bags that stand and hold some of a piece."""
    query = """
        SELECT DISTINCT portion.bag_id FROM portion
        JOIN bag_now ON bag_now.bag_id = portion.bag_id AND state <> 'withdrawn'
        WHERE weighing_id = ? ORDER BY 1
    """
    return [bag for (bag,) in plain_sql(query, weighing_id)]


def restore(act: Act, target_id: str) -> None:
    """What was undone holds again; `act` keeps the row that undid it."""
    for (key,) in plain_sql("SELECT id FROM undo WHERE target_id = ?", target_id):
        act.keep("undo", [key])
        plain_sql("DELETE FROM undo WHERE id = ?", key)


def touched(target_ids: Iterable[str]) -> tuple[set[str], set[str]]:
    """The fish and the bags that change when rows are undone, or are so no more."""
    wanted = json.dumps(sorted(target_ids))
    among = "IN (SELECT value FROM json_each(?))"
    found: dict[str, set[str]] = {"fish": set(), "bag": set()}
    for parent, tables in (("fish", ("measurement", "fact", "weighing")), ("bag", ("move",))):
        queries = [f"SELECT {parent}_id FROM {table} WHERE id {among}" for table in tables]  # noqa: S608
        for query in (*queries, f"SELECT id FROM {parent} WHERE id {among}"):  # noqa: S608
            found[parent].update(key for (key,) in plain_sql(query, wanted))
    return found["fish"], found["bag"]


def undone_by(undo_ids: Iterable[str]) -> list[str]:
    """What these rows of `undo` undo."""
    query = "SELECT target_id FROM undo WHERE id IN (SELECT value FROM json_each(?))"
    return [key for (key,) in plain_sql(query, json.dumps(list(undo_ids)))]

"""Bags, what is in them, and where they have been."""

import json
from datetime import datetime, timedelta

from lepidos.core.errors import Unknown
from lepidos.store import records
from lepidos.store.base import entries
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import (
    among,
    find,
    first,
    many_sql,
    plain_sql,
    put_many,
    read,
)
from lepidos.store.base.standing import in_order, those_standing
from lepidos.store.schema.bags import (
    BagNowTable,
    BagTable,
    MoveTable,
)
from lepidos.store.schema.trips import PartyTable

_BAGS: Ready[records.Bag] = Ready(lambda ids: BagTable.select().where(among(BagTable.id, ids)))
_STATES: Ready[records.BagNow] = Ready(
    lambda ids: BagNowTable.select().where(among(BagNowTable.bag, ids))
)
MANY = 500  # bags derived at once
_MOVES: Ready[records.Move] = Ready(
    lambda ids: in_order(
        those_standing(MoveTable.select().where(among(MoveTable.bag, ids)), MoveTable)
    )
)
_PARTIES: Ready[records.Party] = Ready(
    lambda ids: PartyTable.select().where(among(PartyTable.id, ids))
)


def add(ids: IdMaker, at: datetime, **values: object) -> records.Bag:
    """A sealed bag."""
    return add_row(BagTable, id=ids.new(at), sealed_at=at, **values)


def code_taken(code: str) -> bool:
    """Whether a code is on some bag already."""
    return BagTable.select().where(BagTable.code == code).exists()


def get(bag_id: str) -> records.Bag:
    """Raises Unknown."""
    found: records.Bag = find(BagTable, bag_id, "bag")
    return found


def by_code(code: str) -> records.Bag:
    """Raises Unknown."""
    found: records.Bag | None = first(BagTable.select().where(BagTable.code == code))
    if found is None:
        raise Unknown("bag", code)
    return found


def move(
    ids: IdMaker,
    at: datetime,
    bag_id: str,
    action: str,
    place_id: str | None,
    why: str = "",
    note: str = "",
    together: str = "",
) -> records.Move:
    """Add a move; `together`: the first of those made in one touch."""
    return add_row(
        MoveTable,
        id=ids.new(at),
        bag=bag_id,
        action=action,
        place=place_id,
        why=why,
        at=at,
        note=note,
        together=together,
    )


def lead_together(move_id: str) -> None:
    """Mark the first of several moves as one of them."""
    MoveTable.update(together=move_id).where(MoveTable.id == move_id).execute()


def moved_together(move: records.Move) -> list[records.Move]:
    """The moves that were made in one touch with this one, itself among them."""
    if not move.together:
        return [move]
    return read(
        MoveTable.select().where(MoveTable.together == move.together).order_by(MoveTable.id)
    )


def get_move(move_id: str) -> records.Move:
    """Raises Unknown."""
    found: records.Move = find(MoveTable, move_id, "move")
    return found


def moves_of(bag_id: str) -> list[tuple[records.Move, bool]]:
    """Every move of a bag, oldest first, and whether it still stands."""
    rows: list[records.Move] = read(
        MoveTable.select().where(MoveTable.bag == bag_id).order_by(MoveTable.id)
    )
    undone = entries.undone_among([row.id for row in rows])
    return [(row, row.id not in undone) for row in rows]


def refresh(bag_id: str) -> records.BagNow:
    """Derive where a bag is now; in the transaction that moved it."""
    refresh_many([bag_id])
    return now(bag_id)


def refresh_many(bag_ids: list[str]) -> None:
    """Derive where bags are now; what logs showed of them stays as it is."""
    for start in range(0, len(bag_ids), MANY):
        ids = bag_ids[start : start + MANY]
        hole, undone = json.dumps(ids), entries.undone_among(ids)
        before = {row.bag_id: row for row in _STATES(hole)}
        moves = moves_of_bags(ids)
        put_many(
            BagNowTable,
            [
                _derived(bag, moves[bag.id], before.get(bag.id), bag.id in undone)
                for bag in _BAGS(hole)
            ],
        )


def _derived(
    bag: records.Bag,
    moves: list[records.Move],
    before: records.BagNow | None,
    undone: bool,
) -> dict[str, object]:
    lost = before.lost_days if before else 0
    last = moves[-1] if moves else None
    if undone:
        state, place = "withdrawn", None
    elif last is None:
        state, place = "sealed", None
    else:
        state, place = last.action, last.place_id
    return {
        "bag": bag.id,
        "trip": bag.trip_id,
        "state": state,
        "place": place,
        "best_by": bag.best_by - timedelta(days=lost),
        "lost_days": lost,
        "raw_from": before.raw_from if before else None,
        "why": last.why if last and state == "out" else "",
    }


def keep_by_log(rows: list[records.BagNow]) -> None:
    """What the logs of their places showed of bags."""
    many_sql(
        "UPDATE bag_now SET lost_days = ?, best_by = ?, raw_from = ? WHERE bag_id = ?",
        [
            (
                row.lost_days,
                row.best_by.isoformat(),
                BagNowTable.raw_from.db_value(row.raw_from),
                row.bag_id,
            )
            for row in rows
        ],
    )


def moves_of_bags(bag_ids: list[str]) -> dict[str, list[records.Move]]:
    """By bag: its moves that stand, oldest first."""
    found: dict[str, list[records.Move]] = {bag_id: [] for bag_id in bag_ids}
    for row in _MOVES(json.dumps(bag_ids)):
        found[row.bag_id].append(row)
    return found


def servings_in(pieces: list[str]) -> float:
    """Servings of these pieces that lie in a freezer."""
    query = """
        SELECT coalesce(sum(bag.servings), 0) FROM bag_now JOIN bag ON bag.id = bag_now.bag_id
        WHERE state = 'in' AND piece IN (SELECT value FROM json_each(?))
    """
    return float(plain_sql(query, json.dumps(pieces))[0][0])


def ever_in(place_ids: list[str]) -> list[str]:
    """Ids of bags that are, or were, in one of these places and were not undone or given out."""
    query = """
        SELECT DISTINCT move.bag_id FROM move JOIN bag_now ON bag_now.bag_id = move.bag_id
        WHERE move.place_id IN (SELECT value FROM json_each(?)) AND bag_now.state = 'in'
          AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = move.id)
    """
    return [bag for (bag,) in plain_sql(query, json.dumps(place_ids))]


def places_by_code(codes: list[str]) -> dict[str, str]:
    """By code: the id of the place that a bag is in; "" when it is in none."""
    query = """
        SELECT code, CASE state WHEN 'in' THEN place_id ELSE '' END FROM bag
        JOIN bag_now ON bag_now.bag_id = bag.id
        WHERE code IN (SELECT value FROM json_each(?))
    """
    return dict(plain_sql(query, json.dumps(codes)))


def with_ids(bag_ids: list[str]) -> list[tuple[records.Bag, records.BagNow]]:
    """These bags, in this order."""
    return _with_bags(bag_ids)


def in_states(states: tuple[str, ...]) -> list[tuple[records.Bag, records.BagNow]]:
    """Every bag in one of these states, first-expiring first."""
    query = """
        SELECT bag_id FROM bag_now WHERE state IN (SELECT value FROM json_each(?))
        ORDER BY best_by, bag_id
    """
    return _with_bags([bag for (bag,) in plain_sql(query, json.dumps(states))])


def all_in() -> list[tuple[records.Bag, records.BagNow]]:
    """Every bag in a place, first-expiring first."""
    return in_states(("in",))


def now(bag_id: str) -> records.BagNow:
    """Where a bag is now. Raises Unknown."""
    found: records.BagNow = find(BagNowTable, bag_id, "bag")
    return found


def first_expiring(
    place_id: str = "", limit: int = 50, skip: int = 0
) -> list[tuple[records.Bag, records.BagNow]]:
    """Bags in the freezer, first-expiring first."""
    # the page is picked on the index alone before the wide rows are fetched
    here, given = ("AND place_id = ?", [place_id]) if place_id else ("", [])
    query = f"""
        SELECT bag_id FROM bag_now WHERE state = 'in' {here}
        ORDER BY best_by, bag_id LIMIT ? OFFSET ?
    """  # noqa: S608
    return _with_bags([bag for (bag,) in plain_sql(query, *given, limit, skip)])


def of_trip(trip_id: str, states: tuple[str, ...]) -> list[tuple[records.Bag, records.BagNow]]:
    """A trip's bags in these states, in the order they were sealed."""
    query = "SELECT bag_id, state FROM bag_now WHERE trip_id = ? ORDER BY bag_id"
    return _with_bags([bag for bag, state in plain_sql(query, trip_id) if state in states])


def totals_of_trip(trip_id: str) -> dict[str, tuple[int, float]]:
    """By state: how many of a trip's bags are in it, and their mass [kg]."""
    query = """
        SELECT state, count(*), sum(kg) FROM bag_now JOIN bag ON bag.id = bag_now.bag_id
        WHERE bag_now.trip_id = ? GROUP BY state
    """
    return {state: (number, kg) for state, number, kg in plain_sql(query, trip_id)}


def count_in(place_id: str = "") -> int:
    """How many bags are in the freezer, or in one place of it."""
    query = "SELECT count(*) FROM bag_now WHERE state = 'in'"
    if place_id:
        ((number,),) = plain_sql(f"{query} AND place_id = ?", place_id)
    else:
        ((number,),) = plain_sql(query)
    return int(number)


def count() -> int:
    """Every bag in the file."""
    return BagTable.select().count()


def party_names(party_ids: set[str]) -> dict[str, str]:
    """Names of parties, for labels and lists."""
    return {row.id: row.name for row in _PARTIES(json.dumps(sorted(party_ids)))}


def _with_bags(ids: list[str]) -> list[tuple[records.Bag, records.BagNow]]:
    wanted = json.dumps(ids)
    bags = {row.id: row for row in _BAGS(wanted)}
    states = {row.bag_id: row for row in _STATES(wanted)}
    return [(bags[i], states[i]) for i in ids]

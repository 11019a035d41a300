"""Finished fish over all trips, each with who cut it, how, and what it gave, by piece."""

import json
from collections.abc import Mapping
from datetime import date
from typing import NamedTuple

from lepidos.store.base.rows import Values, plain_sql


class GivenRow(NamedTuple):
    """A finished fish as the book has it; `parts` is kg by piece."""

    fish_id: str
    trip_id: str
    trip: str
    on_date: date
    code: str
    species: str
    party: str
    length_m: float
    length_type: str
    whole_kg: float | None
    gutted_kg: float | None
    fillet_kg: float
    parts: Mapping[str, float]
    facts: str
    steps: str
    seconds: float | None
    cutter: str
    skin: str
    purpose: str
    methods: Mapping[str, str]
    tools: str
    alike: bool
    doubt: str


def marks() -> dict[int, tuple[int, int]]:
    """By year: what stands for its finished fish; it changes with any of them.

    What is derived of a fish is written again whenever the fish changes, and gets a new place.
    """
    query = """
        SELECT CAST(substr(on_date, 1, 4) AS INTEGER), count(*), max(fish_now.rowid)
        FROM fish_now JOIN trip ON trip.id = fish_now.trip_id WHERE stage = 'done' GROUP BY 1
    """
    return {year: (number, last) for year, number, last in plain_sql(query)}


def of_year(year: int) -> list[GivenRow]:
    """The finished fish of a year, in the order in which they were landed."""
    query = """
        SELECT n.fish_id, n.trip_id, t.name, t.on_date, f.code, n.species, coalesce(p.name, ''),
          n.length_m, n.length_type, n.whole_kg, n.gutted_kg, n.fillet_kg, n.parts, n.facts,
          n.steps, n.seconds, coalesce(b.name, ''), coalesce(w.skin, f.skin),
          coalesce(w.purpose, ''), coalesce(w.methods, '{}'), coalesce(w.tools, ''),
          coalesce(w.pieces, '{}') = '{}', n.doubt
        FROM trip t JOIN fish_now n ON n.trip_id = t.id AND n.stage = 'done'
        JOIN fish f ON f.id = n.fish_id
        LEFT JOIN party p ON p.id = f.party_id LEFT JOIN board b ON b.id = n.board_id
        LEFT JOIN wish w ON w.fish_id = n.fish_id AND w.settled = 1
          AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = w.id)
        WHERE t.on_date BETWEEN ? AND ? ORDER BY n.fish_id
    """
    rows = plain_sql(query, f"{year}-01-01", f"{year}-12-31")
    return [_row(row) for row in rows]


def _row(row: Values) -> GivenRow:
    values = list(row)
    values[3] = date.fromisoformat(values[3])
    values[12], values[19] = json.loads(values[12]), json.loads(values[19])
    values[21] = bool(values[21])
    return GivenRow._make(values)


def costs() -> dict[str, int]:
    """By trip: what it cost, in the smallest coin."""
    query = """
        SELECT trip_id, sum(coins) FROM cost
        WHERE NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = cost.id) GROUP BY 1
    """
    return {trip: int(coins) for trip, coins in plain_sql(query)}


def portions(trip_ids: list[str]) -> tuple[float, float]:
    """Servings and kilograms in the bags of these trips that stand."""
    query = """
        SELECT coalesce(sum(bag.servings), 0), coalesce(sum(bag.kg), 0.0)
        FROM bag JOIN bag_now ON bag_now.bag_id = bag.id
        WHERE bag.trip_id IN (SELECT value FROM json_each(?)) AND state <> 'withdrawn'
    """
    ((number, kg),) = plain_sql(query, json.dumps(trip_ids))
    return float(number), float(kg)

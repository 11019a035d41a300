"""What a season came to: fish, pieces and bags over all its trips, added up."""

from lepidos.store import records
from lepidos.store.base.rows import MAKERS, plain_sql
from lepidos.store.schema.fish import FishNowTable


def years() -> list[int]:
    """The years with trips, the newest first."""
    query = "SELECT DISTINCT substr(on_date, 1, 4) FROM trip ORDER BY 1 DESC"
    return [int(year) for (year,) in plain_sql(query)]


def fish(first: str, last: str, party: str) -> list[records.FishNow]:
    """Fish that stand, of trips from a day to a day (ISO 8601); of a party by name, "" for all."""
    query = """
        SELECT fish_now.* FROM fish_now JOIN trip ON trip.id = fish_now.trip_id
        JOIN fish ON fish.id = fish_now.fish_id LEFT JOIN party ON party.id = fish.party_id
        WHERE on_date BETWEEN ? AND ? AND stage != 'withdrawn' AND (? = '' OR party.name = ?)
    """
    make = MAKERS[FishNowTable]
    return [make(row) for row in plain_sql(query, first, last, party, party)]


def pieces(first: str, last: str, party: str) -> list[tuple[str, str, bool, float]]:
    """By species, piece and whether it counts: kilograms weighed off the same fish.

    A piece counts when its fish is finished and none of its pieces was weighed
    untrimmed or judged by eye.
    """
    query = """
        SELECT fish_now.species, weighing.piece, stage = 'done' AND fish_now.doubt = '',
          sum(weighing.kg) FROM weighing
        JOIN fish_now ON fish_now.fish_id = weighing.fish_id
        JOIN trip ON trip.id = fish_now.trip_id
        JOIN fish ON fish.id = fish_now.fish_id LEFT JOIN party ON party.id = fish.party_id
        WHERE on_date BETWEEN ? AND ? AND stage != 'withdrawn' AND (? = '' OR party.name = ?)
          AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = weighing.id)
        GROUP BY 1, 2, 3
    """
    rows = plain_sql(query, first, last, party, party)
    return [(kind, piece, bool(counts), kg) for kind, piece, counts, kg in rows]


def bags(first: str, last: str, party: str) -> list[tuple[str, str, str, str, float, int]]:
    """By species, piece, state and why it was taken out: kilograms in bags, and how many."""
    query = """
        SELECT bag.species, bag.piece, state, why, sum(bag.kg), count(*)
        FROM trip JOIN bag_now ON bag_now.trip_id = trip.id JOIN bag ON bag.id = bag_now.bag_id
        LEFT JOIN party ON party.id = bag.party_id
        WHERE on_date BETWEEN ? AND ? AND state != 'withdrawn' AND (? = '' OR party.name = ?)
        GROUP BY 1, 2, 3, 4
    """
    return list(plain_sql(query, first, last, party, party))


def parties(first: str, last: str) -> list[str]:
    """Names of parties on those trips."""
    query = """
        SELECT DISTINCT party.name FROM party JOIN trip ON trip.id = party.trip_id
        WHERE on_date BETWEEN ? AND ? ORDER BY 1
    """
    return [name for (name,) in plain_sql(query, first, last)]

"""Bags, what is in them, and where they have been."""

from datetime import datetime

from peewee import SQL, fn

from lepidos.core.errors import Unknown
from lepidos.store import entries, records
from lepidos.store.ids import IdMaker
from lepidos.store.models import (
    Bag,
    BagNow,
    Fish,
    FishNow,
    Move,
    Party,
    Place,
    Portion,
    Undo,
    Weighing,
)
from lepidos.store.rows import add as add_row
from lepidos.store.rows import find, first, read, split, values


def add(ids: IdMaker, at: datetime, **values: object) -> records.Bag:
    """A sealed bag."""
    return add_row(Bag, id=ids.new(at), sealed_at=at, **values)


def add_portion(ids: IdMaker, at: datetime, **values: object) -> records.Portion:
    """A stretch of a piece, in a bag."""
    return add_row(Portion, id=ids.new(at), **values)


def code_taken(code: str) -> bool:
    """Whether a code is on some bag already."""
    return Bag.select().where(Bag.code == code).exists()


def get(bag_id: str) -> records.Bag:
    """Raises Unknown."""
    found: records.Bag = find(Bag, bag_id, "bag")
    return found


def by_code(code: str) -> records.Bag:
    """Raises Unknown."""
    found: records.Bag | None = first(Bag.select().where(Bag.code == code))
    if found is None:
        raise Unknown("bag", code)
    return found


def portions_of_bag(bag_id: str) -> list[tuple[records.Portion, records.Weighing, records.Fish]]:
    """What is in a bag, with the pieces and fish that it came from."""
    rows = (
        Portion.select(Portion, Weighing, Fish)
        .join(Weighing)
        .join(Fish)
        .where(Portion.bag == bag_id)
        .order_by(Portion.id)
    )
    return [split(row, Portion, Weighing, Fish) for row in values(rows)]


def portions_of_piece(weighing_id: str) -> list[tuple[records.Portion, records.Bag]]:
    """Bags that hold some of a piece and were not taken back."""
    rows = (
        Portion.select(Portion, Bag)
        .join(Bag)
        .join(BagNow, on=(BagNow.bag == Bag.id))
        .where(Portion.weighing == weighing_id, BagNow.state != "withdrawn")
        .order_by(Portion.position)
    )
    return [split(row, Portion, Bag) for row in values(rows)]


def packed_shares(trip_id: str) -> dict[str, float]:
    """By weighing: which part of it is in bags that stand."""
    rows = (
        Portion.select(Portion.weighing, fn.SUM(Portion.share))
        .join(Weighing)
        .join(FishNow, on=(FishNow.fish == Weighing.fish))
        .join(BagNow, on=(BagNow.bag == Portion.bag))
        .where(FishNow.trip == trip_id, BagNow.state != "withdrawn")
        .group_by(Portion.weighing)
        .tuples()
    )
    return dict(rows)


def count_waiting(trip_id: str, pieces: list[str], packed: float) -> int:
    """How many of a trip's weighed pieces of these kinds are not yet in bags by this share."""
    taken_back = Undo.select().where(Undo.target_id == Weighing.id)
    share = (
        Portion.select(fn.COALESCE(fn.SUM(Portion.share), 0))
        .join(BagNow, on=(BagNow.bag == Portion.bag))
        .where(Portion.weighing == Weighing.id, BagNow.state != "withdrawn")
    )
    return (
        Weighing.select()
        .join(FishNow, on=(FishNow.fish == Weighing.fish))
        .where(
            FishNow.trip == trip_id,
            FishNow.stage != "withdrawn",
            Weighing.piece.in_(pieces),
            ~fn.EXISTS(taken_back),
            share < packed,
        )
        .count()
    )


def move(
    ids: IdMaker, at: datetime, bag_id: str, action: str, place_id: str | None, why: str = ""
) -> records.Move:
    """Add a move."""
    return add_row(Move, id=ids.new(at), bag=bag_id, action=action, place=place_id, why=why, at=at)


def get_move(move_id: str) -> records.Move:
    """Raises Unknown."""
    found: records.Move = find(Move, move_id, "move")
    return found


def moves_of(bag_id: str) -> list[tuple[records.Move, bool]]:
    """Every move of a bag, oldest first, and whether it still stands."""
    rows: list[records.Move] = read(Move.select().where(Move.bag == bag_id).order_by(SQL("rowid")))
    undone = entries.undone_among([row.id for row in rows])
    return [(row, row.id not in undone) for row in rows]


def refresh(bag_id: str) -> records.BagNow:
    """Derive where a bag is now; in the transaction that moved it."""
    bag = get(bag_id)
    standing = [row for row, stands in moves_of(bag_id) if stands]
    last = standing[-1] if standing else None
    if entries.is_undone(bag_id):
        state, place = "withdrawn", None
    elif last is None:
        state, place = "sealed", None
    else:
        state, place = last.action, last.place_id
    BagNow.replace(
        bag=bag_id, trip=bag.trip_id, state=state, place=place, best_by=bag.best_by
    ).execute()
    return now(bag_id)


def now(bag_id: str) -> records.BagNow:
    """Where a bag is now. Raises Unknown."""
    found: records.BagNow = find(BagNow, bag_id, "bag")
    return found


def first_expiring(
    place_id: str = "", limit: int = 50, skip: int = 0
) -> list[tuple[records.Bag, records.BagNow]]:
    """Bags in the freezer, first-expiring first."""
    where = BagNow.state == "in"
    if place_id:
        where &= BagNow.place == place_id
    picked = (
        BagNow.select(BagNow.bag)
        .where(where)
        .order_by(BagNow.best_by, BagNow.bag)
        .limit(limit)
        .offset(skip)
    )
    # the page is picked on the index alone before the wide rows are fetched
    return _with_bags([row[0] for row in values(picked)])


def of_trip(trip_id: str, states: tuple[str, ...]) -> list[tuple[records.Bag, records.BagNow]]:
    """A trip's bags in these states, in the order they were sealed."""
    rows = BagNow.select(BagNow.bag).where(BagNow.trip == trip_id, BagNow.state.in_(states))
    return sorted(_with_bags([row[0] for row in values(rows)]), key=lambda pair: str(pair[0].id))


def totals_of_trip(trip_id: str) -> dict[str, tuple[int, float]]:
    """By state: how many of a trip's bags are in it, and their mass [kg]."""
    # plain SQL: every page asks this, and building the query would cost more than it
    query = (
        "SELECT state, count(*), sum(kg) FROM bag_now JOIN bag ON bag.id = bag_now.bag_id "
        "WHERE bag_now.trip_id = ? GROUP BY state"
    )
    rows = BagNow._meta.database.execute_sql(query, (trip_id,))
    return {state: (number, kg) for state, number, kg in rows}


def count_in(place_id: str = "") -> int:
    """How many bags are in the freezer, or in one place of it."""
    where = BagNow.state == "in"
    if place_id:
        where &= BagNow.place == place_id
    return BagNow.select().where(where).count()


def count() -> int:
    """Every bag in the file."""
    return Bag.select().count()


def places() -> list[tuple[records.Place, int]]:
    """Freezer places with how many bags each holds."""
    counts: dict[str, int] = dict(
        BagNow.select(BagNow.place, fn.COUNT())
        .where(BagNow.state == "in")
        .group_by(BagNow.place)
        .tuples()
    )
    return [(row, counts.get(row.id, 0)) for row in read(Place.select().order_by(Place.id))]


def place(place_id: str) -> records.Place:
    """Raises Unknown."""
    found: records.Place = find(Place, place_id, "place")
    return found


def place_named(name: str) -> records.Place | None:
    """A place by its name, in any case."""
    # SQLite folds ASCII only, and there are few places
    wanted = name.casefold()
    return next((row for row in read(Place.select()) if row.name.casefold() == wanted), None)


def add_place(ids: IdMaker, at: datetime, name: str) -> records.Place:
    """A new freezer place."""
    return add_row(Place, id=ids.new(at), name=name)


def party_names(party_ids: set[str]) -> dict[str, str]:
    """Names of parties, for labels and lists."""
    rows = Party.select().where(Party.id.in_(list(party_ids)))
    return {row.id: row.name for row in read(rows)}


def _with_bags(ids: list[str]) -> list[tuple[records.Bag, records.BagNow]]:
    bags = {row.id: row for row in read(Bag.select().where(Bag.id.in_(ids)))}
    states = {row.bag_id: row for row in read(BagNow.select().where(BagNow.bag.in_(ids)))}
    return [(bags[i], states[i]) for i in ids]

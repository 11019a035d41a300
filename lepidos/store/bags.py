"""Bags, what is in them, and where they have been."""

from datetime import datetime

from peewee import SQL, fn

from lepidos.core.errors import Unknown
from lepidos.store import entries
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
from lepidos.store.ready import Ready

_TOTALS: Ready[BagNow] = Ready(
    lambda trip: (
        BagNow.select(
            BagNow.state, fn.COUNT(BagNow.bag).alias("number"), fn.SUM(Bag.kg).alias("mass")
        )
        .join(Bag, on=(Bag.id == BagNow.bag))
        .where(BagNow.trip == trip)
        .group_by(BagNow.state)
    )
)


def add(ids: IdMaker, at: datetime, **values: object) -> Bag:
    """A sealed bag."""
    return Bag.create(id=ids.new(at), sealed_at=at, force_insert=True, **values)


def add_portion(ids: IdMaker, at: datetime, **values: object) -> Portion:
    """A stretch of a piece, in a bag."""
    return Portion.create(id=ids.new(at), force_insert=True, **values)


def code_taken(code: str) -> bool:
    """Whether a code is on some bag already."""
    return Bag.select().where(Bag.code == code).exists()


def get(bag_id: str) -> Bag:
    """Raises Unknown."""
    bag = Bag.get_or_none(Bag.id == bag_id)
    if bag is None:
        raise Unknown("bag", bag_id)
    return bag


def by_code(code: str) -> Bag:
    """Raises Unknown."""
    bag = Bag.get_or_none(Bag.code == code)
    if bag is None:
        raise Unknown("bag", code)
    return bag


def portions_of_bag(bag_id: str) -> list[tuple[Portion, Weighing, Fish]]:
    """What is in a bag, with the pieces and fish that it came from."""
    rows = (
        Portion.select(Portion, Weighing, Fish)
        .join(Weighing)
        .join(Fish)
        .where(Portion.bag == bag_id)
        .order_by(Portion.id)
    )
    return [(row, row.weighing, row.weighing.fish) for row in rows]


def portions_of_piece(weighing_id: str) -> list[tuple[Portion, Bag]]:
    """Bags that hold some of a piece and were not taken back."""
    rows = (
        Portion.select(Portion, Bag)
        .join(Bag)
        .join(BagNow, on=(BagNow.bag == Bag.id))
        .where(Portion.weighing == weighing_id, BagNow.state != "withdrawn")
        .order_by(Portion.position)
    )
    return [(row, row.bag) for row in rows]


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
) -> Move:
    """Add a move."""
    return Move.create(
        id=ids.new(at),
        bag=bag_id,
        action=action,
        place=place_id,
        why=why,
        at=at,
        force_insert=True,
    )


def get_move(move_id: str) -> Move:
    """Raises Unknown."""
    row = Move.get_or_none(Move.id == move_id)
    if row is None:
        raise Unknown("move", move_id)
    return row


def moves_of(bag_id: str) -> list[tuple[Move, bool]]:
    """Every move of a bag, oldest first, and whether it still stands."""
    rows = list(Move.select().where(Move.bag == bag_id).order_by(SQL("rowid")))
    undone = entries.undone_among([row.id for row in rows])
    return [(row, row.id not in undone) for row in rows]


def refresh(bag_id: str) -> BagNow:
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
    return BagNow.get_by_id(bag_id)


def now(bag_id: str) -> BagNow:
    """Where a bag is now. Raises Unknown."""
    row = BagNow.get_or_none(BagNow.bag == bag_id)
    if row is None:
        raise Unknown("bag", bag_id)
    return row


def first_expiring(place_id: str = "", limit: int = 50, skip: int = 0) -> list[tuple[Bag, BagNow]]:
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
    ids = [row.bag_id for row in picked]
    return _with_bags(ids)


def of_trip(trip_id: str, states: tuple[str, ...]) -> list[tuple[Bag, BagNow]]:
    """A trip's bags in these states, in the order they were sealed."""
    rows = BagNow.select(BagNow.bag).where(BagNow.trip == trip_id, BagNow.state.in_(states))
    return sorted(_with_bags([r.bag_id for r in rows]), key=lambda pair: str(pair[0].id))


def totals_of_trip(trip_id: str) -> dict[str, tuple[int, float]]:
    """By state: how many of a trip's bags are in it, and their mass [kg]."""
    rows = _TOTALS(trip_id)
    return {row.state: (row.number, row.mass) for row in rows}


def count_in(place_id: str = "") -> int:
    """How many bags are in the freezer, or in one place of it."""
    where = BagNow.state == "in"
    if place_id:
        where &= BagNow.place == place_id
    return BagNow.select().where(where).count()


def count() -> int:
    """Every bag in the file."""
    return Bag.select().count()


def places() -> list[tuple[Place, int]]:
    """Freezer places with how many bags each holds."""
    counts: dict[str, int] = dict(
        BagNow.select(BagNow.place, fn.COUNT())
        .where(BagNow.state == "in")
        .group_by(BagNow.place)
        .tuples()
    )
    return [(row, counts.get(row.id, 0)) for row in Place.select().order_by(Place.id)]


def place(place_id: str) -> Place:
    """Raises Unknown."""
    row = Place.get_or_none(Place.id == place_id)
    if row is None:
        raise Unknown("place", place_id)
    return row


def place_named(name: str) -> Place | None:
    """A place by its name, in any case."""
    # SQLite folds ASCII only, and there are few places
    wanted = name.casefold()
    return next((row for row in Place.select() if row.name.casefold() == wanted), None)


def add_place(ids: IdMaker, at: datetime, name: str) -> Place:
    """A new freezer place."""
    return Place.create(id=ids.new(at), name=name, force_insert=True)


def party_names(party_ids: set[str]) -> dict[str, str]:
    """Names of parties, for labels and lists."""
    rows = Party.select().where(Party.id.in_(list(party_ids)))
    return {row.id: row.name for row in rows}


def _with_bags(ids: list[str]) -> list[tuple[Bag, BagNow]]:
    bags = {row.id: row for row in Bag.select().where(Bag.id.in_(ids))} if ids else {}
    states = {r.bag_id: r for r in BagNow.select().where(BagNow.bag.in_(ids))} if ids else {}
    return [(bags[i], states[i]) for i in ids]

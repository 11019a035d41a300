"""The bag plan: all that lies on the table, in bags, by party; and what is still to come."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from lepidos.core.fish.species import Species
from lepidos.core.pack.bag_plan import BagOf, plan_bags
from lepidos.core.pack.bag_sizes import (
    BagSize,
    Laid,
    Supply,
    TakenBag,
    take_from_stock,
    ways_to_lay,
)
from lepidos.core.pack.fair_split import Bag as BagToShare
from lepidos.guide.packing import usual_packing
from lepidos.stations.base.context import AppContext
from lepidos.stations.pack.parts import PartRow, Rules, rules_of
from lepidos.stations.pack.party_wishes import not_taken
from lepidos.stations.pack.planned import Column, PackTable, PlannedBag, SupplyLine, ToCome
from lepidos.stations.pack.portioning import PieceRow
from lepidos.stations.pack.sharing import OWN, Shared, pooled_fish, split_bags, way_of
from lepidos.stations.pack.to_come import parts_to_come
from lepidos.stations.pack.waiting import parts_waiting
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store.base import entries
from lepidos.store.pack import bags, packing, portions
from lepidos.store.records import Bag, PartyWish, ShareRule

# What must be the same in a bag, in the order of `Part.kin`, as a refusal names it.
KIN = (
    "they are for different parties",
    "they are of different fish",
    "they are different pieces",
    "thick with thick, and tails apart: they cook at different speeds",
    "one has its skin on, the other off",
    "they are for different purposes",
    "they were caught on different days",
    "something was seen on one of the fish",
)


@dataclass(frozen=True)
class _Plan:
    """What does not depend on which bag somebody looks at."""

    planned: tuple[PlannedBag, ...]
    to_come: tuple[ToCome, ...]
    sealed: tuple[Bag, ...]
    least: int
    fewest: bool
    rules: Rules
    rule: ShareRule | None
    supplies: tuple[SupplyLine, ...]
    pooled: frozenset[str]
    pieces: tuple[PieceRow, ...]
    wishes: dict[str, PartyWish]
    guests: dict[str, list[PartyWish]]


def view_pack(ctx: AppContext, trip_id: str, chosen: str = "", party_id: str = "") -> PackTable:
    """The table in bags. Next is the bag with the key `chosen`, else that party's first, else the
    first of all. Raises Unknown.
    """
    with ctx.store.reading():
        view = view_in_transaction(ctx, trip_id)
        plan = plan_in_transaction(ctx, view)
        shared = _shared(ctx, view, plan)
    columns = _columns(ctx, view, plan, shared)
    ahead = [bag for column in columns for bag in column.planned]
    theirs = [bag for column in columns if column.party_id == party_id for bag in column.planned]
    first = next(iter(theirs or ahead), None)
    at_hand = next((bag for bag in ahead if bag.key == chosen), first)
    return PackTable(
        view,
        columns,
        at_hand,
        plan.least,
        plan.fewest,
        plan.supplies,
        shared,
        plan.rule,
        plan.pieces,
        plan.wishes,
        plan.guests,
    )


def plan_in_transaction(ctx: AppContext, view: TripView) -> _Plan:
    """The plan of a trip's bags, made once for each state of the file."""
    key = ("bag plan", view.trip.id, entries.last_key(), ctx.guide.edition)
    return ctx.memo.get(key, lambda: _plan(ctx, view))


def as_planned(ctx: AppContext, view: TripView, keys: Iterable[str]) -> tuple[str, Laid | None]:
    """Whose the bag with these parts is by the plan, and in which bag they lie; "" and None of a
    bag that the plan does not have. In an open transaction that wrote nothing yet.
    """
    plan, wanted = plan_in_transaction(ctx, view), set(keys)
    for bag in plan.planned:
        if {row.part.key for row in bag.rows} == wanted:
            shared = {} if bag.party_id else _shared(ctx, view, plan).party_of
            return bag.party_id or str(shared.get(bag.key, "")), bag.laid
    return "", None


def sizes_of(counted: Iterable[Supply]) -> list[Supply]:
    """What a crew counted, and the usual sizes that it did not; one that is out counts as none."""
    rows = {s.size: s for s in counted}
    usual = (BagSize(b.width_m, b.length_m) for b in usual_packing().bags)
    rows |= {size: Supply(size) for size in usual if size not in rows}
    return sorted(rows.values(), key=lambda s: (s.size.roll, s.size.width_m, s.size.length_m))


def supplies_now() -> list[Supply]:
    """Every size and what is left of it. In an open transaction."""
    return sizes_of(
        Supply(BagSize(row.width_m, row.length_m), max(0.0, row.held - used))
        for row, used in packing.supplies()
    )


def _plan(ctx: AppContext, view: TripView) -> _Plan:
    trip = view.trip.id
    rules, rule = rules_of(trip), packing.sharing_of(trip)
    pooled = pooled_fish(ctx, view, rule)
    supplies = supplies_now()
    there = [s for s in supplies if s.left is None or s.left > 0] or supplies
    sizes = [s.size for s in there]
    waiting = parts_waiting(ctx, view, rules, pooled)
    bagging = plan_bags([row.part for row in waiting], sizes)
    later = parts_to_come(ctx, view, rules, pooled)
    # how they will lie is not asked yet: only how many bags there will be
    coming = plan_bags([row.part for row in later], [])
    taken = take_from_stock([[p.shape for p in bag.parts] for bag in bagging.bags], supplies)
    return _Plan(
        _in_work_order(view, _planned(bagging.bags, waiting, taken, pooled)),
        _to_come(view, coming.bags, later, sizes, pooled),
        # what was taken out or handed over was somebody's all the same
        tuple(bag for bag, _ in bags.of_trip(trip, ("sealed", "in", "out"))),
        bagging.least,
        bagging.fewest,
        rules,
        rule,
        _lines(supplies, taken),
        pooled,
        tuple({row.row.weighing.id: row.row for row in waiting}.values()),
        packing.wishes_of(trip),
        packing.guests_of(trip),
    )


def _planned(
    bagged: Sequence[BagOf], rows: Sequence[PartRow], taken: TakenBag, pooled: frozenset[str]
) -> list[PlannedBag]:
    by_key = {row.part.key: row for row in rows}
    found = []
    for bag, laid in zip(bagged, taken.laid, strict=True):
        inside = tuple(by_key[part.key] for part in bag.parts)
        shared = any(row.row.fish.id in pooled for row in inside)
        found.append(PlannedBag(bag, inside, laid, bag.kin[0], shared))
    return found


def _to_come(
    view: TripView,
    bagged: Sequence[BagOf],
    rows: Sequence[PartRow],
    sizes: Sequence[BagSize],
    pooled: frozenset[str],
) -> tuple[ToCome, ...]:
    """Bags to come, those of one name as one row, with the first of them as it would lie."""
    none = TakenBag(tuple(None for _ in bagged), {}, {})
    by_name: dict[tuple[str, str], list[PlannedBag]] = {}
    for bag in _in_work_order(view, _planned(bagged, rows, none, pooled)):
        by_name.setdefault((bag.party_id, bag.name), []).append(bag)
    found = []
    for alike in by_name.values():
        ways = ways_to_lay([p.shape for p in alike[0].bag.parts], sizes)
        example = replace(alike[0], laid=ways[0] if ways else None)
        codes = tuple(dict.fromkeys(code for bag in alike for code in bag.codes))
        found.append(ToCome(len(alike), codes, example))
    return tuple(found)


def _in_work_order(view: TripView, planned: Sequence[PlannedBag]) -> tuple[PlannedBag, ...]:
    """By party; what keeps least long first; kind after kind of fish; large before small."""
    rank = {p.id: n for n, p in enumerate(view.parties)}
    return tuple(
        sorted(
            planned,
            key=lambda b: (
                rank.get(b.party_id, len(rank)),
                b.species.keeping.months,
                b.species.name,
                b.piece.counts_as != "fillet",
                b.piece.name,
                b.tail,
                -round(b.bag.kg, 3),
                b.key,
            ),
        )
    )


def _lines(supplies: Sequence[Supply], taken: TakenBag) -> tuple[SupplyLine, ...]:
    takes: dict[BagSize, float] = {}
    for laid in taken.laid:
        if laid:
            use = laid.length_m if laid.size.roll else 1.0
            takes[laid.size] = takes.get(laid.size, 0.0) + use
    return tuple(
        SupplyLine(s.size, s.left, takes.get(s.size, 0.0), taken.short.get(s.size, 0.0))
        for s in supplies
    )


def _shared(ctx: AppContext, view: TripView, plan: _Plan) -> Shared:
    """Share the pool out: bags to come, and those sealed already, which stay whose they are."""
    if way_of(plan.rule) == OWN:
        return Shared(OWN, {})
    number = {p.id: n for n, p in enumerate(view.parties)}

    def refusing(species: Species) -> frozenset[int]:
        return frozenset(n for p, n in number.items() if not_taken(plan.wishes, p, species))

    inside = portions.fish_in_bags(view.trip.id)
    rows = [
        BagToShare(
            bag.id,
            bag.species,
            round(bag.kg * 1000),
            number[str(bag.party_id)],
            refusing(ctx.guide.known_or_named(bag.species)),
        )
        for bag in plan.sealed
        # one that is nobody's has its label already: it is not reckoned as anybody's
        if bag.party_id in number and inside.get(bag.id, set()) & plan.pooled
    ]
    rows += [
        BagToShare(
            bag.key,
            bag.species.key,
            round(bag.bag.kg * 1000),
            number.get(bag.party_id),
            refusing(bag.species),
        )
        for bag in plan.planned
        if bag.pooled
    ]
    return split_bags(ctx, view, plan.rule, rows)


def _columns(ctx: AppContext, view: TripView, plan: _Plan, shared: Shared) -> tuple[Column, ...]:
    names = [(p.id, p.name) for p in view.parties] + [("", "" if view.parties else "All")]

    def of(bag: PlannedBag) -> str:
        return bag.party_id or str(shared.party_of.get(bag.key, ""))

    found = []
    for party, name in names:
        column = Column(
            party,
            name,
            tuple(bag for bag in plan.planned if of(bag) == party),
            tuple(b for b in plan.sealed if (b.party_id or "") == party),
            tuple(row for row in plan.to_come if row.example.party_id == party),
            plan.rules.marks(party, ""),
        )
        if party or not view.parties or column.planned or column.sealed or column.to_come:
            found.append(column)
    return tuple(found)

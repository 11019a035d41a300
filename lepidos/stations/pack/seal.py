"""Sealing a bag: the one way to do it, whether its parts are named or a piece's own bag is."""

import json
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime

from lepidos.core.errors import Conflict, Refused
from lepidos.core.pack import labels
from lepidos.core.pack.portions import into_bags, servings_in_bag
from lepidos.core.units import System
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.digest import BESIDE
from lepidos.stations.base.fish import require_workable
from lepidos.stations.pack.bagging import KIN, as_planned
from lepidos.stations.pack.paper import closed_how
from lepidos.stations.pack.parts import PartRow, Rules, of_parts, part_key, rules_of
from lepidos.stations.pack.portioning import Marks, marks_of, piece_row, portion_plan, with_rest
from lepidos.stations.pack.sealed import bag_weight, best_of, free_code
from lepidos.stations.pack.sharing import pooled_fish
from lepidos.stations.pack.waiting import parts_waiting
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store.deck import fishes
from lepidos.store.pack import bags, packing, portions
from lepidos.store.records import Bag

MAX_PARTS = 60


@dataclass(frozen=True)
class PieceBag:
    """A bag of one piece's own plan: the bag `index` that these marks give, as a person saw them.

    `also` are other pieces that go whole into the same bag.
    """

    weighing_id: str
    index: int = 0
    marks: Marks = field(default_factory=Marks)
    also: tuple[str, ...] = ()


@dataclass(frozen=True)
class SealBag:
    """An order to seal these parts in one bag, as the plan shows them; or a piece's own bag.

    `party_id` is who takes it, for bags of the pool. `kg` is the bag's weight when it was taken;
    width and length are the empty bag's [m], 0 where nobody said. `as_planned`: party and bag are
    those of the plan.
    """

    trip_id: str
    parts: tuple[str, ...] = ()
    party_id: str = ""
    kg: float | None = None
    width_m: float = 0.0
    length_m: float = 0.0
    from_roll: bool = False
    as_planned: bool = False
    of_piece: PieceBag | None = None
    system: System = field(default="metric", metadata=BESIDE)


def seal_bag(ctx: AppContext, key: str, order: SealBag) -> Receipt:
    """Seal it and make its row. Print afterwards with `send_label`.

    Raises: Refused with the field; Conflict when a part is sealed already, or cut otherwise now.
    """

    def do(at: datetime) -> Receipt:
        view = view_in_transaction(ctx, order.trip_id)
        keys, rules = order.parts, rules_of(order.trip_id)
        if order.of_piece:
            keys, rules = _of_piece(ctx, view, order.of_piece, rules)
        rows = parts_of(ctx, view, keys, rules)
        require_kin(rows)
        party_id, size = order.party_id, (order.width_m, order.length_m, order.from_roll)
        if order.as_planned:
            party_id, laid = as_planned(ctx, view, keys)
            size = (laid.size.width_m, laid.length_m, laid.size.roll) if laid else size
        party = party_id or rows[0].part.kin[0] or None
        if party and party not in {p.id for p in view.parties}:
            raise Refused({"party": "That party is not on this trip"})
        expected_kg = sum(row.portion.kg for row in rows)
        bag_kg, question = bag_weight(order.kg, expected_kg, order.system)
        bag = _write(ctx, at, view, rows, party, bag_kg, order.kg is not None, size)
        shares = bag_kg / expected_kg
        for row in rows:
            _write_part(ctx, at, bag, row, shares)
        bags.refresh(bag.id)
        return Receipt("bag", bag.id, f"Bag {labels.show_code(bag.code)} sealed", question)

    return run_idempotent(ctx, key, "pack.bag", order, do)


def _of_piece(
    ctx: AppContext, view: TripView, wanted: PieceBag, rules: Rules
) -> tuple[tuple[str, ...], Rules]:
    """The parts of a piece's own bag, and the rules by which they are cut so.

    Raises: Refused at `index` or `also`; Conflict when the piece was packed otherwise meanwhile.
    """
    weighing = fishes.weighing(wanted.weighing_id)
    fish = fishes.get(weighing.fish_id)
    require_workable(ctx, fish, fishes.now(fish.id))
    packed = portions.of_piece(weighing.id)
    row = piece_row(ctx, view, weighing, fish, sum(p.share for p, _ in packed))
    locked = marks_of(packed)
    used, plan, _ = portion_plan(ctx, row, locked or wanted.marks)
    plan = with_rest(plan, [portion for portion, _ in packed])
    if locked and _resolved(wanted.marks, used) != used:
        raise Conflict("This piece has bags with other marks already; look at it again")
    bag = next((b for b in into_bags(plan.portions, used.per_bag) if b.index == wanted.index), None)
    if bag is None:
        raise Refused({"index": "There is no such bag in this plan"})
    inside = {portion.index for portion in bag.portions}
    if earlier := next((bag for p, bag in packed if p.position in inside), None):
        raise Conflict(f"That portion is already in bag {labels.show_code(earlier.code)}")
    if wanted.also and len(plan.portions) > 1:
        raise Refused({"also": "Only a piece that is packed whole can share its bag"})
    rules = rules.asking(weighing.id, wanted.marks)
    keys = [part_key(weighing.id, portion) for portion in bag.portions]
    others = of_parts(parts_waiting(ctx, view, rules, frozenset(), frozenset(wanted.also)))
    whole = {row.row.weighing.id: key for key, row in others.items() if row.whole}
    if missing := [one for one in wanted.also if one not in whole]:
        raise Conflict(f"{labels.count(len(missing), 'piece')} of these went into another bag")
    return (*keys, *(whole[one] for one in dict.fromkeys(wanted.also))), rules


def _resolved(asked: Marks, used: Marks) -> Marks:
    length_m = asked.length_m or used.length_m
    serving_kg = used.serving_kg if asked.serving_kg is None else asked.serving_kg
    if used.length_m == 0:  # a piece without marks: only the serving counts
        return replace(used, serving_kg=serving_kg, length_m=0.0)
    return replace(
        used,
        serving_kg=serving_kg,
        per_bag=asked.per_bag,
        tail_apart=asked.tail_apart,
        length_m=length_m,
    )


def parts_of(
    ctx: AppContext, view: TripView, keys: Sequence[str], rules: Rules | None = None
) -> list[PartRow]:
    """Parts that wait, by their keys. In an open transaction.

    Raises: Refused for none or too many; Conflict for one that does not wait any more.
    """
    wanted = tuple(dict.fromkeys(keys))
    if not 1 <= len(wanted) <= MAX_PARTS:
        raise Refused({"parts": f"A bag holds 1 to {MAX_PARTS} pieces"})
    rule = packing.sharing_of(view.trip.id)
    pooled = pooled_fish(ctx, view, rule)
    weighings = frozenset(key.partition(":")[0] for key in wanted)
    rules = rules or rules_of(view.trip.id)
    found = of_parts(parts_waiting(ctx, view, rules, pooled, weighings))
    missing = [key for key in wanted if key not in found]
    if missing:
        raise Conflict(
            f"{labels.count(len(missing), 'piece')} of this bag went into another, or would be cut "
            "otherwise now. Look at the plan again."
        )
    rows = [found[key] for key in wanted]
    for row in rows:
        require_workable(ctx, row.row.fish, fishes.now(row.row.fish.id))
    return rows


def require_kin(rows: Sequence[PartRow]) -> None:
    """Raises Refused, with the reason, when these may not share a bag."""
    first = rows[0].part.kin
    for row in rows:
        for mine, theirs, why in zip(row.part.kin, first, KIN, strict=True):
            if mine != theirs:
                raise Refused({"parts": f"These cannot share a bag: {why}"})


def _write(
    ctx: AppContext,
    at: datetime,
    view: TripView,
    rows: Sequence[PartRow],
    party: str | None,
    kg: float,
    measured: bool,
    size: tuple[float, float, bool],
) -> Bag:
    one = rows[0]
    packed_on = at.astimezone(view.zone).date()
    return bags.add(
        ctx.ids,
        at,
        code=free_code(ctx),
        trip=view.trip.id,
        party=party,
        species=one.row.species.key,
        piece=one.row.weighing.piece,
        tail=one.portion.tail and not one.whole,
        skin=one.row.skin,
        purpose=one.row.purpose,
        servings=servings_in_bag(sum(row.part.servings for row in rows)),
        kg=kg,
        measured=measured,
        caught_on=one.caught_on,
        packed_on=packed_on,
        best_by=best_of(ctx, packed_on, [row.row for row in rows]),
        width_m=size[0],
        length_m=size[1],
        from_roll=size[2],
        thick_m=max(row.part.shape.thick_m for row in rows),
        pack=closed_how(),
    )


def _write_part(ctx: AppContext, at: datetime, bag: Bag, row: PartRow, scale: float) -> None:
    """One portion; a weighed bag's grams are shared out over all that is in it."""
    portions.add(
        ctx.ids,
        at,
        bag=bag.id,
        weighing=row.row.weighing.id,
        position=row.portion.index,
        from_m=row.portion.from_m,
        to_m=row.portion.to_m,
        share=row.portion.kg / row.row.weighing.kg,
        kg=row.portion.kg * scale,
        serving_kg=row.marks.serving_kg,
        length_m=row.marks.length_m,
        tail_apart=row.marks.tail_apart,
        per_bag=row.marks.per_bag,
        cuts=json.dumps(row.marks.cuts),
        thick=row.marks.thick or 0,
    )

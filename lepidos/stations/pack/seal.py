"""Sealing a bag of the plan: one touch, whatever lies in it."""

import json
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime

from lepidos.core.errors import Conflict, Refused
from lepidos.core.pack import labels
from lepidos.core.pack.portions import servings_in_bag
from lepidos.core.units import System
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.digest import BESIDE
from lepidos.stations.base.fish import require_workable
from lepidos.stations.pack.bagging import KIN, as_planned
from lepidos.stations.pack.bags import bag_weight, best_of, free_code
from lepidos.stations.pack.paper import closed_how
from lepidos.stations.pack.parts import PartRow, of_parts, rules_of
from lepidos.stations.pack.sharing import pooled_fish
from lepidos.stations.pack.waiting import parts_waiting
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store import bags, fishes, packing, portions
from lepidos.store.records import Bag

MAX_PARTS = 60


@dataclass(frozen=True)
class SealPlanned:
    """An order to seal these parts in one bag, as the plan shows them.

    `party_id` is who takes it, for bags of the pool. `kg` is the bag's weight when it was taken;
    width and length are the empty bag's [m], 0 where nobody said. `as_planned`: party and bag are
    those of the plan.
    """

    trip_id: str
    parts: tuple[str, ...]
    party_id: str = ""
    kg: float | None = None
    width_m: float = 0.0
    length_m: float = 0.0
    from_roll: bool = False
    as_planned: bool = False
    system: System = field(default="metric", metadata=BESIDE)


def seal_planned(ctx: AppContext, key: str, order: SealPlanned) -> Receipt:
    """Seal it and make its row. Print afterwards with `send_label`.

    Raises: Refused with the field; Conflict when a part is sealed already, or cut otherwise now.
    """

    def do(at: datetime) -> Receipt:
        view = view_in_transaction(ctx, order.trip_id)
        rows = parts_of(ctx, view, order.parts)
        require_kin(rows)
        party_id, size = order.party_id, (order.width_m, order.length_m, order.from_roll)
        if order.as_planned:
            party_id, laid = as_planned(ctx, view, order.parts)
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


def parts_of(ctx: AppContext, view: TripView, keys: Sequence[str]) -> list[PartRow]:
    """Parts that wait, by their keys. In an open transaction.

    Raises: Refused for none or too many; Conflict for one that does not wait any more.
    """
    wanted = tuple(dict.fromkeys(keys))
    if not 1 <= len(wanted) <= MAX_PARTS:
        raise Refused({"parts": f"A bag holds 1 to {MAX_PARTS} pieces"})
    rule = packing.sharing_of(view.trip.id)
    pooled = pooled_fish(ctx, view, rule)
    weighings = frozenset(key.partition(":")[0] for key in wanted)
    found = of_parts(parts_waiting(ctx, view, rules_of(view.trip.id), pooled, weighings))
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

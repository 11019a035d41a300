"""Sealing a bag: which pieces go in, what it weighs, and until when it keeps."""

import json
import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from zoneinfo import ZoneInfo

from lepidos.core.cold.freshness import quality_index
from lepidos.core.errors import Conflict, Refused
from lepidos.core.freezer.storage_life import best_by
from lepidos.core.limits import MIN_PIECE_KG
from lepidos.core.pack import labels
from lepidos.core.pack.findings import shortened
from lepidos.core.pack.portions import (
    BagPlan,
    PortionPlan,
    into_bags,
    servings_in_bag,
    servings_of,
)
from lepidos.core.units import System, format_mass
from lepidos.guide.freezing import usual_freezing
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.digest import BESIDE
from lepidos.stations.base.fish import require_workable
from lepidos.stations.pack.pack import partners_of
from lepidos.stations.pack.paper import closed_how
from lepidos.stations.pack.parts import NO_RULES, parts_of_piece
from lepidos.stations.pack.portioning import (
    Marks,
    PieceRow,
    marks_of,
    piece_row,
    portion_plan,
    with_rest,
)
from lepidos.stations.table.findings import follows, seen_on
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store import bags, fishes, looks, portions, trips
from lepidos.store.records import Bag, Fish, Trip

ODD_BAG = 1.4  # a bag this many times off its portions' weight is asked about (practice)


@dataclass(frozen=True)
class SealBag:
    """An order to seal the bag `index` of a piece's plan.

    `also` are other pieces that go whole into the same bag; `kg` is the bag's weight when it was
    taken. The marks are the ones the person saw.
    """

    weighing_id: str
    index: int
    marks: Marks
    also: tuple[str, ...] = ()
    kg: float | None = None
    system: System = field(default="metric", metadata=BESIDE)


def seal_bag(ctx: AppContext, key: str, order: SealBag) -> Receipt:
    """Seal one bag and make its row. Print afterwards with `print_label`.

    Raises: Refused with the field; Conflict when the piece was packed otherwise meanwhile.
    """

    def do(at: datetime) -> Receipt:
        weighing = fishes.weighing(order.weighing_id)
        fish = fishes.get(weighing.fish_id)
        require_workable(ctx, fish, fishes.now(fish.id))
        view = view_in_transaction(ctx, fish.trip_id)
        packed = portions.of_piece(weighing.id)
        row = piece_row(ctx, view, weighing, fish, sum(p.share for p, _ in packed))
        marks = marks_of(packed)
        used, plan, _ = portion_plan(ctx, row, marks or order.marks)
        plan = with_rest(plan, [portion for portion, _ in packed])
        if marks and _resolved(order.marks, used) != used:
            raise Conflict("This piece has bags with other marks already; look at it again")
        planned = into_bags(plan.portions, used.per_bag)
        bag_plan = next((b for b in planned if b.index == order.index), None)
        if bag_plan is None:
            raise Refused({"index": "There is no such bag in this plan"})
        wanted = {portion.index for portion in bag_plan.portions}
        if earlier := next((bag for p, bag in packed if p.position in wanted), None):
            raise Conflict(f"That is in bag {labels.show_code(earlier.code)} already")
        others = _chosen(ctx, view, row, plan, order.also)
        expected_kg = bag_plan.kg + sum(o.weighing.kg for o in others)
        bag_kg, question = bag_weight(order.kg, expected_kg, order.system)
        sealed = [portion for portion, _ in packed]
        parts = parts_of_piece(
            ctx, view, row, used, fishes.now(fish.id), NO_RULES, frozenset(), sealed
        )
        thick = max(p.part.shape.thick_m for p in parts if p.portion.index in wanted)
        bag = _write_bag(
            ctx, at, view.trip, row, bag_plan, used, others, bag_kg, order, plan, thick
        )
        return Receipt("bag", bag.id, f"Bag {labels.show_code(bag.code)} sealed", question)

    return run_idempotent(ctx, key, "pack.seal", order, do)


def best_of(ctx: AppContext, packed_on: date, rows: Sequence[PieceRow]) -> date:
    """The species' months, cut short by what was seen on any of the fish in the bag, by how bags
    are closed, and by bare meat where air gets to it.
    """
    usual = usual_freezing()
    best = best_by(packed_on, rows[0].species.keeping)
    pack = usual.packs[closed_how()]
    factor = min(follows(seen_on(ctx, row.fish.id)).keeping for row in rows) * pack.keeps
    factor *= min(_handled(ctx, row.fish) for row in rows)
    if pack.keeps < 1 and any(row.skin == "off" for row in rows):
        factor *= usual.bare_keeps
    return shortened(packed_on, best, factor)


def _handled(ctx: AppContext, fish: Fish) -> float:
    """How much of its life in the freezer a fish still has that was looked over and found old."""
    last = looks.looks_of_trip(fish.trip_id).get(fish.id, {})
    marks = {key: row.points for key, row in last.items() if key in ctx.guide.marks}
    index = quality_index(marks, ctx.guide.marks)
    usual = usual_freezing()
    if index is None or index.share < usual.old_from:
        return 1.0
    return 1 - usual.old_loses * index.share


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


def _chosen(
    ctx: AppContext, view: TripView, row: PieceRow, plan: PortionPlan, also: tuple[str, ...]
) -> list[PieceRow]:
    if not also:
        return []
    if len(plan.portions) > 1:
        raise Refused({"also": "Only a piece that is packed whole can share its bag"})
    free = {p.weighing.id: p for p in partners_of(ctx, view, row)}
    if missing := [i for i in also if i not in free]:
        raise Conflict(f"{labels.count(len(missing), 'piece')} of these went into another bag")
    return [free[i] for i in dict.fromkeys(also)]


def bag_weight(kg: float | None, expected_kg: float, system: System) -> tuple[float, str]:
    """A bag's weight, and a question when it is far from what was planned. Raises Refused."""
    if kg is None:
        return expected_kg, ""
    if not MIN_PIECE_KG <= kg <= 60:
        raise Refused({"weight": "A bag weighs more than nothing and at most 60 kg"})
    if expected_kg / ODD_BAG <= kg <= expected_kg * ODD_BAG:
        return kg, ""
    given, planned = (format_mass(one, system) for one in (kg, expected_kg))
    return kg, f"{given} in a bag planned at {planned}? Is the right piece in it?"


def _write_bag(
    ctx: AppContext,
    at: datetime,
    trip: Trip,
    row: PieceRow,
    bag_plan: BagPlan,
    used: Marks,
    others: list[PieceRow],
    bag_kg: float,
    order: SealBag,
    plan: PortionPlan,
    thick_m: float,
) -> Bag:
    zone = ZoneInfo(trips.get(trip.id).timezone)
    packed_on = at.astimezone(zone).date()
    whole = len(plan.portions) == 1
    parts = [bag_kg] if whole else [portion.kg for portion in bag_plan.portions]
    servings = math.fsum(servings_of(kg, plan.serving_kg, not whole) for kg in parts)
    bag = bags.add(
        ctx.ids,
        at,
        code=free_code(ctx),
        trip=trip.id,
        party=row.fish.party_id,
        species=row.fish.species,
        piece=row.weighing.piece,
        tail=bag_plan.tail and not whole,
        skin=row.skin,
        purpose=row.purpose,
        servings=servings_in_bag(servings),
        kg=bag_kg,
        measured=order.kg is not None,
        caught_on=row.fish.landed_at.astimezone(zone).date(),
        packed_on=packed_on,
        best_by=best_of(ctx, packed_on, [row, *others]),
        thick_m=thick_m,
        pack=closed_how(),
    )
    _fill(ctx, at, bag, row, bag_plan, used, others)
    bags.refresh(bag.id)
    return bag


def free_code(ctx: AppContext) -> str:
    """A code that is on no bag yet."""
    code = labels.make_code(ctx.rng)
    while bags.code_taken(code):
        code = labels.make_code(ctx.rng)
    return code


def _fill(
    ctx: AppContext,
    at: datetime,
    bag: Bag,
    row: PieceRow,
    bag_plan: BagPlan,
    used: Marks,
    others: list[PieceRow],
) -> None:
    """Write what is in a bag; a weighed bag's grams are shared out over it."""
    scale = bag.kg / (bag_plan.kg + sum(o.weighing.kg for o in others))
    parts = [
        (row.weighing, p.index, p.from_m, p.to_m, p.kg, p.kg / row.weighing.kg)
        for p in bag_plan.portions
    ]
    parts += [(o.weighing, 0, 0.0, 0.0, o.weighing.kg, 1.0) for o in others]
    for weighing, position, from_m, to_m, kg, share in parts:
        portions.add(
            ctx.ids,
            at,
            bag=bag.id,
            weighing=weighing.id,
            position=position,
            from_m=from_m,
            to_m=to_m,
            share=share,
            kg=kg * scale,
            serving_kg=used.serving_kg,
            length_m=used.length_m,
            tail_apart=used.tail_apart,
            per_bag=used.per_bag,
            cuts=json.dumps(used.cuts),
            thick=used.thick or 0,
        )

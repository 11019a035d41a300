"""Where one piece is to be cut: by serving, count or thickness, or where a hand put the marks."""

import json
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal

from lepidos.core.errors import Refused
from lepidos.core.fish.anatomy import FilletProfile
from lepidos.core.pack import cuts
from lepidos.core.pack.labels import count
from lepidos.core.pack.portions import PortionPlan
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.pack.portioning import (
    Marks,
    marks_of,
    piece_row,
    portion_plan,
)
from lepidos.stations.trips.trips import view_in_transaction
from lepidos.store.deck import fishes
from lepidos.store.pack import packing, portions

Way = Literal["serving", "count", "slices", "hand"]


@dataclass(frozen=True)
class MarkPiece:
    """An order: cut this piece so, whatever holds for others.

    By `way`: equal portions of `serving_kg`; `number` equal portions; steaks or slices of `slice_m`
    with the blade at `angle` degrees to the board; or at `cuts` [m from the head end]. `square`:
    the head end squared off first. `least_kg`: no portion lighter than this.
    """

    weighing_id: str
    way: Way = "serving"
    serving_kg: float | None = None
    per_bag: int = 2
    tail_apart: bool = True
    length_m: float = 0.0
    number: int = 0
    slice_m: float = 0.0
    angle: float = 90.0
    cuts: tuple[float, ...] = ()
    square: bool = False
    least_kg: float = 0.0


def mark_piece(ctx: AppContext, key: str, order: MarkPiece) -> Receipt:
    """Keep its marks. Raises Refused, OutOfRange for marks that cannot be, Unknown."""

    def do(at: datetime) -> Receipt:
        weighing = fishes.weighing(order.weighing_id)
        fish = fishes.get(weighing.fish_id)
        view = view_in_transaction(ctx, fish.trip_id)
        if marks_of(portions.of_piece(weighing.id)):
            raise Refused({"serving": "Some of this piece is sealed: undo those bags first"})
        row = piece_row(ctx, view, weighing, fish, 0.0)
        asked = Marks(order.serving_kg, order.per_bag, order.tail_apart, order.length_m)
        used, plan, profile = portion_plan(ctx, row, asked)
        places: tuple[float, ...] = ()
        if profile is not None:
            places = _places(order, used, plan, profile)
            used, plan, _ = portion_plan(ctx, row, replace(asked, cuts=places))
        saved = packing.mark(
            ctx.ids,
            at,
            weighing=weighing.id,
            serving_kg=plan.serving_kg,
            per_bag=order.per_bag,
            tail_apart=order.tail_apart,
            length_m=used.length_m if order.length_m else 0.0,
            cuts=json.dumps(places),
        )
        return Receipt(
            "piece mark", saved.id, f"{fish.code} {row.name}: {count(len(plan.marks_m), 'cut')}"
        )

    return run_idempotent(ctx, key, "pack.mark", order, do)


def _places(
    order: MarkPiece, used: Marks, plan: PortionPlan, profile: FilletProfile
) -> tuple[float, ...]:
    """The places to cut; none when equal portions are to follow what is learned later."""
    length, kg = used.length_m, plan.kg
    if order.way == "hand":
        places = tuple(sorted(order.cuts))
    elif order.way == "count":
        places = cuts.by_count(profile, length, order.number)
    elif order.way == "slices":
        places = cuts.by_thickness(length, order.slice_m, order.angle)
    elif order.square or order.least_kg:
        places = plan.marks_m
    else:
        return ()
    if order.square:
        places = cuts.squared_off(profile, length, places)
    return cuts.without_scraps(profile, kg, length, places, order.least_kg)

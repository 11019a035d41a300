"""Spots cut out of a fish: where they lay, what they cost, and which piece is lighter for it."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from lepidos.core.cutting.model import Slot
from lepidos.core.errors import Refused
from lepidos.core.fish.anatomy import zone_at
from lepidos.core.fish.growth import body_at
from lepidos.core.limits import MAX_ACROSS_M, MAX_PIECE_KG, MIN_ACROSS_M
from lepidos.core.yields.cut_away import spot_kg
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import plan_of, round_weight, total_length_m
from lepidos.store.records import Fish, FishNow, SightRow, Weighing

CUT_OUT = Slot("cut_out", "")


@dataclass(frozen=True)
class Spot:
    """Where a spot is and what goes with it.

    `x`, `y` in parts of total length, as touched on the drawing; without them the middle of `piece`
    is meant, and without a piece the one that was touched, of the `side` that was shown.
    `lost_kg` when it was weighed; else it is calculated from the width.
    """

    piece: str = ""
    side: Literal["", "A", "B"] = ""
    x: float | None = None
    y: float | None = None
    across_m: float | None = None
    lost_kg: float | None = None


def placed(ctx: AppContext, fish: Fish, now: FishNow, spot: Spot) -> dict[str, object]:
    """The spot's values for its row. Raises Refused with the field."""
    species = ctx.guide.one(fish.species)
    plan, body = ctx.guide.plan_of(species), ctx.guide.body_of(species)
    zones = {p.piece: p.zone for p in plan_of(ctx, fish, now, species).pieces if p.zone}
    touched = None
    if spot.x is not None and spot.y is not None:
        if not (0 <= spot.x <= 1 and -1 <= spot.y <= 1):
            raise Refused({"slot": "Touch the fish itself"})
        touched = (spot.x, spot.y)
    piece, side = spot.piece, spot.side
    if not piece and touched:
        zone = zone_at(body, plan, list(zones.values()), touched)
        piece = next((p for p, key in zones.items() if key == zone), "")
        side = side if piece and ctx.guide.piece(piece).sided else ""
    if piece not in zones:
        raise Refused({"slot": "Touch the spot on the drawing, or choose its piece"})
    if side not in ({"A", "B"} if ctx.guide.piece(piece).sided else {""}):
        raise Refused({"slot": f"Say which side the {ctx.guide.piece(piece).name} is of"})
    middle = body.point(*plan.zone(zones[piece]).caption)
    lost_kg, how = spot.lost_kg or 0.0, "weighed" if spot.lost_kg else ""
    whole_kg = round_weight(now, species).kg
    if spot.lost_kg is not None and not 0 < spot.lost_kg < min(whole_kg, MAX_PIECE_KG):
        raise Refused({"lost": "Less than the whole fish, and more than nothing"})
    if spot.lost_kg is None and spot.across_m is not None:
        if not MIN_ACROSS_M <= spot.across_m <= MAX_ACROSS_M:
            raise Refused({"size": "From 2 mm to 50 cm across"})
        length_m = total_length_m(now, species)
        body = body_at(body, species, length_m, whole_kg)
        lost_kg, how = spot_kg(body, plan, touched or middle, spot.across_m, length_m), "estimated"
    x, y = touched or (None, None)
    return {
        "piece": piece, "side": side, "x": x, "y": y, "lost_kg": lost_kg, "lost_how": how,
    }  # fmt: skip


def weighed_before(row: SightRow, weighings: Iterable[Weighing]) -> bool:
    """Whether the spot's piece was on the scale with the spot still in it; keys rise with time."""
    return bool(row.lost_kg) and any(
        (w.piece, w.side) == (row.piece, row.side) and w.id < row.id for w in weighings
    )


def away_by_slot(rows: Iterable[SightRow], weighings: Sequence[Weighing]) -> dict[str, float]:
    """By slot, what was cut out of a piece before it was weighed [kg].

    What was cut out afterwards is in the piece's weight already, and is not counted twice.
    """
    found: dict[str, float] = {}
    for row in rows:
        if row.lost_kg and not weighed_before(row, weighings):
            key = Slot(row.piece, row.side).key
            found[key] = found.get(key, 0.0) + row.lost_kg
    return found

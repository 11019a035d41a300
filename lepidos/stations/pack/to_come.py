"""What fish that are not finished should still give: the end of the day in sight."""

from datetime import datetime

from lepidos.core.limits import MIN_PIECE_KG
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import landed
from lepidos.stations.base.wishes import said_to
from lepidos.stations.pack.learned import cutter_of, learned_marks
from lepidos.stations.pack.parts import PartRow, Rules, parts_of_piece
from lepidos.stations.pack.portioning import piece_row
from lepidos.stations.table.forecasts import finished_mark
from lepidos.stations.table.models import at_table, expected_of
from lepidos.stations.trips.trips import TripView
from lepidos.store.base.standing import by_fish
from lepidos.store.deck import fishes
from lepidos.store.records import Fish, FishNow, Weighing
from lepidos.store.table import sessions

MAX_FISH_KEPT = 1200


def parts_to_come(
    ctx: AppContext, view: TripView, rules: Rules, pooled: frozenset[str]
) -> list[PartRow]:
    """What the fish that are not finished should still give, as `parts_waiting`.

    Kept fish by fish: what is done to one leaves the others as they were.
    """
    trip = view.trip.id
    learned, sights = (finished_mark(ctx), learned_marks(ctx)), sessions.sights_of_trip(trip)
    weighed = by_fish(fishes.weighings_of_trip(trip))
    found: list[PartRow] = []
    for fish, now in landed(ctx, trip):
        if now.stage == "done":
            continue
        off = frozenset(f"{w.piece}.{w.side}" for w in weighed.get(fish.id, ()))
        state = (fish, now, off, tuple(sights.get(fish.id, ())), fish.id in pooled)
        found += ctx.memo.get(
            (
                "to come", *state, rules.marks(fish.party_id, ""), cutter_of(ctx, fish),
                said_to(ctx, fish), *learned, view.trip.timezone, view.parties, ctx.guide.edition,
            ),
            lambda f=fish, n=now, o=off: _of_fish(ctx, view, rules, pooled, f, n, o),  # type: ignore[misc]
            most=MAX_FISH_KEPT,
        )  # fmt: skip
    return found


def _of_fish(
    ctx: AppContext,
    view: TripView,
    rules: Rules,
    pooled: frozenset[str],
    fish: Fish,
    now: FishNow,
    off: frozenset[str],
) -> list[PartRow]:
    """What one fish should still give; `off` came off it already."""
    found: list[PartRow] = []
    for slot, expected in expected_of(fish, at_table(ctx, fish, now)).items():
        piece, _, side = slot.partition(".")
        if ctx.guide.piece(piece).counts_as == "rest" or f"{piece}.{side}" in off:
            continue
        if expected.value < MIN_PIECE_KG:
            continue
        weighing = _to_come(fish.id, piece, side, expected.value, fish.landed_at)
        row = piece_row(ctx, view, weighing, fish, 0.0)
        marks = rules.marks(fish.party_id, "")
        found += parts_of_piece(ctx, view, row, marks, now, rules, pooled)
    return found


def _to_come(fish_id: str, piece: str, side: str, kg: float, at: datetime) -> Weighing:
    slot = f"{fish_id}.{piece}.{side}"
    return Weighing(slot, fish_id, piece, side, kg, "expected", at, None, "", "", None, None)

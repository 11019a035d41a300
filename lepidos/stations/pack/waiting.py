"""What waits for a bag: every portion that is weighed and not sealed."""

from collections.abc import Sequence
from functools import partial
from typing import NamedTuple

from lepidos.core.pack.portions import PACKED
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import landed
from lepidos.stations.base.wishes import said_to
from lepidos.stations.pack.learned import cutter_of, learned_marks
from lepidos.stations.pack.parts import PartRow, Rules, parts_of_piece
from lepidos.stations.pack.portioning import Marks, marks_in, piece_row
from lepidos.stations.trips.trips import TripView
from lepidos.store.base.standing import by_fish
from lepidos.store.deck import fishes
from lepidos.store.pack import portions
from lepidos.store.records import Fish, FishNow, PartSaid, Portion, Weighing
from lepidos.store.table import sessions

MAX_FISH_KEPT, MAX_PIECES_KEPT = 400, 1200  # those of a large table


def parts_waiting(
    ctx: AppContext,
    view: TripView,
    rules: Rules,
    pooled: frozenset[str],
    only: frozenset[str] | None = None,
) -> list[PartRow]:
    """Every portion that is weighed and not sealed. In an open transaction.

    Kept fish by fish and piece by piece: what is done to one leaves the others as they were.

    Args:
        pooled: ids of the fish that everybody shares: their parties are not told apart.
        only: the weighings to look at; None: all.
    """
    trip = view.trip.id
    packed, sights = portions.of_trip(trip), sessions.sights_of_trip(trip)
    weighed = by_fish(fishes.weighings_of_trip(trip))
    laid: dict[str, list[PartSaid]] = {}
    for (weighing_id, _), said in rules.said.items():
        laid.setdefault(weighing_id, []).append(said)
    common = (learned_marks(ctx), view.trip.timezone, view.parties, ctx.guide.edition)
    found: list[PartRow] = []
    for fish, now in landed(ctx, trip):
        pieces = tuple(
            _Waiting(
                weighing,
                tuple(packed.get(weighing.id, ())),
                tuple(laid.get(weighing.id, ())),
                rules.marks(fish.party_id, weighing.id),
            )
            for weighing in weighed.get(fish.id, ())
            if only is None or weighing.id in only
        )
        if pieces:
            state = (
                fish, tuple(sights.get(fish.id, ())), fish.id in pooled, cutter_of(ctx, fish),
                said_to(ctx, fish), *common,
            )  # fmt: skip
            make = partial(_of_fish, ctx, view, rules, pooled, fish, now, pieces, state)
            found += ctx.memo.get(("waiting", now, pieces, *state), make, most=MAX_FISH_KEPT)
    return found


class _Waiting(NamedTuple):
    """A piece, what of it is sealed, what was said of its parts, and the marks it has else."""

    weighing: Weighing
    sealed: tuple[Portion, ...]
    laid: tuple[PartSaid, ...]
    marks: Marks


def _of_fish(
    ctx: AppContext,
    view: TripView,
    rules: Rules,
    pooled: frozenset[str],
    fish: Fish,
    now: FishNow,
    pieces: Sequence[_Waiting],
    state: tuple[object, ...],
) -> list[PartRow]:
    """What waits of one fish. A weighing leaves its other pieces the same objects as they were, so
    that what was made of them elsewhere still holds.
    """
    # its weights so far do not matter to a piece that is off
    as_cut = now._replace(weighed_kg=0.0, fillet_kg=0.0, parts="", seconds=None)
    found: list[PartRow] = []
    for weighing, sealed, laid, usual in pieces:
        share = sum(portion.share for portion in sealed)
        if share >= PACKED or ctx.guide.piece(weighing.piece).counts_as == "rest":
            continue
        marks = marks_in(sealed) or usual

        def parts(
            weighing: Weighing = weighing, sealed: Sequence[Portion] = sealed,
            marks: Marks = marks, share: float = share,
        ) -> list[PartRow]:  # fmt: skip
            row = piece_row(ctx, view, weighing, fish, share)
            done = {portion.position for portion in sealed}
            every = parts_of_piece(ctx, view, row, marks, now, rules, pooled, sealed)
            return [one for one in every if one.portion.index not in done]

        key = ("parts", weighing, sealed, laid, marks, as_cut, *state)
        found += ctx.memo.get(key, parts, most=MAX_PIECES_KEPT)
    return found

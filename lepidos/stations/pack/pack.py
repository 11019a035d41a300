"""Pack: marks on a fillet, portions into bags, a label on every bag."""

from dataclasses import dataclass

from lepidos.core.fish.anatomy import (
    FilletProfile,
    Polygon,
)
from lepidos.core.fish.bodyplan import Piece
from lepidos.core.fish.species import Species
from lepidos.core.pack.portions import (
    PACKED,
    BagPlan,
    PortionPlan,
    into_bags,
)
from lepidos.core.pack.profile_learning import LearnedProfile
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import (
    landed,
    require_workable,
)
from lepidos.stations.pack.portioning import (
    Marks,
    PieceRow,
    marks_of,
    outline_of,
    piece_row,
    plan_or_usual,
    portion_plan,
    profile_of,
    with_rest,
    zone_of,
)
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store.deck import fishes
from lepidos.store.pack import bags, portions
from lepidos.store.records import Bag
from lepidos.store.records import Portion as PackedPortion


@dataclass(frozen=True)
class PackList:
    """The pack page: pieces that wait, and bags that are sealed."""

    view: TripView
    waiting: tuple[PieceRow, ...]
    sealed: tuple[tuple[Bag, str, Species, Piece], ...]


@dataclass(frozen=True)
class PackView:
    """One piece with its marks, its bags, and what may share the next bag.

    `in_bags`: by portion, the bag that it is sealed in. `learned`: where its meat lies, and how
    good that is known; None for a piece that is packed whole.
    """

    view: TripView
    row: PieceRow
    marks: Marks
    locked: bool
    plan: PortionPlan
    profile: FilletProfile | None
    outline: Polygon
    bags: tuple[BagPlan, ...]
    sealed: dict[int, Bag]
    next_bag: BagPlan | None
    partners: tuple[PieceRow, ...]
    in_bags: dict[int, Bag]
    learned: LearnedProfile | None


def list_pieces(ctx: AppContext, trip_id: str) -> PackList:
    """What waits for a bag on a trip. Raises Unknown."""
    with ctx.store.reading():
        view = view_in_transaction(ctx, trip_id)
        waiting = tuple(_waiting(ctx, view))
        rows = bags.of_trip(trip_id, ("sealed",))
        parties = {p.id: p.name for p in view.parties}
        sealed = tuple(
            (
                bag,
                parties.get(bag.party_id or "", ""),
                ctx.guide.known_or_named(bag.species),
                ctx.guide.piece(bag.piece),
            )
            for bag, _ in reversed(rows)
        )
    return PackList(view, waiting, sealed)


def trip_of_piece(ctx: AppContext, weighing_id: str) -> str:
    """The trip that a weighed piece is of. Raises Unknown."""
    with ctx.store.reading():
        return fishes.get(fishes.weighing(weighing_id).fish_id).trip_id


def view_piece(ctx: AppContext, weighing_id: str, marks: Marks) -> PackView:
    """One piece with marks. Raises Unknown; Refused with the field that cannot be."""
    with ctx.store.reading():
        weighing = fishes.weighing(weighing_id)
        fish = fishes.get(weighing.fish_id)
        require_workable(ctx, fish, fishes.now(fish.id))
        view = view_in_transaction(ctx, fish.trip_id)
        packed = portions.of_piece(weighing.id)
        row = piece_row(ctx, view, weighing, fish, sum(p.share for p, _ in packed))
        if sealed_by := marks_of(packed):
            used, plan, profile = plan_or_usual(ctx, row, sealed_by)
        else:
            used, plan, profile = portion_plan(ctx, row, marks)
        plan = with_rest(plan, [portion for portion, _ in packed])
        zone = zone_of(ctx, row, fishes.now(fish.id))
        outline = outline_of(ctx, row, zone)
        planned = into_bags(plan.portions, used.per_bag)
        sealed = sealed_bags(planned, packed)
        next_bag = next((b for b in planned if b.index not in sealed), None)
        partners: tuple[PieceRow, ...] = ()
        if len(plan.portions) == 1 and next_bag:
            partners = tuple(partners_of(ctx, view, row))
    return PackView(
        view,
        row,
        used,
        bool(packed),
        plan,
        profile,
        outline,
        planned,
        sealed,
        next_bag,
        partners,
        {portion.position: bag for portion, bag in packed},
        profile_of(ctx, row, zone) if profile else None,
    )


def _waiting(ctx: AppContext, view: TripView) -> list[PieceRow]:
    shares = portions.shares_of_trip(view.trip.id)
    by_id = {fish.id: fish for fish, _ in landed(ctx, view.trip.id)}
    rows = [
        piece_row(ctx, view, w, by_id[w.fish_id], shares.get(w.id, 0.0))
        for w in fishes.weighings_of_trip(view.trip.id)
        if w.fish_id in by_id and shares.get(w.id, 0.0) < PACKED
    ]
    return [row for row in rows if row.piece.counts_as != "rest"]


def partners_of(ctx: AppContext, view: TripView, row: PieceRow) -> list[PieceRow]:
    """Whole pieces of the same kind, species, skin, purpose and party."""

    def kin(r: PieceRow) -> tuple[str, str, str, str, str | None]:
        return r.weighing.piece, r.fish.species, r.skin, r.purpose, r.fish.party_id

    return [
        other
        for other in _waiting(ctx, view)
        if other.weighing.id != row.weighing.id
        and other.packed_share == 0
        and kin(other) == kin(row)
    ]


def sealed_bags(
    planned: tuple[BagPlan, ...], packed: list[tuple[PackedPortion, Bag]]
) -> dict[int, Bag]:
    """The bags that are sealed already, by the index in their plan."""
    by_position = {portion.position: bag for portion, bag in packed}
    return {
        b.index: by_position[b.portions[0].index]
        for b in planned
        if b.portions[0].index in by_position
    }

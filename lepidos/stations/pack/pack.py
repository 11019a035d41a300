"""Pack: marks on a fillet, portions into bags, a label on every bag."""

from dataclasses import dataclass

from lepidos.core.cutting.model import Skin, Slot
from lepidos.core.errors import require
from lepidos.core.fish.anatomy import (
    FilletProfile,
    Polygon,
    fillet_profile,
    zone_extent,
    zone_polygon,
)
from lepidos.core.fish.bodyplan import Piece
from lepidos.core.fish.species import Species
from lepidos.core.pack.portions import (
    PACKED,
    BagPlan,
    Portion,
    PortionPlan,
    equal_portions,
    into_bags,
    least_serving,
)
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import (
    landed,
    piece_as_cut,
    plan_of,
    require_workable,
    total_length_m,
)
from lepidos.stations.base.wishes import USUAL_PURPOSE
from lepidos.stations.table.findings import seen_on, still_for
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store import bags, fishes
from lepidos.store.records import Bag, Fish, FishNow, Weighing
from lepidos.store.records import Portion as PackedPortion

SERVING_KG = 0.200  # a main course for one (common practice, no source)
PER_BAG = 2
STRETCH = 1.1  # a fillet laid flat is a little longer than it was on the fish (practice)


@dataclass(frozen=True)
class Marks:
    """How a piece is to be portioned.

    `serving_kg` None means a usual serving; `length_m` 0: as long as the body plan says.
    """

    serving_kg: float | None = None
    per_bag: int = PER_BAG
    tail_apart: bool = True
    length_m: float = 0.0


@dataclass(frozen=True)
class PieceRow:
    """A piece that waits to be packed, or a partner for the same bag."""

    weighing: Weighing
    fish: Fish
    piece: Piece
    species: Species
    party: str
    packed_share: float
    name: str
    skin: Skin
    purpose: str


@dataclass(frozen=True)
class PackList:
    """The pack page: pieces that wait, and bags that are sealed."""

    view: TripView
    waiting: tuple[PieceRow, ...]
    sealed: tuple[tuple[Bag, str, Species, Piece], ...]


@dataclass(frozen=True)
class PackView:
    """One piece with its marks, its bags, and what may share the next bag."""

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


def view_piece(ctx: AppContext, weighing_id: str, marks: Marks) -> PackView:
    """One piece with marks. Raises Unknown; Refused with the field that cannot be."""
    with ctx.store.reading():
        weighing = fishes.weighing(weighing_id)
        fish = fishes.get(weighing.fish_id)
        require_workable(ctx, fish, fishes.now(fish.id))
        view = view_in_transaction(ctx, fish.trip_id)
        packed = bags.portions_of_piece(weighing.id)
        row = piece_row(ctx, view, weighing, fish, sum(p.share for p, _ in packed))
        used, plan, profile = portion_plan(ctx, row, marks_of(packed) or marks)
        outline = _outline(ctx, row)
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
    )


def piece_row(
    ctx: AppContext, view: TripView, weighing: Weighing, fish: Fish, packed_share: float
) -> PieceRow:
    party = next((p.name for p in view.parties if p.id == fish.party_id), "")
    piece, species = ctx.guide.piece(weighing.piece), ctx.guide.one(fish.species)
    name = ctx.guide.plan_of(species).call(piece.name, weighing.side)
    slot = Slot(weighing.piece, weighing.side).key
    skin, purpose = piece_as_cut(ctx, fish, slot)
    if purpose != USUAL_PURPOSE:
        purpose = still_for(ctx, purpose, seen_on(ctx, fish.id))
    return PieceRow(weighing, fish, piece, species, party, packed_share, name, skin, purpose)


def _waiting(ctx: AppContext, view: TripView) -> list[PieceRow]:
    shares = bags.packed_shares(view.trip.id)
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


def portion_plan(
    ctx: AppContext, row: PieceRow, marks: Marks
) -> tuple[Marks, PortionPlan, FilletProfile | None]:
    """The marks with their length filled in, and the portions they give."""
    body, plan = ctx.guide.body_of(row.species), ctx.guide.plan_of(row.species)
    now = fishes.now(row.fish.id)
    zone = _zone(ctx, row, now)
    serving_kg = marks.serving_kg
    if serving_kg is None:
        # the side of a tuna gives more usual servings than anyone marks on it
        serving_kg = round(max(SERVING_KG, least_serving(row.weighing.kg)), 3)
    require("serving", serving_kg, 0.02, 200, "kg")
    if not row.piece.tail_apart or not zone:
        used = Marks(serving_kg, 1, False, 0.0)
        whole = Portion(0, 0.0, 0.0, row.weighing.kg, row.weighing.kg, row.weighing.kg, False)
        return used, PortionPlan(0.0, row.weighing.kg, serving_kg, (whole,), 0.0, 0.0), None
    profile = fillet_profile(body, plan, zone)
    length_m = marks.length_m
    if not length_m:
        start, end = zone_extent(body, plan, zone)
        length_m = max(0.001, round((end - start) * total_length_m(now, row.species), 3))
    # a piece is no longer than its fish
    require("length", length_m, 0.001, total_length_m(now, row.species) * STRETCH, "m")
    used = Marks(serving_kg, marks.per_bag, marks.tail_apart, length_m)
    portions = equal_portions(profile, row.weighing.kg, length_m, serving_kg, marks.tail_apart)
    return used, portions, profile


def _zone(ctx: AppContext, row: PieceRow, now: FishNow) -> str:
    """Where on this fish the piece was cut; a piece that the plan does not have has no zone."""
    return plan_of(ctx, row.fish, now, row.species).zone_of(row.weighing.piece)


def _outline(ctx: AppContext, row: PieceRow) -> Polygon:
    zone = _zone(ctx, row, fishes.now(row.fish.id))
    if not zone:
        return ()
    return zone_polygon(ctx.guide.body_of(row.species), ctx.guide.plan_of(row.species), zone)


def marks_of(packed: list[tuple[PackedPortion, Bag]]) -> Marks | None:
    """The marks that bags of this piece were sealed with already."""
    if not packed:
        return None
    first = packed[0][0]
    return Marks(first.serving_kg, first.per_bag, first.tail_apart, first.length_m)


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

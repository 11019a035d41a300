"""A piece in portions: its marks, and what lies between them."""

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace

from lepidos.core.cutting.model import Skin, Slot
from lepidos.core.errors import OutOfRange, require
from lepidos.core.fish.anatomy import (
    FilletProfile,
    Polygon,
    zone_extent,
    zone_polygon,
)
from lepidos.core.fish.bodyplan import Piece
from lepidos.core.fish.species import Species
from lepidos.core.pack.cuts import portions_at
from lepidos.core.pack.portions import (
    Portion,
    PortionPlan,
    equal_portions,
    least_serving,
)
from lepidos.core.pack.profile_learning import LearnedProfile
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import (
    piece_as_cut,
    plan_of,
    total_length_m,
)
from lepidos.stations.base.wishes import USUAL_PURPOSE
from lepidos.stations.pack.learned import cutter_of, guide_profile, learned_profile
from lepidos.stations.table.findings import seen_on, still_for
from lepidos.stations.trips.trips import TripView
from lepidos.store.deck import fishes
from lepidos.store.records import Bag, Fish, FishNow, Weighing
from lepidos.store.records import Portion as PackedPortion

SERVING_KG = 0.200  # a main course for one (common practice, no source)
PER_BAG = 2  # servings in a bag when nobody says otherwise (practice)
STRETCH = 1.1  # a fillet laid flat is a little longer than it was on the fish (practice)


@dataclass(frozen=True)
class Marks:
    """How a piece is to be portioned.

    `serving_kg` None means a usual serving; `length_m` 0: as long as the body plan says. `cuts` are
    places [m from the head end]; without any it is cut into equal portions. `as_before`: bags were
    sealed when only the guide's profile was known, and the rest is cut by it, too. `thick`: how
    many portions are thick ones; None: by the profile.
    """

    serving_kg: float | None = None
    per_bag: int = PER_BAG
    tail_apart: bool = True
    length_m: float = 0.0
    cuts: tuple[float, ...] = ()
    as_before: bool = False
    thick: int | None = None


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


def piece_row(
    ctx: AppContext, view: TripView, weighing: Weighing, fish: Fish, packed_share: float
) -> PieceRow:
    party = next((p.name for p in view.parties if p.id == fish.party_id), "")
    piece, species = ctx.guide.piece(weighing.piece), ctx.guide.one(fish.species)
    name = ctx.guide.plan_of(species).call(piece.name, weighing.side)
    slot = Slot(weighing.piece, weighing.side).key
    skin, purpose = piece_as_cut(ctx, fish, slot)
    if piece.bare:
        skin = "off"
    if purpose != USUAL_PURPOSE:
        purpose = still_for(ctx, purpose, seen_on(ctx, fish.id))
    return PieceRow(weighing, fish, piece, species, party, packed_share, name, skin, purpose)


def plan_or_usual(
    ctx: AppContext, row: PieceRow, marks: Marks
) -> tuple[Marks, PortionPlan, FilletProfile | None]:
    """As `portion_plan`; cut as usual where the piece cannot have these marks: a long serving of a
    short piece, or those of its bags when its fish turned out shorter.
    """
    try:
        return portion_plan(ctx, row, marks)
    except OutOfRange:
        return portion_plan(ctx, row, Marks(per_bag=marks.per_bag))


def portion_plan(
    ctx: AppContext, row: PieceRow, marks: Marks
) -> tuple[Marks, PortionPlan, FilletProfile | None]:
    """The marks with their length filled in, and the portions they give."""
    body, plan = ctx.guide.body_of(row.species), ctx.guide.plan_of(row.species)
    now = fishes.now(row.fish.id)
    zone = zone_of(ctx, row, now)
    serving_kg = marks.serving_kg
    if serving_kg is None:
        # the side of a tuna gives more usual servings than anyone marks on it
        serving_kg = round(max(SERVING_KG, least_serving(row.weighing.kg)), 3)
    require("serving", serving_kg, 0.02, 200, "kg")
    if not row.piece.tail_apart or not zone:
        used = Marks(serving_kg, 1, False, 0.0)
        whole = Portion(0, 0.0, 0.0, row.weighing.kg, row.weighing.kg, row.weighing.kg, False)
        return used, PortionPlan(0.0, row.weighing.kg, serving_kg, (whole,), 0.0, 0.0), None
    length_m = marks.length_m
    if not length_m:
        start, end = zone_extent(body, plan, zone)
        length_m = max(0.001, round((end - start) * total_length_m(now, row.species), 3))
    # a piece is no longer than its fish
    require("length", length_m, 0.001, total_length_m(now, row.species) * STRETCH, "m")
    learned = profile_of(ctx, row, zone)
    profile = guide_profile(ctx, row.species, zone) if marks.as_before else learned.profile
    kg, tail_apart = row.weighing.kg, marks.tail_apart
    if marks.cuts:
        portions = portions_at(
            profile, kg, length_m, serving_kg, marks.cuts, tail_apart, learned.sd, marks.thick
        )
    else:
        portions = equal_portions(profile, kg, length_m, serving_kg, tail_apart, learned.sd)
    thick = sum(not p.tail for p in portions.portions)
    used = Marks(
        serving_kg, marks.per_bag, tail_apart, length_m, portions.marks_m, marks.as_before, thick
    )
    return used, portions, profile


def with_rest(plan: PortionPlan, sealed: Sequence[PackedPortion]) -> PortionPlan:
    """The plan with what is sealed as it was sealed; the rest shares what is left of the piece.

    A profile that has learned since would else make more or less of it than there is.
    """
    shares = {portion.position: portion.share for portion in sealed}
    still = sum(p.kg for p in plan.portions if p.index not in shares)
    if not shares or still <= 0:
        return plan
    factor = max(0.0, 1.0 - sum(shares.values())) * plan.kg / still

    def now(portion: Portion) -> Portion:
        by = factor
        if portion.index in shares:
            by = shares[portion.index] * plan.kg / portion.kg
        kg, low, high = (one * by for one in (portion.kg, portion.low_kg, portion.high_kg))
        return replace(portion, kg=kg, low_kg=low, high_kg=high)

    return replace(plan, portions=tuple(map(now, plan.portions)))


def profile_of(ctx: AppContext, row: PieceRow, zone: str) -> LearnedProfile:
    """Where the meat of this piece lies, by the guide and by what was weighed."""
    cutter = cutter_of(ctx, row.fish)
    return learned_profile(ctx, row.species, row.weighing.piece, zone, cutter)


def zone_of(ctx: AppContext, row: PieceRow, now: FishNow) -> str:
    """Where on this fish the piece was cut; a piece that the plan does not have has no zone."""
    return plan_of(ctx, row.fish, now, row.species).zone_of(row.weighing.piece)


def outline_of(ctx: AppContext, row: PieceRow, zone: str) -> Polygon:
    """The outline of a zone on this kind of fish; nothing without a zone."""
    if not zone:
        return ()
    return zone_polygon(ctx.guide.body_of(row.species), ctx.guide.plan_of(row.species), zone)


def marks_of(packed: list[tuple[PackedPortion, Bag]]) -> Marks | None:
    """The marks that bags of this piece were sealed with already."""
    return marks_in([portion for portion, _ in packed])


def marks_in(packed: Sequence[PackedPortion]) -> Marks | None:
    """The marks that these portions of a piece were cut by; None without any."""
    if not packed:
        return None
    first = packed[0]
    cuts = tuple(json.loads(first.cuts or "[]"))
    before = not first.cuts
    return Marks(
        first.serving_kg,
        first.per_bag,
        first.tail_apart,
        first.length_m,
        cuts,
        before,
        None if before else first.thick,
    )

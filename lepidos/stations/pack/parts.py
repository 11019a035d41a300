"""What waits for a bag, portion by portion."""

import json
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from zoneinfo import ZoneInfo

from lepidos.core.fish.anatomy import MUSCLE_DENSITY, FilletProfile, Polygon, zone_extent
from lepidos.core.limits import MAX_FISH_M
from lepidos.core.pack.bag_plan import Part
from lepidos.core.pack.bag_sizes import LaidShape
from lepidos.core.pack.outlines import portion_outline
from lepidos.core.pack.portions import (
    Portion,
    PortionPlan,
    servings_of,
    thickness_scale,
)
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import total_length_m
from lepidos.stations.pack.learned import (
    cutter_of,
    guide_profile,
    learned_mark,
)
from lepidos.stations.pack.portioning import (
    Marks,
    PieceRow,
    outline_of,
    plan_or_usual,
    with_rest,
    zone_of,
)
from lepidos.stations.table.findings import follows, seen_on
from lepidos.stations.trips.trips import TripView
from lepidos.store.deck import fishes
from lepidos.store.pack import packing
from lepidos.store.records import BagRule, FishNow, PartSaid, PieceMark
from lepidos.store.records import Portion as Portioned

# A piece whose place on the fish nobody drew is taken for an oval of these proportions, length to
# width to thickness (from memory: a cheek, a roe).
OVAL = (1.6, 1.0, 0.4)
MAX_PORTIONED = 4000
MIN_M = 0.004  # no piece that is weighed is thinner or narrower on a drawing
MAX_M, MAX_THICK_M = MAX_FISH_M, 1.0


@dataclass(frozen=True)
class PartRow:
    """A portion of a piece, or a whole piece, with all that a bag's label needs to know of it.

    `given_to`: the party that a hand gave it to, whatever the split says.
    """

    part: Part
    row: PieceRow
    portion: Portion
    marks: Marks
    whole: bool
    caught_on: date
    outline: Polygon
    given_to: str | None

    @property
    def name(self) -> str:
        """As it stands beside the drawing: "P1 fillet A", "P1 fillet A, tail"."""
        return f"{self.row.fish.code} {self.row.name}" + (", tail" if self.portion.tail else "")


@dataclass(frozen=True)
class Rules:
    """All that was said of how this trip's pieces go into bags."""

    by_party: dict[str, BagRule]
    by_piece: dict[str, PieceMark]
    said: dict[tuple[str, int], PartSaid]
    asked: dict[str, Marks] = field(default_factory=dict)

    def asking(self, weighing_id: str, marks: Marks) -> "Rules":
        """The same rules, with the marks that an order gives for one piece."""
        return replace(self, asked={**self.asked, weighing_id: marks})

    def marks(self, party_id: str | None, weighing_id: str) -> Marks:
        """The marks for a piece: asked for now, its own, its party's, everybody's, or the usual."""
        if asked := self.asked.get(weighing_id):
            return asked
        if own := self.by_piece.get(weighing_id):
            cuts = tuple(json.loads(own.cuts))
            return Marks(own.serving_kg, own.per_bag, own.tail_apart, own.length_m, cuts)
        rule = self.by_party.get(party_id or "") or self.by_party.get("")
        return Marks(rule.serving_kg, rule.per_bag, rule.tail_apart) if rule else Marks()


def rules_of(trip_id: str) -> Rules:
    """What holds on a trip. In an open transaction."""
    return Rules(packing.rules_of(trip_id), packing.marks_of(trip_id), packing.said_of(trip_id))


def marks_said(ctx: AppContext, weighing_id: str) -> Marks:
    """The marks that were said for a piece, or that it gets when nobody said. Raises Unknown."""
    with ctx.store.reading():
        fish = fishes.get(fishes.weighing(weighing_id).fish_id)
        return rules_of(fish.trip_id).marks(fish.party_id, weighing_id)


def parts_of_piece(
    ctx: AppContext,
    view: TripView,
    row: PieceRow,
    marks: Marks,
    now: FishNow,
    rules: Rules,
    pooled: frozenset[str],
    sealed: Sequence[Portioned] = (),
) -> list[PartRow]:
    """A piece in parts; what is `sealed` of it keeps its grams. In an open transaction."""
    used, plan, shapes, outlines = _portioned(ctx, row, marks, now)
    plan = with_rest(plan, sealed)
    whole = len(plan.portions) == 1
    caught = row.fish.landed_at.astimezone(ZoneInfo(view.trip.timezone)).date()
    own = "" if row.fish.id in pooled else row.fish.party_id or ""
    follow = follows(seen_on(ctx, row.fish.id))
    found = []
    for portion, shape, outline in zip(plan.portions, shapes, outlines, strict=True):
        said = rules.said.get((row.weighing.id, portion.index))
        given = said.party_id if said else None
        kin = (
            given or own,
            row.species.key,
            row.piece.plural if whole and not row.piece.tail_apart else row.piece.name,
            "tail" if portion.tail and not whole else "",
            row.skin,
            row.purpose,
            caught.isoformat(),
            f"{follow.raw} {follow.keeping:g} {' · '.join(follow.labels)}",
        )
        part = Part(
            part_key(row.weighing.id, portion),
            row.weighing.id,
            kin,
            portion.kg,
            servings_of(portion.kg, plan.serving_kg, not whole),
            shape,
            float(marks.per_bag),
            said.pin if said else "",
        )
        found.append(PartRow(part, row, portion, used, whole, caught, outline, given))
    return found


def part_key(weighing_id: str, portion: Portion) -> str:
    """Names a portion, with where it was cut [mm]: other marks give other keys."""
    cut = f"{round(portion.from_m * 1000)}-{round(portion.to_m * 1000)}"
    return f"{weighing_id}:{portion.index}:{cut}"


def _portioned(
    ctx: AppContext, row: PieceRow, marks: Marks, now: FishNow
) -> tuple[Marks, PortionPlan, list[LaidShape], list[Polygon]]:
    """A piece in portions, each with its shape; kept, as every page asks for all of them."""
    zone = zone_of(ctx, row, now)
    length = total_length_m(now, row.species)
    kind = (row.species.key, row.weighing.piece)
    taught = learned_mark(ctx, *kind)
    size = (
        *kind,
        zone,
        row.weighing.kg,
        length,
        taught,
        cutter_of(ctx, row.fish) if taught else "",
    )
    return ctx.memo.get(
        ("portioned", ctx.guide.edition, marks, *size),
        lambda: _portion(ctx, row, marks, now, zone),
        most=MAX_PORTIONED,
    )


def _portion(
    ctx: AppContext, row: PieceRow, marks: Marks, now: FishNow, zone: str
) -> tuple[Marks, PortionPlan, list[LaidShape], list[Polygon]]:
    used, plan, profile = plan_or_usual(ctx, row, marks)
    length = plan.length_m
    if profile is None and zone:
        body, body_plan = ctx.guide.body_of(row.species), ctx.guide.plan_of(row.species)
        start, end = zone_extent(body, body_plan, zone)
        length = max(MIN_M, (end - start) * total_length_m(now, row.species))
        profile = guide_profile(ctx, row.species, zone)
    if profile is None:
        return used, plan, [_oval(row.weighing.kg)], [portion_outline((), 0.0, 1.0)]
    shapes = [
        _shape(profile, row.weighing.kg, length, portion if plan.length_m else None)
        for portion in plan.portions
    ]
    whole = outline_of(ctx, row, zone)
    outlines = [
        portion_outline(whole, p.from_m / length, p.to_m / length)
        if plan.length_m
        else portion_outline(whole, 0.0, 1.0)
        for p in plan.portions
    ]
    return used, plan, shapes, outlines


def _shape(
    profile: FilletProfile, kg: float, length_m: float, portion: Portion | None
) -> LaidShape:
    """How large a stretch of a piece lies, by the piece's own weight."""
    scale = thickness_scale(profile, kg, length_m)
    low, high = (portion.from_m, portion.to_m) if portion else (0.0, length_m)
    inside = [i for i, x in enumerate(profile.x) if low <= x * length_m <= high] or [
        min(range(len(profile.x)), key=lambda i: abs(profile.x[i] * length_m - (low + high) / 2))
    ]
    return _lying(
        high - low,
        max(profile.width[i] for i in inside) * scale,
        max(profile.thickness[i] for i in inside) * scale,
    )


def _oval(kg: float) -> LaidShape:
    """An oval of the weight of a piece: volume π/6 · length · width · thickness."""
    long, wide, thick = OVAL
    unit = (kg / MUSCLE_DENSITY / (0.5236 * long * wide * thick)) ** (1 / 3)
    return _lying(long * unit, wide * unit, thick * unit)


def _lying(length_m: float, width_m: float, thick_m: float) -> LaidShape:
    """A shape that can be drawn: an odd fish of the crew's own must not stop all the others."""
    length_m, width_m = (min(MAX_M, max(MIN_M, side)) for side in (length_m, width_m))
    return LaidShape(length_m, width_m, min(MAX_THICK_M, max(MIN_M, thick_m)))


def of_parts(rows: Sequence[PartRow]) -> dict[str, PartRow]:
    """By key."""
    return {row.part.key: row for row in rows}

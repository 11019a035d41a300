"""What a bag is when it is sealed: its weight, until when it keeps, and a code of its own."""

from collections.abc import Sequence
from datetime import date

from lepidos.core.cold.freshness import quality_index
from lepidos.core.errors import Refused
from lepidos.core.freezer.storage_life import best_by
from lepidos.core.limits import MIN_PIECE_KG
from lepidos.core.pack import labels
from lepidos.core.pack.findings import shortened
from lepidos.core.units import System, format_mass
from lepidos.guide.freezing import usual_freezing
from lepidos.stations.base.context import AppContext
from lepidos.stations.pack.paper import closed_how
from lepidos.stations.pack.portioning import PieceRow
from lepidos.stations.table.findings import follows, seen_on
from lepidos.store.deck import looks
from lepidos.store.pack import bags
from lepidos.store.records import Fish

ODD_BAG = 1.4  # a bag this many times off its portions' weight is asked about (practice)
MAX_BAG_KG = 60


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


def bag_weight(kg: float | None, expected_kg: float, system: System) -> tuple[float, str]:
    """A bag's weight, and a question when it is far from what was planned. Raises Refused."""
    if kg is None:
        return expected_kg, ""
    if not MIN_PIECE_KG <= kg <= MAX_BAG_KG:
        raise Refused({"weight": f"A bag weighs more than nothing and at most {MAX_BAG_KG} kg"})
    if expected_kg / ODD_BAG <= kg <= expected_kg * ODD_BAG:
        return kg, ""
    given, planned = (format_mass(one, system) for one in (kg, expected_kg))
    return kg, f"{given} in a bag planned at {planned}? Is the right piece in it?"


def free_code(ctx: AppContext) -> str:
    """A code that no other bag has."""
    code = labels.make_code(ctx.rng)
    while bags.code_taken(code):
        code = labels.make_code(ctx.rng)
    return code

"""Pieces and their marks as plain JSON values."""

from lepidos.core.pack.labels import show_code
from lepidos.stations.pack.pack import PackView
from lepidos.stations.pack.planned import PackTable, PlannedBag
from lepidos.stations.pack.portioning import PieceRow
from lepidos.web.api.shapes import Json


def piece(row: PieceRow) -> Json:
    """A piece that waits."""
    return {
        "id": row.weighing.id,
        "fish": row.fish.code,
        "species": row.species.key,
        "piece": row.weighing.piece,
        "side": row.weighing.side,
        "kg": row.weighing.kg,
        "packed_share": row.packed_share,
        "party": row.party,
    }


def plan(found: PackTable) -> Json:
    """The bag plan: bags to come, and what the box of bags lacks. Sizes in cm, mass in kg."""
    return {
        "least_bags": found.least,
        "fewest": found.fewest,
        "bags": [_planned(found, bag) for bag in found.planned],
        "to_come": [
            {"name": row.example.name, "bags": row.number, "fish": list(row.codes)}
            for column in found.columns
            for row in column.to_come
        ],
        "supplies": [
            {
                "width_cm": s.size.width_m * 100,
                "length_cm": s.size.length_m * 100 if not s.size.roll else None,
                "left": s.left,
                "takes": s.takes,
                "short": s.short,
            }
            for s in found.supplies
        ],
    }


def _planned(found: PackTable, bag: PlannedBag) -> Json:
    return {
        "parts": [row.part.key for row in bag.rows],
        "name": bag.name,
        "party": found.name_of(bag),
        "kg": bag.bag.kg,
        "servings": bag.servings,
        "fish": list(bag.codes),
        "by_hand": bag.bag.by_hand,
        "width_cm": bag.laid.size.width_m * 100 if bag.laid else None,
        "length_cm": bag.laid.length_m * 100 if bag.laid else None,
    }


def marked(view: PackView) -> Json:
    """A piece with its marks."""
    return {
        **piece(view.row),
        "serving_kg": view.marks.serving_kg,
        "length_cm": view.plan.length_m * 100,
        "marks_cm": [m * 100 for m in view.plan.marks_m],
        "portions": [
            {
                "index": p.index,
                "from_cm": p.from_m * 100,
                "to_cm": p.to_m * 100,
                "kg": p.kg,
                "low_kg": p.low_kg,
                "high_kg": p.high_kg,
                "tail": p.tail,
            }
            for p in view.plan.portions
        ],
        "bags": [
            {
                "index": b.index,
                "portions": [p.index for p in b.portions],
                "kg": b.kg,
                "code": show_code(view.sealed[b.index].code) if b.index in view.sealed else None,
            }
            for b in view.bags
        ],
        "partners": [piece(p) for p in view.partners],
    }

"""Pieces and their marks as plain JSON values."""

from lepidos.core.pack.labels import show_code
from lepidos.stations.pack.pack import PackView, PieceRow
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

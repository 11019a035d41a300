"""Bags as plain JSON values."""

from datetime import date

from lepidos.stations.freezer.freezer import BagRow, BagView
from lepidos.web.api.shapes import Json

_NOT_OF_A_BAG = frozenset({"trip_id", "party_id", "sealed_at"})


def bag(row: BagRow) -> Json:
    """A bag in a list: what its row holds, but for the keys of other rows."""
    columns = {k: v for k, v in row.bag._asdict().items() if k not in _NOT_OF_A_BAG}
    shown = {k: v.isoformat() if isinstance(v, date) else v for k, v in columns.items()}
    return {
        **shown,
        "code": row.code,
        "party": row.party,
        "state": row.now.state,
        "place": row.place,
    }


def bag_view(view: BagView) -> Json:
    """A bag with contents and history."""
    return {
        **bag(view.row),
        "contents": [
            {
                "fish": f.code,
                "piece": w.piece,
                "side": w.side,
                "from_cm": p.from_m * 100,
                "to_cm": p.to_m * 100,
                "kg": p.kg,
            }
            for p, w, f in view.contents
        ],
        "moves": [
            {
                "id": m.id,
                "action": m.action,
                "place": place,
                "why": m.why,
                "at": m.at.isoformat(),
                "stands": ok,
            }
            for m, ok, place in view.moves
        ],
    }

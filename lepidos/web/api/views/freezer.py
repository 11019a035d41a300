"""Bags as plain JSON values."""

from datetime import date

from lepidos.stations.freezer.find import Hit
from lepidos.stations.freezer.freezer import BagRow, BagView
from lepidos.stations.freezer.holds import RawHold
from lepidos.stations.freezer.meals import Suggestion
from lepidos.stations.freezer.place_view import PlaceView
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
        "best_by": row.now.best_by.isoformat(),
        "lost_days": row.now.lost_days,
        "raw_from": row.now.raw_from.isoformat() if row.now.raw_from else None,
        "place": row.place,
    }


def bag_view(view: BagView) -> Json:
    """A bag with contents and history."""
    return {
        **bag(view.row),
        "raw_hold": hold(view.hold),
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
                "note": m.note,
                "at": m.at.isoformat(),
                "stands": ok,
            }
            for m, ok, place in view.moves
        ],
    }


def hold(view: RawHold) -> Json:
    """What a log shows of a raw hold: `state` never, exempt, or the verdict's."""
    state = "never raw" if view.never else "exempt" if view.exempt else ""
    return {
        "rule": view.rule.name,
        "state": state or (view.verdict.state if view.verdict else ""),
        "route": view.verdict.route.key if view.verdict else "",
        "proved_at": view.proved_at.isoformat() if view.proved_at else None,
        "due_at": view.due_at.isoformat() if view.due_at else None,
    }


def place_view(view: PlaceView) -> Json:
    """One place."""
    return {
        "id": view.place.id,
        "name": view.place.name,
        "bags": len(view.rows),
        "kg": view.kg,
        "celsius": view.celsius,
        "measured_c": view.line.now_c if view.line else None,
        "measured_at": view.line.until.isoformat() if view.line else None,
        "day_low_c": view.line.low_c if view.line else None,
        "day_high_c": view.line.high_c if view.line else None,
        "warmest_middle_c": view.spell.celsius if view.spell else None,
        "gaps": view.gaps,
        "due_sooner": [b.code for b, _ in view.sooner],
        "hours_without_power_to_c": {
            f"{c:g}": hours for c, hours in (view.outage.hours_to if view.outage else {}).items()
        },
        "logs": [
            {
                "id": row.id,
                "name": row.name,
                "readings": row.readings,
                "first_at": row.first_at.isoformat(),
                "last_at": row.last_at.isoformat(),
            }
            for row in view.logs
        ],
    }


def hit(found: Hit) -> Json:
    """A bag that words found."""
    return {
        "code": found.code,
        "what": found.name,
        "where": found.where,
        "party": found.party,
        "trip": found.trip,
        "best_by": found.now.best_by.isoformat(),
    }


def suggestion(one: Suggestion) -> Json:
    """A meal that can be had."""
    return {
        "what": one.name,
        "codes": [bag.code for bag, _, _ in one.rows],
        "left_over": one.meal.over,
        "short": one.meal.short,
        "thaw_hours": one.hours,
        "out_at": one.out_at.isoformat(),
        "too_late": one.too_late,
    }

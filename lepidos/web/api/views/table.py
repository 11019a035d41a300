"""A fish at the bench as plain JSON values."""

from lepidos.core.yields.balance import YieldFigure
from lepidos.stations.table.fish_view import TableView
from lepidos.web.api.shapes import Json
from lepidos.web.api.views.deck import cold_now, weight
from lepidos.web.shell.render import why


def figure(value: YieldFigure | None) -> Json | None:
    """A yield with both its names."""
    if value is None:
        return None
    return {
        "fraction": value.fraction,
        "numerator": value.numerator,
        "denominator": value.denominator,
        "measured": value.measured,
    }


def table(view: TableView) -> Json:
    """A fish at the bench."""
    return {
        "id": view.fish.id,
        "code": view.fish.code,
        "species": view.species.key,
        "stage": view.now.stage,
        "skin": view.plan.skin,
        "skins": dict(view.plan.skins),
        "purpose": view.plan.purpose,
        "ways": {key: way.option for key, way in view.plan.taken.items()},
        "pieces": dict(view.how.choice.pieces),
        "keeps": list(view.how.choice.keeps),
        "said_by": dict(view.how.choice.said_by),
        "round_weight": weight(view.weight),
        "steps": [
            {
                "key": s.step.key,
                "title": s.step.title,
                "why": s.step.why,
                "tool": s.step.tool,
                "side": s.step.side,
                "caution": next(iter(view.cautions.get(s.step.key, ())), ""),
                "cautions": list(view.cautions.get(s.step.key, ())),
                "state": s.state,
            }
            for s in view.steps
        ],
        "next": view.next.key if view.next else None,
        "expected": {key: why(e) for key, e in view.expected.items()},
        "expected_fillet": why(view.expected_fillet),
        "weighings": [
            {
                "id": w.id,
                "piece": w.piece,
                "side": w.side,
                "kg": w.kg,
                "method": w.method,
                "joint": w.joint or None,
                "low_kg": w.low_kg,
                "high_kg": w.high_kg,
            }
            for w in view.weighings
        ],
        "balance": {
            "round_kg": view.balance.round_kg,
            "weighed_kg": view.balance.weighed_kg,
            "rest_kg": view.balance.rest_kg,
            "rest_is": "unaccounted for" if view.closed else "still on the fish",
        },
        "fillet_yield": figure(view.fillet_yield),
        "questions": [
            {
                "key": q.key,
                "text": q.text,
                "weighing": q.weighing or None,
                "corrected_kg": q.corrected_kg,
                "slot": q.slot or None,
            }
            for q in view.questions
        ],
        "seen": [
            {
                "id": s.row.id,
                "what": s.row.what,
                "number": s.row.number,
                "place": s.row.place,
                "piece": s.row.piece or None,
                "side": s.row.side or None,
                "x": s.row.x,
                "y": s.row.y,
                "cut_out_kg": s.row.lost_kg or None,
                "cut_out_how": s.row.lost_how or None,
            }
            for s in view.seen
        ],
        "fates": {d.piece.key: d.fate.key if d.fate else None for d in view.destined},
        "used": view.use.fraction,
        "board": view.board.board.name if view.board else None,
        "minutes": view.time.worked_s / 60 if view.time else None,
        "paused": view.time.paused if view.time else False,
        "cold": cold_now(view.cold),
    }

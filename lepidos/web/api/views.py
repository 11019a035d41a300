"""Station views as plain JSON values."""

from dataclasses import asdict
from datetime import date

from lepidos.core.pack.labels import show_code
from lepidos.core.yields.balance import YieldFigure
from lepidos.stations.base.fish import RoundWeight
from lepidos.stations.cold.cold import Cold, ColdNow
from lepidos.stations.deck.card import CardView
from lepidos.stations.deck.rule_cards import CardView as RuleCardView
from lepidos.stations.deck.slab import SlabFish
from lepidos.stations.freezer.freezer import BagRow, BagView
from lepidos.stations.header.header import Header
from lepidos.stations.pack.pack import PackView, PieceRow
from lepidos.stations.schedule.order import BenchOrder, Place
from lepidos.stations.table.fish_view import TableView
from lepidos.stations.trips.trips import TripView
from lepidos.stations.yieldbook.yieldbook import Book, SpeciesRow
from lepidos.store.records import Trip
from lepidos.web.api.shapes import Json
from lepidos.web.shell.render import why


def trip(row: Trip) -> Json:
    """A trip."""
    return {
        "id": row.id,
        "name": row.name,
        "kind": row.kind,
        "harbour": row.harbour,
        "on_date": row.on_date.isoformat(),
        "timezone": row.timezone,
        "sea_c": row.sea_c,
        "air_c": row.air_c,
        "ice_kg": row.ice_kg,
    }


def trip_view(view: TripView, g: Header) -> Json:
    """A trip with people, parties and the numbers of the header."""
    return {
        **trip(view.trip),
        "people": [{"id": p.id, "name": p.name} for p in view.people],
        "parties": [{"id": p.id, "name": p.name} for p in view.parties],
        "gauges": {
            "fish_left": g.fish_left,
            "fish_landed": g.fish_landed,
            "round_kg": g.round_kg,
            "round_all_measured": g.round_all_measured,
            "packed_kg": g.packed_kg,
            "bags": g.bags,
            "waits": g.waits,
            "ice_left_kg": g.ice_left_kg,
            "ice_needed_kg": g.ice_needed_kg,
            "clears_at": g.clears_at.isoformat() if g.clears_at else None,
            "last": g.last,
        },
    }


def weight(value: RoundWeight) -> Json:
    """A round weight, and how it is known."""
    return {
        "kg": value.kg,
        "measured": value.measured,
        "estimate": why(value.estimate) if value.estimate else None,
    }


def cold_now(value: ColdNow | None) -> Json | None:
    """How cold a fish is at its core; None where it is not known."""
    if value is None:
        return None
    return {
        "core_c": value.core_c,
        "ice_days": value.ice_days,
        "ice_life_days": value.ice_life_days,
    }


def cold(value: Cold | None) -> Json | None:
    """The same with its interval and its curve."""
    if value is None:
        return None
    return {
        **(cold_now(value.now) or {}),
        "low_c": value.low_c,
        "high_c": value.high_c,
        "hours": list(value.hours),
        "curve_c": list(value.curve_c),
    }


def fish(row: SlabFish) -> Json:
    """A fish on the slab."""
    return {
        "id": row.fish.id,
        "code": row.fish.code,
        "species": row.species.key,
        "stage": row.now.stage,
        "length_cm": row.now.length_m * 100,
        "length_type": row.now.length_type,
        "round_weight": weight(row.weight),
        "party": row.party,
        "caught_by": row.caught_by,
        "landed_at": row.fish.landed_at.isoformat(),
        "states": sorted(s for s in row.states if not s.startswith("step.")),
        "skin": row.fish.skin,
        "cold": cold_now(row.cold),
        "lies": row.handled.lies,
        "advice": [{"text": a.text, "urgency": a.urgency} for a in row.handled.advice],
        "place": place(row.place),
    }


def place(value: Place | None) -> Json | None:
    """A fish's place in the order of work."""
    if value is None:
        return None
    return {
        "fish_id": value.fish_id,
        "board_id": value.board_id,
        "cutter": value.cutter,
        "starts_at": value.starts_at.isoformat(),
        "ends_at": value.ends_at.isoformat(),
        "due_at": value.due_at.isoformat() if value.due_at else None,
        "why": value.why.why,
        "minutes": value.minutes,
        "held": value.held,
        "in_hand": value.in_hand,
    }


def order(value: BenchOrder) -> Json:
    """The order of work: what it is is said honestly."""
    return {
        "places": [place(p) for p in value.places],
        "boards": [{"id": b.id, "cutter": b.name} for b in value.boards],
        "clears_at": value.clears_at.isoformat() if value.clears_at else None,
        "weighted_lateness_s": value.lateness_s,
        "proven": value.proven,
        "how": value.how,
        "searching": value.searching,
    }


def card(view: CardView) -> Json:
    """A fish's card: as on the slab, with its curve and what the rule cards say."""
    return {
        **fish(view.row),
        "cold": cold(view.cold),
        "rules": [{"text": v.text, "presses": v.presses} for v in view.verdicts],
        "readings": [{"at": r.at.isoformat(), "core_c": r.celsius} for r in view.readings],
    }


def rule_card(view: RuleCardView) -> Json:
    """A rule card with the counts of a trip."""
    return {
        "id": view.id,
        **asdict(view.card),
        "checked_on": view.card.checked_on.isoformat(),
        "in_season": view.in_season,
        "stale": view.stale,
        "tallies": asdict(view.tallies),
    }


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
            {"id": s.row.id, "what": s.row.what, "number": s.row.number, "place": s.row.place}
            for s in view.seen
        ],
        "fates": {d.piece.key: d.fate.key if d.fate else None for d in view.destined},
        "used": view.use.fraction,
        "board": view.board.board.name if view.board else None,
        "minutes": view.time.worked_s / 60 if view.time else None,
        "paused": view.time.paused if view.time else False,
        "cold": cold_now(view.cold),
    }


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


def book(view: Book) -> Json:
    """The yield book."""
    return {
        "fish": [
            {
                "code": r.fish.code,
                "species": r.species.key,
                "round_weight": weight(r.weight),
                "parts": dict(r.parts),
                "weighed_kg": r.balance.weighed_kg,
                "rest_kg": r.balance.rest_kg,
                "rest_is": "unaccounted for" if r.closed else "still on the fish",
                "fillet_yield": figure(r.fillet_yield),
            }
            for r in view.rows
        ],
        "by_species": [_species(r) for r in view.by_species],
        "all_trips": [_species(r) for r in view.all_trips],
    }


def _species(row: SpeciesRow) -> Json:
    return {
        "species": row.species.key,
        "fish": row.fish,
        "round_kg": row.round_kg,
        "fillet_kg": row.fillet_kg,
        "fraction": row.fraction,
    }

"""Trips, the slab, cold, order of work and cards as plain JSON values."""

from dataclasses import asdict

from lepidos.stations.base.fish import RoundWeight
from lepidos.stations.cold.cold import Cold, ColdNow
from lepidos.stations.deck.card import CardView
from lepidos.stations.deck.rule_cards import CardView as RuleCardView
from lepidos.stations.deck.slab import SlabFish
from lepidos.stations.header.header import Header
from lepidos.stations.schedule.order import BenchOrder, Place
from lepidos.stations.trips.trips import TripView
from lepidos.store.records import Trip
from lepidos.web.api.shapes import Json
from lepidos.web.shell.render import why


def trip(row: Trip) -> Json:
    """A trip."""
    return {
        "id": row.id,
        "name": row.name,
        "kind": row.origin,
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

"""Forecasts: what a fish will give at this cutter's board, and how well earlier ones held."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lepidos.core.cutting.model import Slot
from lepidos.core.estimate import Estimate
from lepidos.core.fish.species import Species
from lepidos.core.yields.balance import LEVEL
from lepidos.core.yields.forecast import FILLET, PARTS, Finished, Learned, learn
from lepidos.core.yields.two_sides import Total, total_of
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import always_skinned
from lepidos.stations.table import spots
from lepidos.store.base import entries
from lepidos.store.records import Forecast, Weighing
from lepidos.store.schedule import boards
from lepidos.store.schedule.work import BY_EYE
from lepidos.store.table import sessions

LEARN_FROM = 200  # finished fish of a species
SCORE_FROM = 100  # forecasts, until their score is told

MAX_SPECIES = 120  # whose answers are kept: more than a guide has


def finished_mark(ctx: AppContext) -> str:
    """Stands for which fish are finished. Called in an open transaction."""
    return ctx.memo.get(("finished", entries.last_key()), sessions.finished_mark)


def learned(ctx: AppContext, species: Species) -> Learned:
    """What the crew's finished fish of a species have taught. Called in an open transaction."""
    return ctx.memo.get(
        ("learned", species, finished_mark(ctx)),
        lambda: _learn(ctx, species),
        most=MAX_SPECIES,
    )


def _learn(ctx: AppContext, species: Species) -> Learned:
    rows = sessions.finished(species.key, LEARN_FROM)
    ids = [state.fish_id for state, _ in rows]
    weighings, cut_out = sessions.weighings_of_fish(ids), sessions.spots_of_fish(ids)
    at_board, names = sessions.boards_of(ids), boards.names()
    fish = []
    skinned = always_skinned(ctx, species)
    for state, asked in rows:
        skin = "off" if skinned else asked
        of_fish = weighings.get(state.fish_id, [])
        away = spots.away_by_slot(cut_out.get(state.fish_id, ()), of_fish)
        parts = _parts(ctx, of_fish, skin, away)
        cutter = names.get(at_board.get(state.fish_id, ""), "")
        fish.append(Finished(cutter, float(state.whole_kg or 0.0), parts))
    return learn(species, fish)


def _parts(
    ctx: AppContext, weighings: list[Weighing], skin: str, away: Mapping[str, float]
) -> dict[str, float]:
    """Parts that were wholly weighed, and finished, [kg], by the names of the species' yields.

    What was cut out of them (`away`, by slot) is added: a wound says nothing of the next fish.
    """
    by_piece: dict[str, dict[str, float]] = {}
    for w in weighings:
        sides = by_piece.setdefault(w.piece, {})
        slot = Slot(w.piece, w.side).key
        sides[w.side] = sides.get(w.side, away.get(slot, 0.0)) + w.kg
    doubted = {w.piece for w in weighings if w.rough or w.method == BY_EYE}
    whole = {
        piece: sum(sides.values())
        for piece, sides in by_piece.items()
        if piece not in doubted and (not ctx.guide.piece(piece).sided or {"A", "B"} <= set(sides))
    }
    found: dict[str, float] = {}
    for piece, kg in whole.items():
        name = ctx.guide.piece(piece).yield_key
        if name in PARTS:
            found[name] = kg
    meat = [p for p in by_piece if ctx.is_fillet(p)]
    if meat and all(p in whole for p in meat):
        found[FILLET["off" if skin == "off" else "on"]] = sum(whole[p] for p in meat)
    return found


@dataclass(frozen=True)
class Held:
    """How many of the fish that had a forecast came out inside its interval."""

    inside: int
    fish: int
    level: float = LEVEL


def held(ctx: AppContext) -> Held:
    """Score of the latest forecasts. Called in an open transaction."""
    return ctx.memo.get(("held", finished_mark(ctx)), lambda: _held(ctx))


def _held(ctx: AppContext) -> Held:
    rows = came_out(ctx, SCORE_FROM)
    return Held(sum(f.low_kg <= kg <= f.high_kg for f, kg in rows), len(rows))


def came_out(ctx: AppContext, most: int) -> list[tuple[Forecast, float]]:
    """The latest forecasts with what the fish then gave [kg], the newest first.

    A fish of which a side went unweighed says nothing of its forecast and is left out.
    """
    rows = sessions.scored(most)
    ids = [f.fish_id for f in rows]
    weighings, cut_out = sessions.weighings_of_fish(ids), sessions.spots_of_fish(ids)
    found = []
    for f in rows:
        of_fish = weighings.get(f.fish_id, [])
        away = spots.away_by_slot(cut_out.get(f.fish_id, ()), of_fish)
        kg = _parts(ctx, of_fish, f.skin, away).get(FILLET["off" if f.skin == "off" else "on"])
        if kg is not None:
            found.append((f, kg))
    return found


def fillet_now(
    slots: Sequence[Slot], weighings: Sequence[Weighing], expected: Mapping[str, Estimate]
) -> Total | None:
    """What is weighed of the fillets and what is to come; None when nothing can be foreseen.

    What was judged by eye is no surer than before it was taken.
    """
    weighed = [w for w in weighings if w.method != BY_EYE]
    to_come = {s.key: expected[s.key] for s in slots if s.key in expected}
    kg = {
        s.key: sum(w.kg for w in weighed if (w.piece, w.side) == (s.piece, s.side)) for s in slots
    }
    return total_of({k: v for k, v in kg.items() if v}, to_come) if to_come else None

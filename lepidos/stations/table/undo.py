"""What was done at the table, undone: steps and states, weighings, what was seen, wishes."""

from datetime import datetime

from lepidos.core.errors import Conflict
from lepidos.core.pack.labels import count, show_code
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import fact_words
from lepidos.stations.deck.lots import noted_alike
from lepidos.store.base import entries
from lepidos.store.deck import fish_now, fishes
from lepidos.store.pack import portions
from lepidos.store.records import Fact, Fish
from lepidos.store.schedule import work
from lepidos.store.table import sessions, wishes


def undo_fact(ctx: AppContext, fact_id: str, at: datetime) -> str:
    fact = fishes.fact(fact_id)
    fish = fishes.get(fact.fish_id)
    if fishes.now(fish.id).stage == "done" and fact.name != work.CLOSED:
        raise Conflict(f"{fish.code} is finished; open it again first")
    entries.undo(ctx.ids, "fact", fact_id, at)
    if made := _made_by(ctx, fish, fact):
        entries.undo(ctx.ids, "fact", made.id, at)
    fish_now.refresh(fish.id, ctx.is_fillet)
    if fact.kind == work.WORK and fact.name == work.CLOSED:
        _undo_by_eye(ctx, fact, at)
        _free_plan(ctx, fish.id, at)
        return f"{fish.code} is open again"
    return f"{fish.code}: {fact_words(ctx, fish, fact)} undone"


def undo_alike(ctx: AppContext, fact_id: str, at: datetime) -> str:
    """Undo what was noted of several at one touch: that they are on ice, or finished."""
    others = noted_alike(fishes.fact(fact_id))
    said = [undo_fact(ctx, fact.id, at) for fact in others]
    if len(said) == 1:
        return said[0]
    what = said[0].partition(": ")[2] or "open again"
    return f"{count(len(said), 'fish', 'fish')}: {what}"


def _undo_by_eye(ctx: AppContext, closed: Fact, at: datetime) -> None:
    """What was said to be taken when a fish was finished goes with that, unless it is in a bag."""
    taken = [
        w
        for w in fishes.weighings_of(closed.fish_id)
        if w.method == work.BY_EYE and w.at == closed.at
    ]
    if any(portions.of_piece(w.id) for w in taken):
        return
    for row in taken:
        entries.undo(ctx.ids, "weighing", row.id, at)
    fish_now.refresh(closed.fish_id, ctx.is_fillet)


def _free_plan(ctx: AppContext, fish_id: str, at: datetime) -> None:
    """A fish without a fillet, and not finished, hears wishes again."""
    now, own = fishes.now(fish_id), wishes.settled(fish_id)
    if own and now.fillet_kg == 0 and now.stage != "done":
        entries.undo(ctx.ids, "wish", own.id, at)


def _made_by(ctx: AppContext, fish: Fish, fact: Fact) -> Fact | None:
    """What was noted of the fish because this step was ticked."""
    if fact.kind != work.STEP:
        return None
    makes = ctx.guide.step_makes(fish.species, fact.name)
    states = fishes.facts_of(fish.id, work.STATE)
    same = [f for f in states if f.name == makes and f.at == fact.at]
    return same[0] if makes and same else None


def undo_weighing(ctx: AppContext, weighing_id: str, at: datetime) -> str:
    row = fishes.weighing(weighing_id)
    fish = fishes.get(row.fish_id)
    if packed := portions.of_piece(weighing_id):
        code = show_code(packed[0][1].code)
        raise Conflict(f"That piece is in bag {code}; take the bag back first")
    if fishes.now(fish.id).stage == "done":
        raise Conflict(f"{fish.code} is finished; open it again first")
    together = [w for w in sessions.of_joint(row.joint) if w.id != weighing_id]
    for other in together:
        if packed := portions.of_piece(other.id):
            code = show_code(packed[0][1].code)
            raise Conflict(f"A piece weighed with it is in bag {code}; take the bag back first")
        entries.undo(ctx.ids, "weighing", other.id, at)
    entries.undo(ctx.ids, "weighing", weighing_id, at)
    fish_now.refresh(fish.id, ctx.is_fillet)
    _free_plan(ctx, fish.id, at)
    if together:
        return f"{fish.code}: {count(len(together) + 1, 'piece')} weighed together undone"
    plan = ctx.guide.plan_of(ctx.guide.known_or_named(fish.species))
    name = plan.call(ctx.guide.piece(row.piece).name, row.side)
    return f"{fish.code} {name} undone"


def sight_undone(_: AppContext, row_id: str) -> str:
    return f"{fishes.get(sessions.sight(row_id).fish_id).code}: not seen after all"


def fate_undone(ctx: AppContext, row_id: str) -> str:
    row = sessions.fate(row_id)
    return f"{fishes.get(row.fish_id).code} {ctx.guide.piece(row.piece).name}: open again"


def wish_undone(_: AppContext, row_id: str) -> str:
    row = wishes.get(row_id)
    if row.fish_id and wishes.settled(row.fish_id):
        raise Conflict("A fillet of it is weighed, or it is finished; undo that first")
    return "It is cut as it was to be before"

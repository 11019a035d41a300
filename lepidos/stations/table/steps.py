"""What is said of a fish while it is cut: steps ticked, its skin, finished, opened again."""

from dataclasses import dataclass, field
from datetime import datetime

from lepidos.core.errors import Refused
from lepidos.core.pack.labels import count
from lepidos.core.units import System
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.digest import BESIDE
from lepidos.stations.base.fish import (
    plan_of,
    require_workable,
    when_done,
)
from lepidos.stations.deck.lots import waiting_alike
from lepidos.stations.table import questions
from lepidos.stations.table.by_eye import book, taken_of, weighed_together
from lepidos.stations.table.models import answered, at_table, facts_of
from lepidos.stations.table.wishes import open_fish, settle
from lepidos.store.deck import fish_now, fishes
from lepidos.store.records import Fact, Fish, FishNow
from lepidos.store.schedule import work


@dataclass(frozen=True)
class TickStep:
    """An order to tick a step of the plan."""

    fish_id: str
    step: str
    waited_s: float = field(default=0.0, repr=False, metadata=BESIDE)


def tick_step(ctx: AppContext, key: str, order: TickStep) -> Receipt:
    """Tick a step. Raises Refused, Unknown."""

    def do(now_at: datetime) -> Receipt:
        fish, now = open_fish(ctx, order.fish_id)
        at = when_done(now_at, fish, order.waited_s)
        species = ctx.guide.one(fish.species)
        plan = plan_of(ctx, fish, now, species)
        step = next((s for s in plan.steps if s.key == order.step), None)
        if step is None:
            raise Refused({"step": "That step is not in this fish's plan"})
        if order.step in now.steps.split():
            raise Refused({"step": "That step is ticked already"})
        fact = fishes.add_fact(ctx.ids, at, fish.id, work.STEP, order.step)
        if step.makes and step.makes not in now.facts.split():
            fishes.add_fact(ctx.ids, at, fish.id, work.STATE, step.makes)
        fish_now.refresh(fish.id, ctx.is_fillet)
        return Receipt("fact", fact.id, f"{fish.code}: {step.title}")

    return run_idempotent(ctx, key, "table.tick", order, do)


@dataclass(frozen=True)
class CloseFish:
    """A fish to finish: what is not weighed by now is unaccounted for.

    `taken` are the slots, such as "fillet.A", that were taken of a fish of which nothing was
    weighed: each is booked at what its plan expects, as judged by eye. None may be taken, but that
    has to be said (None: nobody said). `alike`: the same of all that were landed together with it
    and wait, each at what its own plan expects. `all_kg`: what all that was taken weighs together.
    """

    fish_id: str
    taken: tuple[str, ...] | None = None
    alike: bool = field(default=False, repr=False)
    all_kg: float | None = field(default=None, repr=False)
    system: System = field(default="metric", metadata=BESIDE)
    waited_s: float = field(default=0.0, repr=False, metadata=BESIDE)


def close_fish(ctx: AppContext, key: str, order: CloseFish) -> Receipt:
    """Finish a fish. Raises Refused, Unknown."""

    def do(now_at: datetime) -> Receipt:
        fish, now = open_fish(ctx, order.fish_id)
        at = when_done(now_at, fish, order.waited_s)
        if fishes.weighings_of(fish.id):
            return _close_weighed(ctx, at, fish, now, order)
        if order.taken is None:
            raise Refused({"taken": f"Nothing of {fish.code} was weighed. Say what you took of it"})
        return _close_by_eye(ctx, at, fish, now, order)

    return run_idempotent(ctx, key, "table.close", order, do)


def _close_weighed(
    ctx: AppContext, at: datetime, fish: Fish, now: FishNow, order: CloseFish
) -> Receipt:
    """Finish a fish of which pieces were weighed, with a question about those that were not."""
    if order.taken:
        raise Refused({"taken": f"Pieces of {fish.code} were weighed; weigh these, too"})
    missed = questions.untaken(ctx, facts_of(ctx, fish, at_table(ctx, fish, now)), order.system)
    fact = _closed(ctx, at, fish, now)
    asked = " ".join(q.text for q in missed if q.key not in answered(fish.id))
    return Receipt("fact", fact.id, f"{fish.code} is finished", asked)


def _close_by_eye(
    ctx: AppContext, at: datetime, fish: Fish, now: FishNow, order: CloseFish
) -> Receipt:
    """Finish a fish of which nothing was weighed, or all that were landed together with it."""
    found = list(waiting_alike(fish)) if order.alike else [(fish, now)]
    said, taken = order.taken or (), []
    for one, own in found:
        require_workable(ctx, one, own)
        taken.append(taken_of(ctx, one, own, said, alike=one.id != fish.id))
    if order.all_kg is not None:
        taken = weighed_together(taken, order.all_kg, order.system)
    facts = []
    for (one, own), pieces in zip(found, taken, strict=True):
        book(ctx, at, one, pieces)
        facts.append(_closed(ctx, at, one, own))
    if not order.alike:
        return Receipt("fact", facts[0].id, f"{fish.code} is finished")
    codes = f"{found[0][0].code} to {found[-1][0].code}"
    words = f"{count(len(found), 'fish', 'fish')} finished, {codes}"
    return Receipt("alike", facts[0].id, words)


def _closed(ctx: AppContext, at: datetime, fish: Fish, now: FishNow) -> Fact:
    settle(ctx, at, fish, now)
    fact = fishes.add_fact(ctx.ids, at, fish.id, work.WORK, work.CLOSED)
    fish_now.refresh(fish.id, ctx.is_fillet)
    return fact

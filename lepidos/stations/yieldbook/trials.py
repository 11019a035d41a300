"""Side-by-side trials: begun, followed, and read when the fish that were planned are done."""

import math
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated

from annotated_types import Ge, Le

from lepidos.core.errors import CannotWorkOut, OutOfRange, Refused, Unknown
from lepidos.core.pack.labels import one_line
from lepidos.core.yields.trial import (
    MAX_FISH,
    MIN_FISH,
    USUAL_SD,
    Paired,
    difference,
    fish_to_settle,
    paired,
)
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.fish import round_weight
from lepidos.stations.base.trials import counting, fillets
from lepidos.store.base import entries
from lepidos.store.deck import fishes
from lepidos.store.records import Trial
from lepidos.store.yieldbook import trials

MAX_LENGTH = 60
LEARN_FROM, LEARN_MIN = 80, 12  # fish cut alike, for how much sides differ anyway
WORTH = 0.01  # a point: what is worth settling
MIN_SD = 0.004  # sides typed alike still differ by the scale's step and what drips (practice)


@dataclass(frozen=True)
class StartTrial:
    """An order: so many fish get way X on one side, way Y on the other. `species` "" any."""

    way_x: str
    way_y: str
    fish: Annotated[int, Ge(MIN_FISH), Le(MAX_FISH)]
    species: str = ""


def start_trial(ctx: AppContext, key: str, order: StartTrial) -> Receipt:
    """Begin one. Raises Refused with the fields."""

    def do(at: datetime) -> Receipt:
        problems = {}
        x, y = one_line(order.way_x, MAX_LENGTH), one_line(order.way_y, MAX_LENGTH)
        for name, way in (("way_x", x), ("way_y", y)):
            if not way:
                problems[name] = "Say what is done"
        if x and x.casefold() == y.casefold():
            problems["way_y"] = "The two ways are the same"
        if not MIN_FISH <= order.fish <= MAX_FISH:
            problems["fish"] = f"{MIN_FISH} to {MAX_FISH} fish: fewer can never tell"
        species = ""
        if order.species.strip():
            try:
                species = ctx.guide.find(order.species).key
            except Unknown as error:
                problems["species"] = str(error)
        if problems:
            raise Refused(problems)
        row = trials.add(ctx.ids, at, species=species, way_x=x, way_y=y, fish=order.fish)
        return Receipt("trial", row.id, f"Trial: {x}, or {y}, on the next {order.fish} fish")

    return run_idempotent(ctx, key, "book.trial", order, do)


@dataclass(frozen=True)
class TrialView:
    """A trial and how far it is. `result` is there only when the planned fish are done: reading
    it earlier would find differences that are not there. `more`: fish that would settle a point.
    """

    trial: Trial
    species: str
    done: int
    under_way: int
    result: Paired | None
    differences: tuple[float, ...]
    more: int | None

    @property
    def better(self) -> str:
        """The way that gave more."""
        mean = self.result.mean if self.result else 0.0
        return str(self.trial.way_x if mean > 0 else self.trial.way_y)

    @property
    def sentence(self) -> str:
        """What a deckhand takes from it."""
        t, found = self.trial, self.result
        if found is None:
            left = t.fish - self.done
            return f"{self.done} of {t.fish} fish done; it is read when {left} more are"
        grams = abs(found.mean) * 1000
        if found.decided:
            return f"{self.better}: it keeps {grams:.0f} g more of each kilogram of fish"
        reach = max(abs(found.low or 0.0), abs(found.high or 0.0)) * 1000
        return f"No difference to be seen; if there is one, it is below {reach:.0f} g per kilogram"


def view_trials(ctx: AppContext) -> tuple[list[TrialView], float, dict[float, int | None]]:
    """All trials, the newest first; how far sides cut alike differ (SD, part of the round weight);
    and how many fish find a difference of so many parts 80 of 100 times.
    """
    with ctx.store.reading():
        key = ("trials", entries.last_key(), ctx.guide.edition)
        views, sd = ctx.memo.get(key, lambda: (_all(ctx), _usual_sd(ctx)), most=2)
    return views, sd, {e: fish_to_settle(e, sd) for e in (0.03, 0.02, 0.015, 0.01)}


def _all(ctx: AppContext) -> list[TrialView]:
    return [_view(ctx, trial) for trial in trials.every()]


def _view(ctx: AppContext, trial: Trial) -> TrialView:
    rows = counting(ctx, trial)
    sides = trials.side_sums([row.fish_id for row in rows], fillets(ctx))
    found = []
    for row in rows:
        now, by = fishes.now(row.fish_id), sides.get(row.fish_id, {})
        if now.stage != "done" or len(by) < 2:
            continue
        x, y = by[row.x_side], by["B" if row.x_side == "A" else "A"]
        with suppress(OutOfRange, CannotWorkOut):  # a fish without a weight tells nothing
            kg = round_weight(now, ctx.guide.known_or_named(now.species)).kg
            found.append(difference(x, y, kg))
    found = found[: trial.fish]
    result = paired(found) if len(found) >= trial.fish else None
    more = None
    if result is not None and not result.decided:
        wanted = fish_to_settle(WORTH, max(result.sd, 1e-6))
        more = None if wanted is None else max(0, wanted - result.fish)
    name = str(ctx.guide.known_or_named(trial.species).name) if trial.species else ""
    return TrialView(trial, name, len(found), len(rows) - len(found), result, tuple(found), more)


def _usual_sd(ctx: AppContext) -> float:
    """How far the sides of fish cut alike differ: this crew's own, once they are enough."""
    ids = trials.latest_finished(LEARN_FROM)
    sides = trials.side_sums(ids, fillets(ctx))
    found = []
    for fish_id, by in sides.items():
        now = fishes.now(fish_id)
        if len(by) == 2 and now.whole_kg:
            with suppress(OutOfRange):
                found.append(difference(by["A"], by["B"], now.whole_kg))
    if len(found) < LEARN_MIN:
        return USUAL_SD
    # about nothing: which side is heavier by habit is drawn out in a trial
    return max(MIN_SD, math.sqrt(math.fsum(d * d for d in found) / len(found)))


def undo_trial(ctx: AppContext, row_id: str, at: datetime) -> str:
    row = trials.get(row_id)
    entries.undo(ctx.ids, "trial", row_id, at)
    return f"The trial of {row.way_x} and {row.way_y} is off"

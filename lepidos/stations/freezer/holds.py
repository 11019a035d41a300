"""What the log of a bag's places shows: a raw hold, and days that warm spells took off its life."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

import numpy as np

from lepidos.core.errors import Refused
from lepidos.core.freezer.bag_cold import ColdRecord
from lepidos.core.freezer.keeping_time import MINUTES_PER_DAY, Fat, pace
from lepidos.core.freezer.raw_hold import Route, Verdict, best
from lepidos.core.freezer.temperature_log import MINUTE_S, Floats
from lepidos.guide.freezing import HoldRule, raw_holds
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.freezer.cold_records import Logs, all_logs, record_of, stays_of
from lepidos.store.base import settings
from lepidos.store.base.earlier import Act
from lepidos.store.pack import bags, portions
from lepidos.store.records import Bag, BagNow, Move

USUAL_RULE = "fda"  # the longer one
MIN_DAYS = 1  # a warm spell that takes less is not told


def rule_now() -> tuple[str, HoldRule]:
    """Whose rule a crew goes by: its key, and the rule."""
    key = settings.value(settings.HOLD_RULE) or USUAL_RULE
    rules = raw_holds().rules
    return (key, rules[key]) if key in rules else (USUAL_RULE, rules[USUAL_RULE])


def rule_of(ctx: AppContext) -> tuple[str, HoldRule]:
    """`rule_now`, for a page."""
    with ctx.store.reading():
        return rule_now()


@dataclass(frozen=True)
class ChooseRule:
    """An order: whose rule of raw fish holds here."""

    rule: str


def choose_rule(ctx: AppContext, key: str, order: ChooseRule) -> Receipt:
    """Choose it; what logs prove is judged again by it. Raises Refused."""

    def do(at: datetime) -> Receipt:
        if order.rule not in raw_holds().rules:
            raise Refused({"rule": "Choose one of the rules"})
        act = Act(ctx.ids, at)
        settings.put(ctx.ids, at, settings.HOLD_RULE, order.rule, act)
        recount(ctx, (bag.id for bag, _ in bags.all_in()))
        return Receipt("change", act.id, f"Raw holds by: {raw_holds().rules[order.rule].name}")

    return run_idempotent(ctx, key, "freezer.rule", order, do)


@dataclass(frozen=True)
class RawHold:
    """What can be said of a bag and raw fish.

    `never`: the kind is not eaten raw; `exempt`: the rule asks no hold of it; else `verdict`.
    """

    rule: HoldRule
    never: bool
    exempt: bool
    verdict: Verdict | None

    @property
    def proved_at(self) -> datetime | None:
        """When the log proved it."""
        done = self.verdict.done if self.verdict else None
        return None if done is None else moment_of(done)

    @property
    def verdict_since(self) -> datetime | None:
        """When the clock started that runs, or ran out."""
        since = self.verdict.since if self.verdict else None
        return None if since is None else moment_of(since)

    @property
    def known_until(self) -> datetime | None:
        """Until when readings show that a clock that runs has run."""
        v = self.verdict
        return None if v is None or v.since is None else moment_of(v.since + v.held)

    @property
    def due_at(self) -> datetime | None:
        """When it will be, should nothing warm."""
        due = self.verdict.due if self.verdict else None
        return None if due is None else moment_of(due)

    @property
    def stopped_at(self) -> tuple[datetime, str] | None:
        """When the clock last started again, and why."""
        stopped = self.verdict.stopped if self.verdict else []
        return (moment_of(stopped[-1][0]), stopped[-1][1]) if stopped else None


def raw_hold(
    ctx: AppContext,
    rule: HoldRule,
    logs: Logs,
    bag: Bag,
    moves: Sequence[Move],
    seen: frozenset[str],
) -> RawHold:
    """Of one bag, from an open file; `rule`: see `rule_now`, `seen`: see `seen_never`."""
    species = ctx.guide.known_or_named(bag.species)
    never = "never_raw" in species.traits or bag.id in seen
    if never or bag.species in rule.exempt:
        return RawHold(rule, never, bag.species in rule.exempt and not never, None)
    return RawHold(rule, False, False, best(_routes(rule), stays_of(ctx, logs, bag, moves)))


def _routes(rule: HoldRule) -> list[Route]:
    return [Route(r.key, r.hold_c, r.hours, r.freeze_c) for r in rule.routes]


def seen_never(ctx: AppContext, bag_ids: list[str]) -> frozenset[str]:
    """Those with a fish on which something was seen after which it is not eaten raw."""
    never = {sight.key for sight in ctx.guide.findings.kinds if sight.raw == "never"}
    return frozenset(bag for bag, what in portions.sights_in(bag_ids) if what in never)


def lost_days(ctx: AppContext, logs: Logs, bag: Bag, moves: Sequence[Move]) -> int:
    """Days of life at −18 °C that warm spells took, beside as many days at −18 °C."""
    species = ctx.guide.known_or_named(bag.species)
    total = 0.0
    for n, move in enumerate(moves):
        record = record_of(ctx, logs, move.place_id, bag) if move.place_id else None
        if move.action != "in" or record is None:
            continue
        used = _used(ctx, logs.ids(str(move.place_id)), record, species.keeping.fat)
        first = record.log.first
        a = int(move.at.timestamp()) // MINUTE_S - first
        b = int(moves[n + 1].at.timestamp()) // MINUTE_S - first if n + 1 < len(moves) else None
        hours = [
            min(len(used) - 1, max(0, m // 60)) for m in (a, len(used) * 60 if b is None else b)
        ]
        total += float(used[hours[1]] - used[hours[0]])
    life = (bag.best_by - bag.packed_on).days
    return min(life, int(max(0.0, total)))


def _used(ctx: AppContext, ids: tuple[str, ...], record: ColdRecord, fat: Fat) -> Floats:
    """Days used beyond those of −18 °C before each hour of the log; nothing in gaps."""

    def work_out() -> Floats:
        over = (pace(record.middle, fat) - 1) / MINUTES_PER_DAY
        over[~record.log.known] = 0.0
        whole = len(over) // 60 * 60
        hourly = over[:whole].reshape(-1, 60).sum(axis=1)
        found: Floats = np.concatenate([[0.0], hourly.cumsum()])
        return found

    return ctx.memo.get(("days used", ids, record.kind, fat), work_out, most=60)


def recount(ctx: AppContext, bag_ids: Iterable[str]) -> list[tuple[Bag, BagNow, BagNow]]:
    """Judge bags again by the logs, in a transaction that writes: those whose dates moved.

    Each: the bag, as it was, as it is.
    """
    logs, ids = all_logs(), list(bag_ids)
    moves, seen, changed = bags.moves_of_bags(ids), seen_never(ctx, ids), []
    _, rule = rule_now()
    for bag, before in bags.with_ids(ids):
        lost = lost_days(ctx, logs, bag, moves[bag.id])
        proved = raw_hold(ctx, rule, logs, bag, moves[bag.id], seen).proved_at
        if (lost, proved) == (before.lost_days, before.raw_from):
            continue
        due = bag.best_by - timedelta(days=lost)
        after = before._replace(lost_days=lost, best_by=due, raw_from=proved)
        changed.append((bag, before, after))
    bags.keep_by_log([after for _, _, after in changed])
    return changed


def moment_of(minute: int) -> datetime:
    """The moment of a minute since 1970."""
    return datetime(1970, 1, 1, tzinfo=UTC) + timedelta(minutes=minute)

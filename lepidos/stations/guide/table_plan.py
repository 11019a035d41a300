"""Table plan: all that waits for the knife, planned together, with what to lay out."""

import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial

from lepidos.core.cutting.wishes import Choice
from lepidos.core.fish.bodyplan import Step
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.wishes import USUAL_PURPOSE, choice_of
from lepidos.stations.deck.slab import SlabFish, view_slab
from lepidos.stations.guide.planner import AskPlan, Planned, plan_fish
from lepidos.stations.pack.portioning import PER_BAG, SERVING_KG
from lepidos.stations.schedule.pace import kind_of
from lepidos.stations.trips.trips import TripView


@dataclass(frozen=True)
class PlanGroup:
    """The fish of one species that are to be cut alike, planned as the middle one of them."""

    codes: tuple[str, ...]
    kind: str
    planned: Planned

    @property
    def minutes(self) -> float:
        """For all of them."""
        return self.planned.cut.minutes * len(self.codes)


@dataclass(frozen=True)
class Phase:
    """Steps done to many fish at once, to which, and the cautions of these fish at it."""

    title: str
    rows: tuple[tuple[Step, tuple[str, ...], tuple[str, ...]], ...]


@dataclass(frozen=True)
class TablePlan:
    """Groups in the order of work; what is done first; what to lay out; what will be waste [kg]."""

    view: TripView
    groups: tuple[PlanGroup, ...]
    phases: tuple[Phase, ...]
    tools: tuple[str, ...]
    bags: int
    waste_kg: float

    @property
    def minutes(self) -> float:
        """For one pair of hands."""
        return sum(g.minutes for g in self.groups)


def plan_table(ctx: AppContext, trip_id: str) -> TablePlan:
    """A plan for every fish that waits. Raises Unknown."""
    slab = view_slab(ctx, trip_id)
    alike: dict[tuple[str, str], tuple[Choice, list[SlabFish]]] = {}
    rank = {p.fish_id: n for n, p in enumerate(slab.order.places)}
    with ctx.store.reading():
        for row in sorted(slab.waiting, key=lambda r: rank.get(str(r.fish.id), 0)):
            choice = choice_of(ctx, row.fish, partial(_kg_of, row), row.species)
            key = (row.species.key, repr(replace(choice, said_by={})))
            alike.setdefault(key, (choice, []))[1].append(row)
    groups = tuple(_group(ctx, choice, rows) for choice, rows in alike.values())
    tools = [
        tool.name
        for tool in ctx.guide.tools.values()
        if any(tool.name in s.tool for g in groups for s in g.planned.cut.steps)
    ]
    phases = (
        _phase("Sharp and venomous parts off first", "hurts", groups),
        _phase("Then scales and slime, before any meat is open", "surface", groups),
    )
    return TablePlan(
        slab.view,
        groups,
        tuple(p for p in phases if p.rows),
        tuple(tools),
        math.ceil(_kg(ctx, groups, "fillet") / (SERVING_KG * PER_BAG)),
        _kg(ctx, groups, "rest"),
    )


def _kg(ctx: AppContext, groups: Sequence[PlanGroup], counts_as: str) -> float:
    """What to expect of all groups together that counts as this [kg]."""
    return sum(
        expected.value * len(group.codes)
        for group in groups
        for key, expected in group.planned.expected.items()
        if ctx.guide.piece(key.partition(".")[0]).counts_as == counts_as
    )


def _kg_of(row: SlabFish) -> float:
    return row.weight.kg


def _group(ctx: AppContext, choice: Choice, rows: Sequence[SlabFish]) -> PlanGroup:
    middle = sorted(rows, key=lambda r: r.weight.kg)[len(rows) // 2]
    kg = statistics.median(r.weight.kg for r in rows)
    done = all("gutted" in r.states for r in rows)
    ask = AskPlan(
        middle.species.key,
        middle.total_length_m,
        "total",
        kg,
        purpose=choice.purpose or USUAL_PURPOSE,
        state="gutted" if done else "whole",
        skin="off" if choice.skin == "off" else "on",
        methods=choice.methods,
        tools=choice.tools,
        count=len(rows),
    )
    return PlanGroup(
        tuple(str(r.fish.code) for r in rows),
        kind_of(ctx, middle.species),
        plan_fish(ctx.guide, ask),
    )


def _phase(title: str, phase: str, groups: Sequence[PlanGroup]) -> Phase:
    """The steps of a phase over all groups, in the order in which a plan first has them."""
    found: dict[tuple[str, str], tuple[Step, list[str], dict[str, None]]] = {}
    for group in groups:
        for step in group.planned.cut.steps:
            if step.phase == phase:
                row = found.setdefault((step.key, step.title), (step, [], {}))
                row[1].extend(group.codes)
                row[2].update(dict.fromkeys(group.planned.cautions.get(step.key, ())))
    return Phase(
        title,
        tuple((step, tuple(codes), tuple(cautions)) for step, codes, cautions in found.values()),
    )

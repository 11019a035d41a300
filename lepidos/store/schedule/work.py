"""Work on a fish as its facts tell it: the board it lay on, pauses, when it was finished."""

import json
from collections.abc import Iterable
from datetime import datetime

from peewee import SQL, fn

from lepidos.core.schedule.cutting_time import worked_seconds
from lepidos.store import records
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import among
from lepidos.store.base.standing import by_fish, those_standing
from lepidos.store.schema.fish import FactTable, FishNowTable

# the kinds of facts, see records.Fact
STATE, STEP, BOARD, ANSWER, WORK, LOT = "state", "step", "board", "answer", "work", "lot"
# and the names of those about work
PAUSED, RESUMED, CLOSED = "paused", "resumed", "closed"
# how the weight of a piece is known when nobody weighed it, see records.Weighing
BY_EYE = "eye"

_CUT_LAST: Ready[records.FishNow] = Ready(
    lambda most: (
        FishNowTable.select()
        .where(
            FishNowTable.stage == "done",
            fn.EXISTS(
                FactTable.select().where(
                    FactTable.fish == FishNowTable.fish, FactTable.kind == BOARD
                )
            ),
        )
        .order_by(FishNowTable.fish.desc())
        .limit(SQL("?", (most,)))
    )
)
_FACTS_OF: Ready[records.Fact] = Ready(
    lambda fish: those_standing(
        FactTable.select().where(among(FactTable.fish, fish)).order_by(FactTable.at, FactTable.id),
        FactTable,
    )
)


def last_board(facts: Iterable[records.Fact]) -> records.Fact | None:
    """The last time, among facts, that the fish came to a board: its `name` is the board's id."""
    return next((f for f in reversed(list(facts)) if f.kind == BOARD), None)


def closed_at(facts: Iterable[records.Fact]) -> datetime | None:
    """When, by its facts, a fish was finished."""
    return next((f.at for f in facts if f.kind == WORK and f.name == CLOSED), None)


def bench_times(most: int) -> list[tuple[str, records.FishNow, float]]:
    """Of the fish finished last: the board it lay on, what is true of it, seconds it took."""
    states = {row.fish_id: row for row in _CUT_LAST(most)}
    found = []
    for fish_id, facts in by_fish(_FACTS_OF(json.dumps(list(states)))).items():
        started, ended = last_board(facts), closed_at(facts)
        if started and ended:
            seconds = worked(facts, started.at, ended)
            found.append((started.name, states[fish_id], seconds))
    return found


def worked(facts: list[records.Fact], since: datetime, until: datetime) -> float:
    """Seconds at a fish between two moments, its pauses left out.

    A pause that waited in a browser may be written after what came later: times decide here.
    """
    marks = sorted(
        ((f.at - since).total_seconds(), f.name == PAUSED)
        for f in facts
        if f.kind == WORK and f.name != CLOSED and f.at >= since
    )
    return worked_seconds(0.0, (until - since).total_seconds(), marks)

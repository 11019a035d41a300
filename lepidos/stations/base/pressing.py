"""Which of the waiting fish the models take, when there are more than they can.

A big boat or a long import may leave more fish than the order of work and the cold are calculated
for in the time that a page has. The most pressing come first: what lies on a board or was put in
its place by hand, then what is not on ice, histamine fish before others, then by landing.
"""

from collections.abc import Sequence

from lepidos.core.catch.handling import MEDIUM_STATES
from lepidos.core.schedule.boards import MAX_FISH
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.fish import landed
from lepidos.store.base import entries
from lepidos.store.records import Fish, FishNow
from lepidos.store.schedule import boards

WAITS = frozenset({"slab", "table"})
_ON_ICE = frozenset(MEDIUM_STATES) - {"unpacked"}


def waiting(ctx: AppContext, trip_id: str) -> Sequence[tuple[Fish, FishNow]]:
    """The fish that wait, at most `MAX_FISH` of them. Called inside an open transaction."""
    key = ("waiting", trip_id, entries.last_key(), ctx.guide.edition)
    return ctx.memo.get(key, lambda: _waiting(ctx, trip_id))


def _waiting(ctx: AppContext, trip_id: str) -> Sequence[tuple[Fish, FishNow]]:
    rows = [(fish, now) for fish, now in landed(ctx, trip_id) if now.stage in WAITS]
    if len(rows) <= MAX_FISH:
        return rows
    held = boards.held_on_trip(trip_id)

    def presses(row: tuple[Fish, FishNow]) -> tuple[bool, bool, bool]:
        fish, now = row
        first = now.stage == "table" or str(fish.id) in held
        warm = not _ON_ICE & set(now.facts.split())
        histamine = "histamine" in ctx.guide.one(fish.species).traits
        return (not first, not warm, not histamine)

    kept = {fish.id for fish, _ in sorted(rows, key=presses)[:MAX_FISH]}
    return [row for row in rows if row[0].id in kept]

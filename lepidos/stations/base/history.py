"""The history of a fish or a bag: what was done, when, on which device, and what was undone."""

from dataclasses import dataclass
from datetime import datetime

from lepidos.stations.base.context import AppContext
from lepidos.store import records
from lepidos.store.base import history


@dataclass(frozen=True)
class Done:
    """One act. `device` is "" for the machine itself; `is_undone` when a later act undid it."""

    at: datetime
    sentence: str
    device: str
    is_undone: bool


def history_of_fish(ctx: AppContext, fish_id: str) -> list[Done]:
    """Of a fish, its pieces and their bags, oldest first. Empty for one that there is not."""
    with ctx.store.reading():
        return _told(history.of_fish(fish_id))


def history_of_bag(ctx: AppContext, bag_id: str) -> list[Done]:
    """Of a bag, oldest first. Empty for one that there is not."""
    with ctx.store.reading():
        return _told(history.of_bag(bag_id))


def _told(entries: list[records.Entry]) -> list[Done]:
    undone = {entry.undoes for entry in entries if entry.undoes}
    return [
        Done(e.at, e.sentence, e.device, e.subject_id in undone and not e.undoes) for e in entries
    ]

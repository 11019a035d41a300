"""Trials of two ways of cutting, and the fish in them."""

import json
from datetime import datetime

from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import find, plain_sql
from lepidos.store.base.standing import in_order, standing, standing_of
from lepidos.store.schema.trials import TrialFishTable, TrialTable

_OF_FISH: Ready[records.TrialFish] = standing_of(TrialFishTable)


def add(ids: IdMaker, at: datetime, **values: object) -> records.Trial:
    """A trial."""
    return add_row(TrialTable, id=ids.new(at), at=at, **values)


def get(trial_id: str) -> records.Trial:
    """Raises Unknown."""
    found: records.Trial = find(TrialTable, trial_id, "trial")
    return found


def every() -> list[records.Trial]:
    """Trials that stand, the newest first."""
    return standing(in_order(TrialTable.select()), TrialTable)[::-1]


def enter(ids: IdMaker, at: datetime, **values: object) -> records.TrialFish:
    """A fish comes into a trial."""
    return add_row(TrialFishTable, id=ids.new(at), at=at, **values)


def fish_of(trial_id: str) -> list[records.TrialFish]:
    """The fish of a trial, in the order in which they came."""
    query = TrialFishTable.select().where(TrialFishTable.trial == trial_id)
    return standing(in_order(query), TrialFishTable)


def of_fish(fish_id: str) -> tuple[records.Trial, records.TrialFish] | None:
    """The trial that a fish is in, if that stands."""
    for row in _OF_FISH(fish_id)[::-1]:
        trial = next((t for t in every() if t.id == row.trial_id), None)
        if trial is not None:
            return trial, row
    return None


def entered(row_id: str) -> records.TrialFish:
    """A fish in a trial. Raises Unknown."""
    found: records.TrialFish = find(TrialFishTable, row_id, "fish of a trial")
    return found


def side_sums(fish_ids: list[str], pieces: list[str]) -> dict[str, dict[str, float]]:
    """By fish and side: kilograms of these pieces, weighed when they were finished."""
    query = """
        SELECT fish_id, side, sum(kg) FROM weighing
        WHERE fish_id IN (SELECT value FROM json_each(?)) AND side <> ''
          AND NOT rough AND method <> 'eye'
          AND piece IN (SELECT value FROM json_each(?))
          AND NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = weighing.id)
        GROUP BY 1, 2
    """
    found: dict[str, dict[str, float]] = {}
    for fish, side, kg in plain_sql(query, json.dumps(fish_ids), json.dumps(pieces)):
        found.setdefault(fish, {})[side] = kg
    return found


def latest_finished(most: int) -> list[str]:
    """Fish finished last that were cut alike on both sides: not in a trial."""
    query = """
        SELECT fish_id FROM fish_now WHERE stage = 'done' AND fillet_kg > 0
          AND NOT EXISTS (SELECT 1 FROM trial_fish WHERE trial_fish.fish_id = fish_now.fish_id)
        ORDER BY fish_id DESC LIMIT ?
    """
    return [fish for (fish,) in plain_sql(query, most)]

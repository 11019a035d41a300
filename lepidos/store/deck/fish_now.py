"""What is true of a fish now, derived from its rows whenever one of them changes."""

import json
from collections.abc import Callable

from lepidos.store import records
from lepidos.store.base import entries
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import among, put_many
from lepidos.store.base.standing import by_fish, standing_of_these
from lepidos.store.deck import fishes
from lepidos.store.schedule.work import BOARD, BY_EYE, STATE, STEP, closed_at, last_board, worked
from lepidos.store.schema.cutting import WeighingTable
from lepidos.store.schema.fish import FactTable, FishNowTable, FishTable, MeasurementTable

MANY = 500  # fish derived at once

_THESE_FISH: Ready[records.Fish] = Ready(
    lambda ids: FishTable.select().where(among(FishTable.id, ids))
)
_MEASURED_OF: Ready[records.Measurement] = standing_of_these(MeasurementTable)
_FACTS_OF: Ready[records.Fact] = standing_of_these(FactTable)
_WEIGHED_OF: Ready[records.Weighing] = standing_of_these(WeighingTable)


def refresh(fish_id: str, is_fillet: Callable[[str], bool]) -> records.FishNow:
    """Derive what is true of a fish now from its rows; in the transaction that changed them."""
    values = _derived(
        fishes.get(fish_id),
        fishes.measurements_of(fish_id),
        fishes.facts_of(fish_id),
        fishes.weighings_of(fish_id),
        entries.is_undone(fish_id),
        is_fillet,
    )
    put_many(FishNowTable, [values])
    return fishes.now(fish_id)


def refresh_many(fish_ids: list[str], is_fillet: Callable[[str], bool]) -> None:
    """`refresh` of many fish, a chunk at a time."""
    for start in range(0, len(fish_ids), MANY):
        ids = fish_ids[start : start + MANY]
        hole, undone = json.dumps(ids), entries.undone_among(ids)
        measured, facts, weighed = (
            by_fish(q(hole)) for q in (_MEASURED_OF, _FACTS_OF, _WEIGHED_OF)
        )
        put_many(
            FishNowTable,
            [
                _derived(
                    fish,
                    measured.get(fish.id, []),
                    facts.get(fish.id, []),
                    weighed.get(fish.id, []),
                    fish.id in undone,
                    is_fillet,
                )
                for fish in _THESE_FISH(hole)
            ],
        )


def _derived(
    fish: records.Fish,
    measurements: list[records.Measurement],
    facts: list[records.Fact],
    weighings: list[records.Weighing],
    undone: bool,
    is_fillet: Callable[[str], bool],
) -> dict[str, object]:
    latest = {m.quantity: m for m in measurements}
    named = {kind: sorted({f.name for f in facts if f.kind == kind}) for kind in (STATE, STEP)}
    parts: dict[str, float] = {}
    for w in weighings:
        parts[w.piece] = parts.get(w.piece, 0.0) + w.kg
    board, closed = last_board(facts), closed_at(facts)
    if undone:
        stage = "withdrawn"
    elif closed:
        stage = "done"
    elif weighings or any(f.kind in {STEP, BOARD} for f in facts):
        stage = "table"
    else:
        stage = "slab"
    return {
        "fish": fish.id,
        "trip": fish.trip_id,
        "species": fish.species,
        "stage": stage,
        "facts": " ".join(named[STATE]),
        "steps": " ".join(named[STEP]),
        "length_m": latest["length"].value,
        "length_type": latest["length"].length_type,
        **{
            f"{how}_kg": latest[how].value if how in latest else None
            for how in ("whole", "gutted", "headed", "shared")
        },
        "weighed_kg": sum(w.kg for w in weighings),
        "fillet_kg": sum(w.kg for w in weighings if is_fillet(w.piece)),
        "parts": json.dumps(dict(sorted(parts.items()))),
        "board_id": board.name if board else None,
        "seconds": worked(facts, board.at, closed) if board and closed else None,
        "doubt": _doubt(weighings),
        "length_about": latest["length"].method in fishes.NOT_MEASURED,
    }


def _doubt(weighings: list[records.Weighing]) -> str:
    if any(w.rough for w in weighings):
        return "rough"
    return "eye" if any(w.method == BY_EYE for w in weighings) else ""

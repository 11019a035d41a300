"""A place counted through: which bags are missing, and which should not be there."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated

from annotated_types import MaxLen

from lepidos.core.errors import BadInput, Refused, Unknown
from lepidos.core.pack.labels import count, read_code, show_code
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.store.base import entries
from lepidos.store.freezer import places as place_store
from lepidos.store.pack import bags
from lepidos.store.records import Stocktake

MAX_CODES = 5000


@dataclass(frozen=True)
class CountPlace:
    """Codes that were seen in a place, in any order."""

    place_id: str
    codes: Annotated[tuple[str, ...], MaxLen(MAX_CODES)]


@dataclass(frozen=True)
class Counted:
    """A count as it is shown: codes missing then that still are in the list of the place, and
    codes that were there and still are listed elsewhere, with where that is.
    """

    row: Stocktake
    missing: tuple[str, ...]
    strange: tuple[tuple[str, str], ...]


def count_place(ctx: AppContext, key: str, order: CountPlace) -> Receipt:
    """Keep what was seen. Nothing is moved by it. Raises Refused with the codes, Unknown."""

    def do(at: datetime) -> Receipt:
        place = place_store.place(order.place_id)
        if len(order.codes) > MAX_CODES:
            raise Refused({"codes": f"At most {MAX_CODES} bags at a time"})
        seen, wrong = _codes(order.codes)
        if wrong:
            raise Refused({"codes": f"No bag has the code {', '.join(wrong[:5])}"})
        listed = {bag.code for bag, _ in bags.first_expiring(place.id, MAX_CODES)}
        missing, strange = sorted(listed - seen), sorted(seen - listed)
        row = place_store.add_stocktake(
            ctx.ids,
            at,
            place=place.id,
            seen=len(seen),
            missing=json.dumps(missing),
            strange=json.dumps(strange),
        )
        said = [f"{place.name} counted: {count(len(seen), 'bag')}"]
        if missing:
            said.append(f"{len(missing)} missing")
        if strange:
            said.append(f"{len(strange)} that should not be there")
        if not missing and not strange:
            said.append("all there")
        return Receipt("stocktake", row.id, ", ".join(said))

    return run_idempotent(ctx, key, "freezer.count", order, do)


def _codes(texts: Sequence[str]) -> tuple[set[str], list[str]]:
    """The codes that bags have, and what is none."""
    found, wrong = set(), []
    for text in texts:
        if not text.strip():
            continue
        try:
            found.add(bags.by_code(read_code(text)).code)
        except (BadInput, Unknown):
            wrong.append(text.strip().upper()[:12])
    return found, wrong


def counted(names: dict[str, str]) -> dict[str, Counted]:
    """By place: its last count, and what of it is still open. `names` of places by id."""
    rows = {
        place_id: (row, json.loads(row.missing), json.loads(row.strange))
        for place_id, row in place_store.last_stocktakes().items()
    }
    where = bags.places_by_code(
        [c for _, *lists in rows.values() for codes in lists for c in codes]
    )
    elsewhere = "nowhere: taken out or not yet put in"
    return {
        place_id: Counted(
            row,
            tuple(show_code(c) for c in missing if where.get(c) == place_id),
            tuple(
                (show_code(c), names.get(where.get(c, ""), elsewhere))
                for c in strange
                if where.get(c) != place_id
            ),
        )
        for place_id, (row, missing, strange) in rows.items()
    }


def undo_count(ctx: AppContext, row_id: str, at: datetime) -> str:
    name = place_store.place(place_store.stocktake(row_id).place_id).name
    entries.undo(ctx.ids, "stocktake", row_id, at)
    return f"The count of {name} is undone"

"""The crew's own species and body plans, as the TOML they wrote."""

import json
from datetime import datetime

from lepidos.core.errors import Unknown
from lepidos.store import records
from lepidos.store.base.earlier import of_act
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import first, read
from lepidos.store.schema.own import OwnGuideTable


def every() -> list[records.OwnGuide]:
    """All of them, plans before the species that are cut by them."""
    return read(OwnGuideTable.select().order_by(OwnGuideTable.kind, OwnGuideTable.key))


def get(kind: str, key: str) -> records.OwnGuide:
    """Raises Unknown."""
    row = find(kind, key)
    if row is None:
        raise Unknown(f"{kind} of your own", key)
    return row


def find(kind: str, key: str) -> records.OwnGuide | None:
    """One, or None."""
    query = OwnGuideTable.select().where(OwnGuideTable.kind == kind, OwnGuideTable.key == key)
    found: records.OwnGuide | None = first(query)
    return found


def put(ids: IdMaker, at: datetime, kind: str, key: str, toml: str) -> records.OwnGuide:
    """Write one, over what was there under its key."""
    OwnGuideTable.delete().where(OwnGuideTable.kind == kind, OwnGuideTable.key == key).execute()
    return add_row(OwnGuideTable, id=ids.new(at), kind=kind, key=key, toml=toml, at=at)


def remove(kind: str, key: str) -> None:
    """Throw one away."""
    OwnGuideTable.delete().where(OwnGuideTable.kind == kind, OwnGuideTable.key == key).execute()


def touched_by(act: str) -> set[tuple[str, str]]:
    """The kinds and keys that an act wrote over or made."""
    found = set()
    for row in of_act(act):
        if row.before:
            values = json.loads(row.before)
            found.add((str(values["kind"]), str(values["key"])))
        elif own := first(OwnGuideTable.select().where(OwnGuideTable.id == row.row_id)):
            found.add((str(own.kind), str(own.key)))
    return found

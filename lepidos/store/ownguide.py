"""The crew's own species and body plans, as the TOML they wrote."""

from datetime import datetime

from lepidos.core.errors import Unknown
from lepidos.store import records
from lepidos.store.ids import IdMaker
from lepidos.store.models import OwnGuide
from lepidos.store.rows import add as add_row
from lepidos.store.rows import first, read


def every() -> list[records.OwnGuide]:
    """All of them, plans before the species that are cut by them."""
    return read(OwnGuide.select().order_by(OwnGuide.kind, OwnGuide.key))


def get(kind: str, key: str) -> records.OwnGuide:
    """Raises Unknown."""
    row = find(kind, key)
    if row is None:
        raise Unknown(f"{kind} of your own", key)
    return row


def find(kind: str, key: str) -> records.OwnGuide | None:
    """One, or None."""
    query = OwnGuide.select().where(OwnGuide.kind == kind, OwnGuide.key == key)
    found: records.OwnGuide | None = first(query)
    return found


def put(ids: IdMaker, at: datetime, kind: str, key: str, toml: str) -> records.OwnGuide:
    """Write one, over what was there under its key."""
    OwnGuide.delete().where(OwnGuide.kind == kind, OwnGuide.key == key).execute()
    return add_row(OwnGuide, id=ids.new(at), kind=kind, key=key, toml=toml, at=at)


def remove(kind: str, key: str) -> None:
    """Throw one away."""
    OwnGuide.delete().where(OwnGuide.kind == kind, OwnGuide.key == key).execute()

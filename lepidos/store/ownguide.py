"""The crew's own species and body plans, as the TOML they wrote."""

from datetime import datetime

from lepidos.core.errors import Unknown
from lepidos.store.ids import IdMaker
from lepidos.store.models import OwnGuide


def every() -> list[OwnGuide]:
    """All of them, plans before the species that are cut by them."""
    return list(OwnGuide.select().order_by(OwnGuide.kind, OwnGuide.key))


def get(kind: str, key: str) -> OwnGuide:
    """Raises Unknown."""
    row = OwnGuide.get_or_none(OwnGuide.kind == kind, OwnGuide.key == key)
    if row is None:
        raise Unknown(f"{kind} of your own", key)
    return row


def find(kind: str, key: str) -> OwnGuide | None:
    """One, or None."""
    return OwnGuide.get_or_none(OwnGuide.kind == kind, OwnGuide.key == key)


def put(ids: IdMaker, at: datetime, kind: str, key: str, toml: str) -> OwnGuide:
    """Write one, over what was there under its key."""
    OwnGuide.delete().where(OwnGuide.kind == kind, OwnGuide.key == key).execute()
    return OwnGuide.create(id=ids.new(at), kind=kind, key=key, toml=toml, at=at, force_insert=True)


def remove(kind: str, key: str) -> None:
    """Throw one away."""
    OwnGuide.delete().where(OwnGuide.kind == kind, OwnGuide.key == key).execute()

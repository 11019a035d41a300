"""A crew's own guide: fish and body plans that it copies, changes or adds, kept apart from ours."""

import re
from dataclasses import dataclass
from datetime import datetime

from lepidos.core.errors import Conflict, Refused
from lepidos.guide.library import Guide
from lepidos.stations.house import Done, House, once
from lepidos.store import fishes, ownguide

KINDS = ("species", "plan")
LONGEST = 60_000
_KEY = re.compile(r"[a-z][a-z0-9_]{1,39}")


@dataclass(frozen=True)
class Own:
    """One of the crew's own, with its text."""

    kind: str
    key: str
    toml: str


def take_in(house: House) -> list[str]:
    """Read the crew's own into the house's guide, when the app starts.

    Returns what could not be read any more, as sentences: it stays in the file, untouched.
    """
    with house.store.reading():
        rows = [(str(r.kind), str(r.key), str(r.toml)) for r in ownguide.every()]
    problems = []
    for kind, key, toml in rows:
        try:
            _read(house.guide, kind, key, toml)
        except ValueError as error:
            problems.append(f"your own {kind} “{key}” is left out: {error}")
    return problems


def list_own(house: House) -> list[Own]:
    """All of the crew's own."""
    with house.store.reading():
        return [Own(str(r.kind), str(r.key), str(r.toml)) for r in ownguide.every()]


def text_of(house: House, kind: str, key: str) -> str:
    """The TOML of one, the crew's own before ours: to copy and change, or to take along."""
    with house.store.reading():
        own = {(str(r.kind), str(r.key)): str(r.toml) for r in ownguide.every()}
    if (kind, key) in own:
        return own[kind, key]
    return house.guide.text_of(kind, key)


@dataclass(frozen=True)
class SaveOwn:
    """An order to keep a species or a body plan of one's own under a key."""

    kind: str
    key: str
    toml: str


def save_own(house: House, key: str, order: SaveOwn) -> Done:
    """Keep it. Raises Refused with what does not hold; nothing is kept then."""

    def do(at: datetime) -> Done:
        if order.kind not in KINDS:
            raise Refused({"kind": "Say species or plan"})
        if not _KEY.fullmatch(order.key):
            raise Refused({"own_key": "A short name in small letters, as in harbour_bass"})
        if len(order.toml) > LONGEST:
            raise Refused({"toml": "That is too long"})
        trial = house.guide.copy()
        try:
            name = _read(trial, order.kind, order.key, order.toml)
        except ValueError as error:
            raise Refused({"toml": str(error)[:400]}) from error
        row = ownguide.put(house.ids, at, order.kind, order.key, order.toml)
        return Done("own", row.id, f"{name[:1].upper()}{name[1:]} is kept as your own")

    done = once(house, key, "guide.own", order, do)
    if not done.repeated:
        _read(house.guide, order.kind, order.key, order.toml)
    return done


@dataclass(frozen=True)
class RemoveOwn:
    """An order to throw one of the crew's own away; ours of that key shows again."""

    kind: str
    key: str


def remove_own(house: House, key: str, order: RemoveOwn) -> Done:
    """Throw it away, unless a fish or a species needs it. Raises Conflict, Unknown."""

    def do(at: datetime) -> Done:
        row = ownguide.get(order.kind, order.key)
        if not house.guide.is_ours(order.kind, order.key) and _is_used(house, order):
            raise Conflict(f"“{order.key}” is used by fish in this file; it stays")
        ownguide.remove(order.kind, order.key)
        return Done("own", row.id, f"Your own {order.key.replace('_', ' ')} is thrown away")

    done = once(house, key, "guide.own.remove", order, do)
    house.guide.forget(order.kind, order.key)
    return done


def _read(guide: Guide, kind: str, key: str, toml: str) -> str:
    if kind == "plan":
        return guide.put_plan(key, toml)
    return guide.put_species(key, toml)


def _is_used(house: House, order: RemoveOwn) -> bool:
    if order.kind == "plan":
        return any(s.body_plan == order.key for s in house.guide.species.values())
    return fishes.any_of(order.key)

"""A crew's own guide: fish and body plans that it copies, changes or adds, kept apart from ours."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from lepidos.core.errors import Conflict, Refused
from lepidos.core.fish.species import Species
from lepidos.guide import own
from lepidos.guide.library import Guide
from lepidos.guide.plans import GRAVE, faults_of
from lepidos.guide.problems import GuideProblem
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.undo_change import undo_change
from lepidos.stations.guide.tryout import try_out
from lepidos.store.base.earlier import Act
from lepidos.store.deck import fishes
from lepidos.store.guide import ownguide

KINDS = ("species", "plan")
MAX_LENGTH = 60_000
MAX_TRIED, MAX_LINES, MAX_WORDS = 12, 6, 800
_KEY = re.compile(r"[a-z][a-z0-9_]{1,39}")


@dataclass(frozen=True)
class Own:
    """One of the crew's own, with its text, and why it is set aside ("" when it is not)."""

    kind: str
    key: str
    toml: str
    problem: str = ""
    name: str = ""


def take_in(ctx: AppContext) -> list[str]:
    """Read the crew's own into the app's guide, when the app starts.

    Returns what could not be read any more, as sentences: it stays in the file, untouched.
    """
    with ctx.store.reading():
        rows = [(str(r.kind), str(r.key), str(r.toml)) for r in ownguide.every()]
    for kind, key, toml in rows:
        _put(ctx, kind, key, toml)
    for kind, key, toml in rows:  # what needs another of the crew's own, which came later
        if (kind, key) in ctx.own_problems:
            _put(ctx, kind, key, toml)
    return [f"your own {kind} “{key}” is set aside: {why}"
            for (kind, key), why in ctx.own_problems.items()]  # fmt: skip


def _put(ctx: AppContext, kind: str, key: str, toml: str) -> None:
    """Into the app's guide; or set aside with the reason, and ours of that key shows again."""
    ctx.own_problems.pop((kind, key), None)
    try:
        read_own(ctx.guide, kind, key, toml)
    except ValueError as error:
        ctx.own_problems[kind, key] = _in_words(error)
        own.forget(ctx.guide, kind, key)


def follow_file(ctx: AppContext, kind: str, key: str) -> None:
    """Make the app's guide what the file says of a key: also after a request that came twice."""
    with ctx.store.reading():
        row = ownguide.find(kind, key)
        toml = str(row.toml) if row else None
    if toml is None:
        ctx.own_problems.pop((kind, key), None)
        own.forget(ctx.guide, kind, key)
    else:
        _put(ctx, kind, key, toml)
    ctx.changes.tell()


def list_own(ctx: AppContext) -> list[Own]:
    """All of the crew's own, each with the reason where it is set aside."""
    with ctx.store.reading():
        rows = [(str(r.kind), str(r.key), str(r.toml)) for r in ownguide.every()]
    return [Own(*row, ctx.own_problems.get(row[:2], ""), _called(ctx, *row[:2])) for row in rows]


def _called(ctx: AppContext, kind: str, key: str) -> str:
    """What one calls it; of one that is set aside what its key says."""
    known = ctx.guide.plans if kind == "plan" else ctx.guide.species
    one = known.get(key)
    return one.name if one and (kind, key) not in ctx.own_problems else key.replace("_", " ")


def text_of(ctx: AppContext, kind: str, key: str) -> str:
    """The TOML of one, the crew's own before ours: to copy and change, or to take along."""
    with ctx.store.reading():
        kept = {(str(r.kind), str(r.key)): str(r.toml) for r in ownguide.every()}
    if (kind, key) in kept:
        return kept[kind, key]
    return own.text_of(kind, key)


@dataclass(frozen=True)
class SaveOwn:
    """An order to keep a species or a body plan of one's own under a key."""

    kind: str
    key: str
    toml: str


def save_own(ctx: AppContext, key: str, order: SaveOwn) -> Receipt:
    """Keep it. Raises Refused with what does not hold; nothing is kept then."""

    def do(at: datetime) -> Receipt:
        if order.kind not in KINDS:
            raise Refused({"kind": "Say species or plan"})
        if not _KEY.fullmatch(order.key):
            raise Refused({"own_key": "A short name in small letters, as in harbour_bass"})
        if len(order.toml) > MAX_LENGTH:
            raise Refused({"toml": "That is too long"})
        trial = ctx.guide.copy()
        try:
            name = read_own(trial, order.kind, order.key, order.toml)
        except ValueError as error:
            raise Refused({"toml": _in_words(error)}) from error
        notes = _look_again(trial, order.kind, order.key)
        act = Act(ctx.ids, at)
        if before := ownguide.find(order.kind, order.key):
            act.keep("own_guide", [before.id])
        row = ownguide.put(ctx.ids, at, order.kind, order.key, order.toml)
        act.made("own_guide", [row.id])
        return Receipt(
            "own change", act.id, f"{name[:1].upper()}{name[1:]} is kept as your own", notes
        )

    done = run_idempotent(ctx, key, "guide.own", order, do)
    follow_file(ctx, order.kind, order.key)
    return done


@dataclass(frozen=True)
class RemoveOwn:
    """An order to throw one of the crew's own away; ours of that key shows again."""

    kind: str
    key: str


def remove_own(ctx: AppContext, key: str, order: RemoveOwn) -> Receipt:
    """Throw it away, unless a fish or a species needs it. Raises Conflict, Unknown."""

    def do(at: datetime) -> Receipt:
        row = ownguide.get(order.kind, order.key)
        if not own.is_ours(order.kind, order.key) and _is_used(ctx, order):
            raise Conflict(f"“{order.key}” is used by fish in this file; it stays")
        act = Act(ctx.ids, at)
        act.keep("own_guide", [row.id])
        ownguide.remove(order.kind, order.key)
        return Receipt(
            "own change", act.id, f"Your own {order.key.replace('_', ' ')} is thrown away"
        )

    done = run_idempotent(ctx, key, "guide.own.remove", order, do)
    follow_file(ctx, order.kind, order.key)
    return done


def read_own(guide: Guide, kind: str, key: str, toml: str) -> str:
    """Into a guide, when all that a page will ask of it can be answered. Raises ValueError."""
    trial = guide.copy()
    try:
        put = own.put_plan if kind == "plan" else own.put_species
        name = put(trial, key, toml)
        try_out(trial, _concerned(trial, kind, key))
    except (KeyError, TypeError, AttributeError, IndexError) as error:
        # a value of quite another kind than is asked for, where the reader did not look for it
        raise ValueError(f"{key}: a value is missing or of the wrong kind ({error})") from error
    guide.take_from(trial)
    return name


def _look_again(guide: Guide, kind: str, key: str) -> str:
    """What does not hold at the knife, in words. Raises Refused for what hurts someone."""
    faults = {
        (one.key, fault.rule, fault.words): fault
        for one in _concerned(guide, kind, key)
        for fault in faults_of(guide, one)
    }
    told = [f"{words} ({species}: {rule})" for species, rule, words in faults]
    if any(fault.rule in GRAVE for fault in faults.values()):
        grave = [line for line, f in zip(told, faults.values(), strict=True) if f.rule in GRAVE]
        raise Refused({"toml": "; ".join(grave[:MAX_LINES])[:MAX_WORDS]})
    if not told:
        return ""
    more = f"; and {len(told) - MAX_LINES} more" if len(told) > MAX_LINES else ""
    return "Look at its plan again: " + "; ".join(told[:MAX_LINES])[:MAX_WORDS] + more


def _concerned(guide: Guide, kind: str, key: str) -> Iterable[Species]:
    """The fish that a text changes: itself, or those that are cut by a plan, a few of each."""
    if kind == "species":
        return [guide.species[key]]
    return [one for one in guide.species.values() if one.body_plan == key][:MAX_TRIED]


def _in_words(error: ValueError) -> str:
    """What does not hold, field by field, without the reader's own language."""
    if not isinstance(error, GuideProblem):
        return str(error)[:MAX_WORDS]
    more = len(error.said) - MAX_LINES
    said = "; ".join(error.said[:MAX_LINES])[:MAX_WORDS]
    return said + (f"; and {more} more" if more > 0 else "")


def undo_own(ctx: AppContext, act: str, at: datetime) -> str:
    """As `undo_change`. Raises Conflict where a fish needs what would go."""
    touched = _touched(ctx, act)
    said = undo_change(ctx, act, at)
    for kind, key in touched:
        is_gone = not ownguide.find(kind, key) and not own.is_ours(kind, key)
        if is_gone and _is_used(ctx, RemoveOwn(kind, key)):
            raise Conflict(f"“{key}” is used by fish in this file; it stays")
    return said


def _touched(ctx: AppContext, act: str) -> set[tuple[str, str]]:
    """What of the crew's own an act wrote over: asked before and after it is put back."""
    return ctx.memo.get(("own touched", act), lambda: ownguide.touched_by(act))


def follow_undo(ctx: AppContext, act: str) -> None:
    for kind, key in _touched(ctx, act):
        follow_file(ctx, kind, key)


def _is_used(ctx: AppContext, order: RemoveOwn) -> bool:
    if order.kind == "plan":
        return any(s.body_plan == order.key for s in ctx.guide.species.values())
    return fishes.any_of(order.key)

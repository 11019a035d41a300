"""Bags into places, from place to place, and out: eaten, given away, thrown away."""

from dataclasses import dataclass
from datetime import datetime

from lepidos.core.errors import BadInput, Conflict, Refused, Unknown
from lepidos.core.pack.labels import count, one_line, read_code, show_code
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.freezer.holds import recount
from lepidos.store.base import entries
from lepidos.store.freezer import places as place_store
from lepidos.store.pack import bags
from lepidos.store.records import Bag, BagNow

# Why a bag is taken out, and what that is called.
REASONS = {
    "to eat": "to eat",
    "given away": "given away",
    "spoiled": "thrown away",
    "missing": "missing",
}
MAX_NOTE_LENGTH = 80


@dataclass(frozen=True)
class PutAway:
    """An order to put bags, by their codes, into a place."""

    codes: tuple[str, ...]
    place_id: str


def put_away(ctx: AppContext, key: str, order: PutAway) -> Receipt:
    """Put bags into a place: all of them or none. Raises Refused, Conflict."""

    def do(at: datetime) -> Receipt:
        if not order.codes:
            raise Refused({"codes": "Choose at least one bag"})
        try:
            place = place_store.place(order.place_id)
        except Unknown as error:
            raise Refused({"place": "Choose a place"}) from error
        found = [_bag(text) for text in dict.fromkeys(order.codes)]
        for bag, now in found:
            if now.state == "withdrawn":
                raise Conflict(f"Bag {show_code(bag.code)} was undone")
            if now.state == "in" and now.place_id == place.id:
                raise Conflict(f"Bag {show_code(bag.code)} is in {place.name} already")
        return _move(ctx, at, [bag for bag, _ in found], "in", place.id, f"in {place.name}")

    return run_idempotent(ctx, key, "freezer.in", order, do)


@dataclass(frozen=True)
class TakeOut:
    """An order to take bags out, why, and a note with it."""

    codes: tuple[str, ...]
    why: str = "to eat"
    note: str = ""


def take_out(ctx: AppContext, key: str, order: TakeOut) -> Receipt:
    """Take bags out, all of them or none. Their history stays. Raises Refused, Conflict."""

    def do(at: datetime) -> Receipt:
        if order.why not in REASONS:
            raise Refused({"why": f"Say one of: {', '.join(REASONS)}"})
        note = one_line(order.note, 10_000)
        if len(note) > MAX_NOTE_LENGTH:
            raise Refused({"note": f"Keep it under {MAX_NOTE_LENGTH} letters"})
        if not order.codes:
            raise Refused({"codes": "Choose at least one bag"})
        found = [_bag(text) for text in dict.fromkeys(order.codes)]
        for bag, now in found:
            if now.state != "in":
                raise Conflict(f"Bag {show_code(bag.code)} is not in the freezer")
        words = f"taken out, {REASONS[order.why]}" + (f": {note}" if note else "")
        taken = [bag for bag, _ in found]
        return _move(ctx, at, taken, "out", None, words, order.why, note)

    return run_idempotent(ctx, key, "freezer.out", order, do)


def _move(
    ctx: AppContext,
    at: datetime,
    found: list[Bag],
    action: str,
    place_id: str | None,
    words: str,
    why: str = "",
    note: str = "",
) -> Receipt:
    """Move all of them in one touch, which one undo takes back."""
    first = ""
    for bag in found:
        place = place_id or bags.now(bag.id).place_id
        together = {"together": first} if first else {}
        move = bags.move(ctx.ids, at, bag.id, action, place, why, note, **together)
        first = first or move.id
        bags.refresh(bag.id)
    if len(found) == 1:
        return Receipt("move", first, f"Bag {show_code(found[0].code)} {words}")
    bags.lead_together(first)
    return Receipt("moves", first, f"{count(len(found), 'bag')} {words}")


def _bag(text: str) -> tuple[Bag, BagNow]:
    try:
        bag = bags.by_code(read_code(text))
    except BadInput as error:
        raise Refused({"code": str(error)}) from error
    except Unknown as error:
        raise Refused({"code": f"No bag has the code {text.strip().upper()[:12]}"}) from error
    return bag, bags.now(bag.id)


def undo_move(ctx: AppContext, move_id: str, at: datetime) -> str:
    together = bags.moved_together(bags.get_move(move_id))
    for move in together:
        standing = [m.id for m, stands in bags.moves_of(move.bag_id) if stands]
        code = show_code(bags.get(move.bag_id).code)
        if not standing or standing[-1] != move.id:
            raise Conflict(f"Bag {code} has been moved since; undo the later move first")
        entries.undo(ctx.ids, "move", move.id, at)
        bags.refresh(move.bag_id)
    recount(ctx, [move.bag_id for move in together])
    if len(together) > 1:
        return f"{count(len(together), 'bag')} are where they were"
    return f"Bag {code} is where it was"

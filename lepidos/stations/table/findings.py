"""Seen at the board: what a cutter noticed on a fish, and what follows from it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from lepidos.core.errors import Refused
from lepidos.core.pack.findings import Consequences, Sight, consequences
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.store import fishes, sessions
from lepidos.store.records import SightRow

MOST = 999


@dataclass(frozen=True)
class Seen:
    """One thing that was seen on a fish: what, how many, where."""

    row: SightRow
    sight: Sight

    @property
    def words(self) -> str:
        """As it stands in a line: "worms, 3, tail end"."""
        number = str(self.row.number) if self.sight.counted else ""
        return ", ".join(part for part in (self.sight.name, number, self.row.place) if part)


def seen_on(ctx: AppContext, fish_id: str) -> tuple[Seen, ...]:
    """What was seen on a fish. Called in an open transaction."""
    found = []
    for row in sessions.sights_of(fish_id):
        sight = ctx.guide.sights.one(row.what)
        if sight is not None:
            found.append(Seen(row, sight))
    return tuple(found)


def follows(seen: Sequence[Seen]) -> Consequences:
    """What it all comes to."""
    return consequences([s.sight for s in seen])


@dataclass(frozen=True)
class NoteSight:
    """An order to note something seen."""

    fish_id: str
    what: str
    number: int = 1
    place: str = ""


def note_sight(ctx: AppContext, key: str, order: NoteSight) -> Receipt:
    """Note it; also on a finished fish. Raises Refused with the field, Unknown for the fish."""

    def do(at: datetime) -> Receipt:
        fish, now = fishes.get(order.fish_id), fishes.now(order.fish_id)
        if now.stage == "withdrawn":
            raise Refused({"": f"The landing of {fish.code} was undone"})
        sight = ctx.guide.sights.one(order.what)
        if sight is None:
            raise Refused({"what": "Choose what was seen"})
        if sight.gives in ctx.guide.never_used(ctx.guide.known_or_named(fish.species)):
            raise Refused(
                {"what": f"The {sight.name} of this fish is poisonous: leave it in the gut"}
            )
        if not 1 <= order.number <= MOST:
            raise Refused({"number": f"A number from 1 to {MOST}"})
        if order.place and order.place not in sight.places:
            raise Refused({"place": f"Choose where: {', '.join(sight.places)}"})
        number = order.number if sight.counted else 1
        row = sessions.see(
            ctx.ids, at, fish=fish.id, what=order.what, number=number, place=order.place
        )
        return Receipt("sight", row.id, f"{fish.code}: {Seen(row, sight).words}. {sight.say}")

    return run_idempotent(ctx, key, "seen.note", order, do)

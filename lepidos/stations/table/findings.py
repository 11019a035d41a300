"""Seen at the board: what a cutter noticed on a fish, and what follows from it."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Annotated

from annotated_types import Ge, Le

from lepidos.core.errors import Refused
from lepidos.core.pack.findings import Consequences, FindingKind, consequences
from lepidos.core.units import System, format_mass
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.digest import BESIDE
from lepidos.stations.table import spots
from lepidos.store.deck import fishes
from lepidos.store.records import Fish, SightRow
from lepidos.store.table import sessions

MAX_NUMBER = 999


@dataclass(frozen=True)
class Seen:
    """One thing that was seen on a fish: what, how many, where; `on` is the piece by its name."""

    row: SightRow
    sight: FindingKind
    on: str = ""

    @property
    def words(self) -> str:
        """As it stands in a line: "worms, 3, tail end", "wound, fillet A"."""
        number = str(self.row.number) if self.sight.counted else ""
        parts = (self.sight.name, number, self.row.place, self.on)
        return ", ".join(part for part in parts if part)


def seen_on(ctx: AppContext, fish_id: str) -> tuple[Seen, ...]:
    """What was seen on a fish. Called in an open transaction."""
    rows = sessions.sights_of(fish_id)
    fish = fishes.get(fish_id) if any(row.piece for row in rows) else None
    found = []
    for row in rows:
        sight = ctx.guide.findings.one(row.what)
        if sight is not None:
            found.append(Seen(row, sight, _on(ctx, fish, row)))
    return tuple(found)


def _on(ctx: AppContext, fish: Fish | None, row: SightRow) -> str:
    if fish is None or not row.piece:
        return ""
    plan = ctx.guide.plan_of(ctx.guide.known_or_named(fish.species))
    return plan.call(ctx.guide.piece(row.piece).name, row.side)


def follows(seen: Sequence[Seen]) -> Consequences:
    """What it all comes to."""
    return consequences([s.sight for s in seen])


def still_for(ctx: AppContext, purpose: str, seen: Sequence[Seen]) -> str:
    """What a piece for a purpose is for after all that was seen on its fish: perhaps not raw."""
    methods = ctx.guide.methods
    if purpose not in methods.purposes or follows(seen).raw != "never":
        return purpose
    return methods.purpose_of(purpose, 0.0, ("never_raw",))


@dataclass(frozen=True)
class NoteSight:
    """A finding, one of `guide/findings.toml`; `spot`: where it was cut out."""

    fish_id: str
    what: str
    number: Annotated[int, Ge(1), Le(MAX_NUMBER)] = 1
    place: str = ""
    spot: spots.Spot | None = None
    system: System = field(default="metric", metadata=BESIDE)


def note_sight(ctx: AppContext, key: str, order: NoteSight) -> Receipt:
    """Note it; also on a finished fish. Raises Refused with the field, Unknown for the fish."""

    def do(at: datetime) -> Receipt:
        fish, now = fishes.get(order.fish_id), fishes.now(order.fish_id)
        if now.stage == "withdrawn":
            raise Refused({"": f"The landing of {fish.code} was undone"})
        sight = ctx.guide.findings.one(order.what)
        if sight is None:
            raise Refused({"what": "Choose what was seen"})
        if sight.gives in ctx.guide.never_used(ctx.guide.known_or_named(fish.species)):
            raise Refused(
                {"what": f"The {sight.name} of this fish is poisonous: leave it in the gut"}
            )
        if not 1 <= order.number <= MAX_NUMBER:
            raise Refused({"number": f"Give a number from 1 to {MAX_NUMBER}"})
        if order.place and order.place not in sight.places:
            raise Refused({"place": f"Choose where: {', '.join(sight.places)}"})
        if order.spot and not sight.spot:
            raise Refused({"what": f"{sight.touch} has no spot that is cut out"})
        number = order.number if sight.counted else 1
        values = spots.placed(ctx, fish, now, order.spot) if order.spot else {}
        row = sessions.see(
            ctx.ids, at, fish=fish.id, what=order.what, number=number, place=order.place, **values
        )
        return Receipt("sight", row.id, _sentence(ctx, fish, Seen(row, sight, _on(ctx, fish, row)),
                                                  order.system))  # fmt: skip

    return run_idempotent(ctx, key, "seen.note", order, do)


def _sentence(ctx: AppContext, fish: Fish, seen: Seen, system: System) -> str:
    row, said = seen.row, f"{fish.code}: {seen.words}"
    if row.lost_kg:
        about = "about " if row.lost_how == "estimated" else ""
        said += f", {about}{format_mass(row.lost_kg, system)} cut out"
    if spots.weighed_before(row, fishes.weighings_of(fish.id)):
        return f"{said}. {seen.sight.say} Its piece was weighed with it: put the new weight there."
    return f"{said}. {seen.sight.say}"

"""What is done to a fish before the knife: states, probe readings, a look over, corrections."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from lepidos.core.catch.handling import MEDIUM_STATES, STATES, Advice, advise
from lepidos.core.cold.freshness import IceAge, Index, ice_age, quality_index
from lepidos.core.cold.probe_update import check_reading
from lepidos.core.errors import OutOfRange, Refused
from lepidos.core.fish.species import Species
from lepidos.core.pack.labels import count
from lepidos.core.units import System, format_temperature
from lepidos.devices.scale import DeviceError
from lepidos.stations.base.context import AppContext, Receipt, read_first, run_idempotent
from lepidos.stations.base.digest import BESIDE
from lepidos.stations.base.fish import was_bought, when_done
from lepidos.stations.cold.cold import ColdNow
from lepidos.stations.deck.lots import waiting_alike
from lepidos.store.deck import fish_now, fishes, looks
from lepidos.store.records import Fact, Fish, Look
from lepidos.store.schedule import work

KNOWN = ", ".join(STATES).replace("_", " ")


@dataclass(frozen=True)
class Handled:
    """What was done to a fish, what to do next, and what its keeping life is.

    `done` is state key → when it was first so; `lies` the state that says where it lies.
    """

    done: Mapping[str, datetime]
    lies: str
    advice: tuple[Advice, ...]
    index: Index | None
    looks: Mapping[str, Look]
    age: IceAge | None


def handled(
    ctx: AppContext,
    fish: Fish,
    species: Species,
    facts: Sequence[Fact],
    looks: Mapping[str, Look],
    cold: ColdNow | None,
) -> Handled:
    """Put together what is known of a fish's handling."""
    done: dict[str, datetime] = {}
    lies = ""
    for fact in facts:
        if fact.kind == work.STATE:
            done.setdefault(fact.name, fact.at)
            lies = fact.name if STATES[fact.name].medium else lies
    lain_s = max(0.0, (ctx.clock() - fish.landed_at).total_seconds())
    after = {key: max(0.0, (at - fish.landed_at).total_seconds()) for key, at in done.items()}
    marks = {key: row.points for key, row in looks.items() if key in ctx.guide.marks}
    index = quality_index(marks, ctx.guide.marks)
    return Handled(
        done,
        lies,
        advise(
            after,
            lies,
            species.traits,
            min(1e8, lain_s),
            cold.core_c if cold else None,
            was_bought(ctx, fish.trip_id),
        ),
        index,
        looks,
        ice_age(cold.ice_days if cold else None, index, species.ice_life.mean),
    )


@dataclass(frozen=True)
class MarkState:
    """A state of a fish: what was done to it, such as bled, or where it lies, such as on ice.

    `alike`: of those that were landed together with it and wait, too, where it is not so already.
    """

    fish_id: str
    state: str
    alike: bool = field(default=False, repr=False)


def mark_state(ctx: AppContext, key: str, order: MarkState) -> Receipt:
    """Note a state. Once each; where it lies may change again. Raises Refused, Unknown."""

    def do(now: datetime) -> Receipt:
        if order.state not in STATES:
            raise Refused({"state": f"Unknown state; use {KNOWN}"})
        fish = _standing(order.fish_id)
        word = STATES[order.state].word
        found = [one for one, _ in waiting_alike(fish)] if order.alike else [fish]
        found = [one for one in found if not _is_already(one, order.state)]
        if not found:
            raise Refused({"state": f"{fish.code} is {word} already"})
        at = max(when_done(now, one) for one in found)
        facts = []
        for one in found:
            facts.append(fishes.add_fact(ctx.ids, at, one.id, work.STATE, order.state))
            fish_now.refresh(one.id, ctx.is_fillet)
        if len(found) == 1:
            return Receipt("fact", facts[0].id, f"{found[0].code} {word}")
        return Receipt("alike", facts[0].id, f"{found[0].code} to {found[-1].code} {word}")

    return run_idempotent(ctx, key, "deck.state", order, do)


def _is_already(fish: Fish, state: str) -> bool:
    names = [f.name for f in fishes.facts_of(fish.id, work.STATE)]
    lying = [name for name in names if name in MEDIUM_STATES]
    return lying[-1:] == [state] or (state in names and state not in lying)


@dataclass(frozen=True)
class ReadCore:
    """A fish's core temperature. Without one it is taken from the probe."""

    fish_id: str
    celsius: float | None = None
    system: System = field(default="metric", metadata=BESIDE)


def read_core(ctx: AppContext, key: str, order: ReadCore) -> Receipt:
    """Note a probe's reading. Raises Refused with the field, Unknown."""

    typed = order.celsius is not None
    found = order.celsius if typed else read_first(ctx, key, lambda: _from_probe(ctx))

    def do(now: datetime) -> Receipt:
        fish = _standing(order.fish_id)
        at = when_done(now, fish)
        celsius, method = found or 0.0, "typed" if typed else "probe"
        shown = format_temperature(celsius, order.system)
        try:
            check_reading(celsius)
        except OutOfRange as error:
            problem = f"{shown} inside a fish? Check the probe's tip and its unit."
            raise Refused({"core": problem}) from error
        row = looks.read_core(ctx.ids, at, fish=fish.id, celsius=celsius, method=method)
        return Receipt("reading", row.id, f"{fish.code} core {shown}")

    return run_idempotent(ctx, key, "deck.probe", order, do)


def _from_probe(ctx: AppContext) -> float:
    try:
        return ctx.probe.read_c()
    except DeviceError as error:
        raise Refused({"core": f"{error} Or type what it shows."}) from error


@dataclass(frozen=True)
class LookOver:
    """An order to note what was seen at a fish's marks: mark → demerit points."""

    fish_id: str
    points: tuple[tuple[str, int], ...]


def look_over(ctx: AppContext, key: str, order: LookOver) -> Receipt:
    """Note a look over a fish. Raises Refused, Unknown."""

    def do(at: datetime) -> Receipt:
        fish = _standing(order.fish_id)
        if not order.points:
            raise Refused({"look": "Touch what you see at one mark at least"})
        marks = ctx.guide.marks
        if unknown := [m for m, _ in order.points if m not in marks]:
            raise Refused({"look": f"There is no mark “{unknown[0][:40]}”"})
        try:
            index = quality_index(dict(order.points), marks)
        except OutOfRange as error:
            raise Refused({"look": str(error)}) from error
        rows = [
            looks.look_at(ctx.ids, at, fish=fish.id, mark=mark, points=points)
            for mark, points in order.points
        ]
        total = count(index.points if index else 0, "point")
        return Receipt("look", rows[-1].id, f"{fish.code} looked over: {total}")

    return run_idempotent(ctx, key, "deck.look", order, do)


def _standing(fish_id: str) -> Fish:
    fish, now = fishes.get(fish_id), fishes.now(fish_id)
    if now.stage == "withdrawn":
        raise Refused({"": f"The landing of {fish.code} was undone"})
    return fish

"""Weighing at the table: from the scale or typed, pieces together, in one tray, corrected."""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal

from lepidos.core.cutting.model import Slot
from lepidos.core.errors import Conflict, Refused
from lepidos.core.limits import MAX_PIECE_KG, MIN_PIECE_KG
from lepidos.core.pack.labels import show_code
from lepidos.core.units import System, format_mass
from lepidos.core.yields.joint_weighing import apportion
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.base.digest import BESIDE, COUNTED
from lepidos.stations.base.fish import round_weight, when_done
from lepidos.stations.table import forecasts
from lepidos.stations.table.load import Taken, mass_of, shown_for
from lepidos.stations.table.models import AtTable, at_table, expected_of, facts_of
from lepidos.stations.table.pieces import chosen_piece
from lepidos.stations.table.questions import ask
from lepidos.stations.table.wishes import open_fish, settle
from lepidos.store.base import entries
from lepidos.store.deck import fish_now, fishes
from lepidos.store.pack import portions
from lepidos.store.records import Fish, FishNow, Weighing
from lepidos.store.schedule import work
from lepidos.store.table import sessions

MAX_TIMES = 20.0  # a weight so many times the whole fish is a hand on the wrong keys


@dataclass(frozen=True)
class WeighPiece:
    """A piece to book. Without a weight it is taken from the scale now.

    `shown`: what the display showed when it was touched. `in_tray`: the piece was laid beside
    earlier ones, so only what came on counts. `waited_s`: how long it waited in a browser.
    """

    fish_id: str
    piece: str
    side: Literal["", "A", "B"] = field(default="", metadata=COUNTED)
    kg: float | None = None
    system: System = field(default="metric", metadata=BESIDE)
    shown: Taken | None = None
    in_tray: bool = False
    waited_s: float = field(default=0.0, repr=False, metadata=BESIDE)


def weigh_piece(ctx: AppContext, key: str, order: WeighPiece) -> Receipt:
    """Book one weighing. Raises Refused with the field, or Unknown for the fish."""

    shown = shown_for(ctx, key, order.fish_id, order.kg, order.shown)

    def do(now_at: datetime) -> Receipt:
        fish, now = open_fish(ctx, order.fish_id)
        piece = chosen_piece(ctx, fish, order.piece, order.side)
        at = when_done(now_at, fish, order.waited_s)
        mass = mass_of(ctx, order.kg, shown, order.in_tray, order.system)
        _believable(ctx, mass.kg, piece.name, fish, now, order.system)
        model = at_table(ctx, fish, now)
        _foresee(ctx, at, fish, now, model)
        if ctx.is_fillet(order.piece):
            settle(ctx, at, fish, now)
        row = fishes.weigh(
            ctx.ids, at, fish=fish.id, piece=order.piece, side=order.side, kg=mass.kg,
            method=mass.method, pan_kg=mass.pan_kg, load_mark=mass.mark,
        )  # fmt: skip
        fish_now.refresh(fish.id, ctx.is_fillet)
        return _done(ctx, fish, row, order.system, model)

    return run_idempotent(ctx, key, "table.weigh", order, do)


@dataclass(frozen=True)
class WeighTogether:
    """Pieces of a fish that lay on the scale together, as slots such as "collar.A"."""

    fish_id: str
    slots: tuple[str, ...]
    kg: float | None = None
    system: System = field(default="metric", metadata=BESIDE)
    shown: Taken | None = None


def weigh_together(ctx: AppContext, key: str, order: WeighTogether) -> Receipt:
    """Share the reading out by what each piece should weigh. Raises Refused, Unknown."""

    shown = shown_for(ctx, key, order.fish_id, order.kg, order.shown)

    def do(at: datetime) -> Receipt:
        fish, now = open_fish(ctx, order.fish_id)
        if len(set(order.slots)) < 2:
            raise Refused({"slots": "Choose two pieces or more that lay together"})
        chosen = []
        for slot in dict.fromkeys(order.slots):
            name, _, side = slot.partition(".")
            chosen_piece(ctx, fish, name, side)
            chosen.append(Slot(name, side))
        mass = mass_of(ctx, order.kg, shown, False, order.system)
        _believable(ctx, mass.kg, "pieces", fish, now, order.system)
        model = at_table(ctx, fish, now)
        _foresee(ctx, at, fish, now, model)
        expected = expected_of(fish, model)
        parts = apportion(mass.kg, [expected.get(s.key) for s in chosen])
        if any(ctx.is_fillet(slot.piece) for slot in chosen):
            settle(ctx, at, fish, now)
        joint = ctx.ids.new(at)
        rows = [
            fishes.weigh(
                ctx.ids, at, fish=fish.id, piece=slot.piece, side=slot.side, kg=part.kg,
                method=mass.method, pan_kg=mass.pan_kg, load_mark=mass.mark, joint=joint,
                low_kg=part.low_kg, high_kg=part.high_kg,
            )
            for slot, part in zip(chosen, parts, strict=True)
            if part.kg > 0
        ]  # fmt: skip
        fish_now.refresh(fish.id, ctx.is_fillet)
        plan = ctx.guide.plan_of(ctx.guide.known_or_named(fish.species))
        names = [plan.call(ctx.guide.piece(s.piece).name, s.side) for s in chosen]
        what = f"{fish.code} {', '.join(names)} together: {format_mass(mass.kg, order.system)}"
        return Receipt("weighing", rows[0].id, what)

    return run_idempotent(ctx, key, "table.together", order, do)


@dataclass(frozen=True)
class CorrectWeighing:
    """The weight that a weighing should have had."""

    weighing_id: str
    kg: float
    system: System = field(default="metric", metadata=BESIDE)


def correct_weighing(ctx: AppContext, key: str, order: CorrectWeighing) -> Receipt:
    """The old weighing is undone, a new one stands. Raises Refused, Conflict, Unknown."""

    def do(at: datetime) -> Receipt:
        row = fishes.weighing(order.weighing_id)
        fish, now = open_fish(ctx, row.fish_id)
        if not order.kg > 0:
            raise Refused({"weight": "A weight must be more than nothing"})
        if row.joint:
            raise Refused({"weight": "That was weighed together with others; take it back instead"})
        if packed := portions.of_piece(row.id):
            code = show_code(packed[0][1].code)
            raise Conflict(f"That piece is in bag {code}; take the bag back first")
        _believable(ctx, order.kg, ctx.guide.piece(row.piece).name, fish, now, order.system)
        entries.undo(ctx.ids, "weighing", row.id, at)
        # the load stays known as taken: it was the same fish on the same pan
        new = fishes.weigh(
            ctx.ids, at, fish=fish.id, piece=row.piece, side=row.side, kg=order.kg,
            method="corrected", pan_kg=row.pan_kg, load_mark=row.load_mark,
        )  # fmt: skip
        fish_now.refresh(fish.id, ctx.is_fillet)
        return _done(ctx, fish, new, order.system, at_table(ctx, fish, now))

    return run_idempotent(ctx, key, "table.correct", order, do)


@dataclass(frozen=True)
class KeepAnswer:
    """An order to answer a question with: it is so."""

    fish_id: str
    question: str


def keep_answer(ctx: AppContext, key: str, order: KeepAnswer) -> Receipt:
    """The question is not asked again of this fish. Raises Refused, Unknown."""

    def do(at: datetime) -> Receipt:
        fish = fishes.get(order.fish_id)
        if not order.question or len(order.question) > 60 or " " in order.question:
            raise Refused({"question": "There is no such question"})
        fact = fishes.add_fact(ctx.ids, at, fish.id, work.ANSWER, order.question)
        fish_now.refresh(fish.id, ctx.is_fillet)
        return Receipt("fact", fact.id, f"{fish.code}: it is so")

    return run_idempotent(ctx, key, "table.keep", order, do)


def _believable(
    ctx: AppContext, kg: float, name: str, fish: Fish, now: FishNow, system: System
) -> None:
    """Only what cannot be is refused; what is odd is asked about."""
    if not MIN_PIECE_KG <= kg <= MAX_PIECE_KG:
        raise Refused({"weight": "No piece weighs that; check the number and the unit"})
    whole = round_weight(now, ctx.guide.one(fish.species), level=0.998)
    most = whole.estimate.high if whole.estimate else whole.kg
    if kg > most * MAX_TIMES:
        raise Refused(
            {
                "weight": f"{format_mass(kg, system)} of {name} is more than {MAX_TIMES:.0f} "
                f"times the whole fish, {format_mass(most, system)}"
            }
        )


def _foresee(ctx: AppContext, at: datetime, fish: Fish, now: FishNow, table: AtTable) -> None:
    """Before the first weighing, keep what was foreseen: it is scored when the fish is done."""
    if now.weighed_kg > 0 or sessions.forecast_of(fish.id) is not None:
        return
    usual = table.expected_fillet
    sessions.foresee(
        fish=fish.id, species=fish.species, cutter=table.cutter, skin=table.plan.skin,
        level=usual.level, kg=usual.value, low_kg=usual.low, high_kg=usual.high,
        learned_from=forecasts.learned(ctx, ctx.guide.one(fish.species)).learned_from, at=at,
    )  # fmt: skip


def _done(ctx: AppContext, fish: Fish, row: Weighing, system: System, model: AtTable) -> Receipt:
    plan = ctx.guide.plan_of(ctx.guide.known_or_named(fish.species))
    name = plan.call(ctx.guide.piece(row.piece).name, row.side)
    questions = ask(ctx, facts_of(ctx, fish, model), system)
    mine = next((q.text for q in questions if q.weighing == row.id), "")
    return Receipt("weighing", row.id, f"{fish.code} {name}: {format_mass(row.kg, system)}", mine)

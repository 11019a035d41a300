"""Questions while the carcass is still there: asked once, answered with a touch, never blocking."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from lepidos.core.cutting.model import CuttingPlan, Slot
from lepidos.core.estimate import Estimate
from lepidos.core.fish.species import Species
from lepidos.core.units import System, format_mass, format_range
from lepidos.core.yields.balance import Balance
from lepidos.core.yields.cut_away import without
from lepidos.core.yields.entry_errors import find_slip, interval_at, is_outside
from lepidos.core.yields.frame_meat import contact_area, left_on_frame
from lepidos.core.yields.two_sides import after_other_side, differ
from lepidos.stations.base.context import AppContext
from lepidos.store.records import Weighing
from lepidos.store.schedule.work import BY_EYE

SPOON = "over the ribs first, then along the backbone and behind the head"


@dataclass(frozen=True)
class Question:
    """One question: its key, what is asked, and what a touch can do about it.

    `weighing` may be undone; `corrected_kg` is what the weighing probably is; `slot` a piece
    that could still be taken; `instead` is the earlier weighing that this one may be meant for.
    """

    key: str
    text: str
    weighing: str = ""
    corrected_kg: float | None = None
    slot: str = ""
    instead: str = ""


@dataclass(frozen=True)
class Facts:
    """What questions are asked of: one fish at the board; `away` was cut out of each slot [kg]."""

    species: Species
    cut: CuttingPlan
    length_m: float
    weighings: Sequence[Weighing]
    expected: Mapping[str, Estimate]
    balance: Balance
    kept: frozenset[str]
    away: Mapping[str, float] = field(default_factory=dict)


def expected_now(
    expected: Mapping[str, Estimate],
    weighings: Sequence[Weighing],
    away: Mapping[str, float] | None = None,
) -> dict[str, Estimate]:
    """What each slot should weigh: narrowed by the other side where that was weighed, and without
    what was cut out of it (`away`, by slot, in kg)."""
    away = away or {}
    # what was judged by eye tells of its fish what the plan knew before
    kg = _whole(_by_slot([w for w in weighings if w.method != BY_EYE]), away)
    found = {}
    for key, estimate in expected.items():
        piece, _, side = key.partition(".")
        other = kg.get(f"{piece}.{'B' if side == 'A' else 'A'}") if side else None
        sane = other is not None and not is_outside(other, estimate)
        usual = after_other_side(estimate, other) if other and sane else estimate
        found[key] = without(usual, away.get(key, 0.0))
    return found


def _whole(kg: Mapping[str, float], away: Mapping[str, float]) -> dict[str, float]:
    """What each weighed slot would weigh with what was cut out of it."""
    return {slot: weighed + away.get(slot, 0.0) for slot, weighed in kg.items()}


def ask(ctx: AppContext, facts: Facts, system: System) -> tuple[Question, ...]:
    """Every question that is open, the newest weighing's first.

    Where a piece was judged by eye, sides, sums and the frame say nothing: only what was weighed is
    asked about.
    """
    weighed = [w for w in facts.weighings if w.method != BY_EYE]
    if len(weighed) < len(facts.weighings):
        asked = _twice(ctx, facts, system)
        asked = asked or _of_weights(ctx, replace(facts, weighings=weighed), system)
        return tuple(q for q in asked if q.key not in facts.kept)
    if twice := _twice(ctx, facts, system):
        return tuple(twice)  # until it is answered, no sum and no side means anything
    left = _of_frame(ctx, facts, system)
    answered = {q.weighing for q in left}
    # a light side is one question, not three: what stayed on the frame says most
    found = [
        q
        for q in _of_weights(ctx, facts, system)
        if q.corrected_kg is not None or q.weighing not in answered
    ]
    if all(q.corrected_kg is None for q in found):
        found += _of_sum(facts, system)
    if not left:
        found += _of_sides(ctx, facts, system, {q.slot for q in found})
    # they go with the head or the frame: from then on it is worth a question
    if any(ctx.guide.piece(w.piece).takes_the_rest for w in facts.weighings):
        found += untaken(ctx, facts, system)
    found += left if all(q.corrected_kg is None for q in found) else []
    return tuple(q for q in found if q.key not in facts.kept)


def _by_slot(weighings: Sequence[Weighing]) -> dict[str, float]:
    kg: dict[str, float] = {}
    for w in weighings:
        key = Slot(w.piece, w.side).key
        kg[key] = kg.get(key, 0.0) + w.kg
    return kg


def _name(ctx: AppContext, facts: Facts, key: str) -> str:
    piece, _, side = key.partition(".")
    return ctx.guide.plan_of(facts.species).call(ctx.guide.piece(piece).name, side)


def _twice(ctx: AppContext, facts: Facts, system: System) -> list[Question]:
    """A second weight for a piece that comes on the scale once: instead, besides, or a slip?"""
    found: list[Question] = []
    first: dict[str, Weighing] = {}
    for row in facts.weighings:
        slot = Slot(row.piece, row.side).key
        before = first.setdefault(slot, row)
        once = ctx.guide.piece(row.piece).loads == "one"
        key = f"again.{row.id}"
        if before is row or not once or row.joint or key in facts.kept:
            continue
        old, new = (format_mass(w.kg, system) for w in (before, row))
        text = f"The {_name(ctx, facts, slot)} has {old} already. Is {new} instead, or besides?"
        instead = "" if before.joint else str(before.id)
        found.append(Question(key, text, str(row.id), None, slot, instead))
    return found[::-1]


def _of_weights(ctx: AppContext, facts: Facts, system: System) -> list[Question]:
    """Each weighing against what its piece should weigh."""
    found = []
    slots = [Slot(w.piece, w.side).key for w in facts.weighings]
    for at in reversed(range(len(facts.weighings))):
        row, slot = facts.weighings[at], slots[at]
        estimate = facts.expected.get(slot)
        if estimate is None or slots.count(slot) > 1 or row.joint:
            continue  # several weighings of a piece, or a share: only the sum means something
        before = facts.weighings[:at]
        usual = expected_now({slot: estimate}, before, facts.away)[slot]
        slip = find_slip(row.kg, usual, _on_pan_too(row, before), row.method == "typed")
        low, high = interval_at(usual, 0.8)
        beside = ""
        if usual is not estimate:
            other = "B" if row.side == "A" else "A"
            other_kg = sum(w.kg for w in before if (w.piece, w.side) == (row.piece, other))
            beside = f", beside the other side's {format_mass(other_kg, system)}"
        name = _name(ctx, facts, slot)
        said = f"{format_mass(row.kg, system)} for the {name} of this fish{beside}?"
        if slip is not None:
            what = {
                "tray": "Is a tray or an earlier piece in it",
                "decimal": "Is the decimal point in its place",
                "unit": "Was that in the other unit",
            }[slip.kind]
            text = f"{said} {what}? Then it is {format_mass(slip.kg, system)}."
            found.append(Question(f"weight.{row.id}", text, row.id, slip.kg, slot))
        elif is_outside(row.kg, usual):
            text = f"{said} Usually {format_range(low, high, system)}."
            found.append(Question(f"weight.{row.id}", text, row.id, None, slot))
    return found


def _on_pan_too(row: Weighing, before: Sequence[Weighing]) -> list[float]:
    """What may have lain on the pan besides: pieces taken before, as the display showed them."""
    if row.method == "typed":
        return [w.kg for w in before[-3:]]
    return [w.pan_kg if w.pan_kg is not None else w.kg for w in before[-3:]]


def _of_sum(facts: Facts, system: System) -> list[Question]:
    if not facts.balance.over:
        return []
    over = format_mass(-facts.balance.rest_high_kg, system)
    last = facts.weighings[-1]
    text = f"The pieces now weigh {over} more than the fish. Was a tray in one of them?"
    return [Question(f"over.{last.id}", text, last.id)]


def _of_sides(ctx: AppContext, facts: Facts, system: System, asked: set[str]) -> list[Question]:
    kg, found = _whole(_by_slot(facts.weighings), facts.away), []
    for slot in facts.cut.slots:
        a, b = kg.get(f"{slot.piece}.A"), kg.get(f"{slot.piece}.B")
        if slot.side != "B" or not a or not b or not differ(a, b):
            continue
        if {f"{slot.piece}.A", f"{slot.piece}.B"} & asked:
            continue  # one of them is questioned already
        lighter = "A" if a < b else "B"
        text = (
            f"The {_name(ctx, facts, f'{slot.piece}.{lighter}')} is lighter than the other side "
            f"by {format_mass(abs(a - b), system)}. Look at that side of the frame."
        )
        found.append(Question(f"sides.{slot.piece}", text))
    return found


def untaken(ctx: AppContext, facts: Facts, system: System) -> list[Question]:
    """Pieces worth taking that nobody took."""
    kg, found = _by_slot(facts.weighings), []
    missing: dict[str, list[str]] = {}
    for slot in facts.cut.slots:
        if ctx.guide.piece(slot.piece).worth_asking and slot.key not in kg:
            missing.setdefault(slot.piece, []).append(slot.key)
    for piece, keys in missing.items():
        estimates = [facts.expected[k] for k in keys if k in facts.expected]
        grams = format_mass(sum(e.value for e in estimates), system) if estimates else ""
        name = ctx.guide.piece(piece).plural if len(keys) > 1 else _name(ctx, facts, keys[0])
        about = f", about {grams}" if grams else ""
        text = f"The {name} not taken yet{about}: worth taking before the head and frame go."
        found.append(Question(f"untaken.{piece}", text, slot=keys[0]))
    return found


def _of_frame(ctx: AppContext, facts: Facts, system: System) -> list[Question]:
    """A side that came off light: what stayed on the bones, in millimetres and grams."""
    kg, found = _whole(_by_slot(facts.weighings), facts.away), []
    spooned = kg.get("spoon_meat", 0.0)
    area = contact_area(
        ctx.guide.body_of(facts.species),
        ctx.guide.plan_of(facts.species),
        facts.cut,
        ctx.guide.pieces,
        facts.length_m,
    )
    for side in ("A", "B"):
        slots = [s for s in facts.cut.slots if s.side == side and ctx.is_fillet(s.piece)]
        known = [facts.expected[s.key] for s in slots if s.key in facts.expected]
        if not slots or len(known) < len(slots) or any(s.key not in kg for s in slots) or not area:
            continue
        whole = Estimate(
            sum(e.value for e in known), sum(e.low for e in known), sum(e.high for e in known),
            known[0].level, "kg", known[0].formula, known[0].source,
        )  # fmt: skip
        left = left_on_frame(sum(kg[s.key] for s in slots), whole, area, spooned / 2)
        if left is None:
            continue
        text = (
            f"Side {side} came off light: about {format_mass(left.kg, system)} may be left on the "
            f"frame, {left.thickness_m * 1000:.1f} mm over the bones. Spoon it, {SPOON}."
        )
        rows = [w for w in facts.weighings if w.side == side and ctx.is_fillet(w.piece)]
        found.append(Question(f"frame.{side}", text, rows[-1].id, slot="spoon_meat"))
    return found

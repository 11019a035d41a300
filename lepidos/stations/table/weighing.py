"""Weighing at the table: from the scale or typed, pieces together, in one tray, corrected."""

from dataclasses import dataclass, field
from datetime import datetime

from lepidos.core.cutting.plan import Slot
from lepidos.core.errors import Conflict, Refused, Unknown
from lepidos.core.fish.bodyplan import Piece
from lepidos.core.limits import LEAST_PIECE_KG, MOST_PIECE_KG
from lepidos.core.pack.labels import sentence, show_code
from lepidos.core.units import System, format_mass
from lepidos.core.yields.joint_weighing import apportion
from lepidos.devices.scale import CAPACITY_KG, DeviceError, Reading
from lepidos.stations.base.context import Done, House, once
from lepidos.stations.base.digest import BESIDE
from lepidos.stations.base.fish import round_weight, skin_of, when_done
from lepidos.stations.table import forecasts
from lepidos.stations.table.fish_view import at_table, facts_of
from lepidos.stations.table.questions import ask
from lepidos.stations.table.steps import open_fish
from lepidos.store import bags, entries, fishes, sessions
from lepidos.store.records import Fish, FishNow, Weighing

LEAST_KG = 0.002  # the pan holds nothing worth a line in the book below this (practice)
SAME_KG = 0.002  # a display that moved less than this since the last take shows the same load
MOST_TIMES = 20.0  # a weight so many times the whole fish is a hand on the wrong keys


@dataclass(frozen=True)
class Taken:
    """What was on the display when a person touched: net [kg] and the load's mark."""

    kg: float
    mark: str


@dataclass(frozen=True)
class WeighPiece:
    """An order to book a piece.

    `kg` None and no `shown`: take it from the scale now. `kg`: typed. `shown`: what the display
    showed when it was touched. `in_tray`: the piece was laid beside earlier ones, so only what came
    on counts. `waited_s`: how long the order waited in a browser.
    """

    fish_id: str
    piece: str
    side: str
    kg: float | None = None
    system: System = field(default="metric", metadata=BESIDE)
    shown: Taken | None = None
    in_tray: bool = False
    waited_s: float = field(default=0.0, repr=False, metadata=BESIDE)


def weigh_piece(house: House, key: str, order: WeighPiece) -> Done:
    """Book one weighing. Raises Refused with the field, or Unknown for the fish."""

    def do(now_at: datetime) -> Done:
        fish, now = open_fish(house, order.fish_id)
        piece = _piece(house, order.piece)
        _side(piece, order.side)
        _edible(house, fish, piece)
        at = when_done(now_at, fish, order.waited_s)
        mass = _mass(house, order)
        _believable(house, mass.kg, piece.name, fish, now, order.system)
        _foresee(house, at, fish, now)
        row = fishes.weigh(
            house.ids, at, fish=fish.id, piece=order.piece, side=order.side, kg=mass.kg,
            method=mass.method, pan_kg=mass.pan_kg, load_mark=mass.mark,
        )  # fmt: skip
        fishes.refresh(fish.id, house.is_fillet)
        return _done(house, fish, row, order.system)

    return once(house, key, "table.weigh", order, do)


@dataclass(frozen=True)
class WeighTogether:
    """An order to book several pieces of a fish that lay on the scale together."""

    fish_id: str
    slots: tuple[str, ...]
    kg: float | None = None
    system: System = field(default="metric", metadata=BESIDE)
    shown: Taken | None = None


def weigh_together(house: House, key: str, order: WeighTogether) -> Done:
    """Share the reading out by what each piece should weigh. Raises Refused, Unknown."""

    def do(at: datetime) -> Done:
        fish, now = open_fish(house, order.fish_id)
        if len(set(order.slots)) < 2:
            raise Refused({"slots": "Choose two pieces or more that lay together"})
        chosen = []
        for slot in dict.fromkeys(order.slots):
            name, _, side = slot.partition(".")
            piece = _piece(house, name)
            _side(piece, side)
            _edible(house, fish, piece)
            chosen.append(Slot(name, side))
        asked = WeighPiece(fish.id, "", "", order.kg, order.system, order.shown)
        mass = _mass(house, asked)
        _believable(house, mass.kg, "pieces", fish, now, order.system)
        _foresee(house, at, fish, now)
        expected = at_table(house, fish, now).expected
        parts = apportion(mass.kg, [expected.get(s.key) for s in chosen])
        joint = house.ids.new(at)
        rows = [
            fishes.weigh(
                house.ids, at, fish=fish.id, piece=slot.piece, side=slot.side, kg=part.kg,
                method=mass.method, pan_kg=mass.pan_kg, load_mark=mass.mark, joint=joint,
                low_kg=part.low_kg, high_kg=part.high_kg,
            )
            for slot, part in zip(chosen, parts, strict=True)
            if part.kg > 0
        ]  # fmt: skip
        fishes.refresh(fish.id, house.is_fillet)
        plan = house.guide.plan_of(house.guide.known_or_named(fish.species))
        names = [plan.call(_piece(house, s.piece).name, s.side) for s in chosen]
        what = f"{fish.code} {', '.join(names)} together: {format_mass(mass.kg, order.system)}"
        return Done("weighing", rows[0].id, what)

    return once(house, key, "table.together", order, do)


@dataclass(frozen=True)
class CorrectWeighing:
    """An order to put another weight in a weighing's place."""

    weighing_id: str
    kg: float
    system: System = field(default="metric", metadata=BESIDE)


def correct_weighing(house: House, key: str, order: CorrectWeighing) -> Done:
    """The old weighing is taken back, a new one stands. Raises Refused, Conflict, Unknown."""

    def do(at: datetime) -> Done:
        row = fishes.weighing(order.weighing_id)
        fish, now = open_fish(house, row.fish_id)
        if not order.kg > 0:
            raise Refused({"weight": "A weight must be more than nothing"})
        if row.joint:
            raise Refused({"weight": "That was weighed together with others; take it back instead"})
        if packed := bags.portions_of_piece(row.id):
            code = show_code(packed[0][1].code)
            raise Conflict(f"That piece is in bag {code}; take the bag back first")
        _believable(house, order.kg, _piece(house, row.piece).name, fish, now, order.system)
        entries.undo(house.ids, "weighing", row.id, at)
        # the load stays known as taken: it was the same fish on the same pan
        new = fishes.weigh(
            house.ids, at, fish=fish.id, piece=row.piece, side=row.side, kg=order.kg,
            method="corrected", pan_kg=row.pan_kg, load_mark=row.load_mark,
        )  # fmt: skip
        fishes.refresh(fish.id, house.is_fillet)
        return _done(house, fish, new, order.system)

    return once(house, key, "table.correct", order, do)


@dataclass(frozen=True)
class KeepAnswer:
    """An order to answer a question with: it is so."""

    fish_id: str
    question: str


def keep_answer(house: House, key: str, order: KeepAnswer) -> Done:
    """The question is not asked again of this fish. Raises Refused, Unknown."""

    def do(at: datetime) -> Done:
        fish = fishes.get(order.fish_id)
        if not order.question or len(order.question) > 60 or " " in order.question:
            raise Refused({"question": "There is no such question"})
        fact = fishes.add_fact(house.ids, at, fish.id, fishes.ANSWER, order.question)
        fishes.refresh(fish.id, house.is_fillet)
        return Done("fact", fact.id, f"{fish.code}: it is so")

    return once(house, key, "table.keep", order, do)


@dataclass(frozen=True)
class _Mass:
    kg: float
    method: str
    pan_kg: float | None = None
    mark: str = ""


def _mass(house: House, order: WeighPiece) -> _Mass:
    if order.kg is not None:
        if not order.kg > 0:
            raise Refused({"weight": "A weight must be more than nothing"})
        return _Mass(order.kg, "typed")
    shown = order.shown or _from_scale(house)
    if not shown.kg >= LEAST_KG:
        raise Refused({"weight": "Nothing lies on the scale"})
    if shown.kg > CAPACITY_KG:
        raise Refused({"weight": f"More than {CAPACITY_KG:g} kg on the scale. Take something off."})
    if earlier := sessions.taken_of_load(shown.mark):
        raise Refused({"weight": _taken_already(house, earlier, order.system)})
    kg = shown.kg
    if order.in_tray and (last := sessions.on_the_pan(shown.mark.rpartition(".")[0])):
        base = last.pan_kg or 0.0
        if abs(kg - base) < SAME_KG:
            raise Refused({"weight": "Nothing came on the tray since the last piece"})
        # a lighter tray was emptied meanwhile: then all that lies there is new
        kg = kg - base if kg > base else kg
    return _Mass(kg, "scale", shown.kg, shown.mark)


def _from_scale(house: House) -> Taken:
    try:
        reading: Reading = house.scale.settled()
    except DeviceError as error:
        raise Refused({"weight": str(error)}) from error
    return Taken(reading.kg, reading.mark)


def _taken_already(house: House, earlier: Weighing, system: System) -> str:
    fish = fishes.get(earlier.fish_id)
    plan = house.guide.plan_of(house.guide.known_or_named(fish.species))
    name = plan.call(_piece(house, earlier.piece).name, earlier.side)
    kg = format_mass(earlier.pan_kg or earlier.kg, system)
    return f"This load, {kg}, was taken as {fish.code} {name}. Lift it off, then lay the next on."


def _piece(house: House, key: str) -> Piece:
    try:
        return house.guide.piece(key)
    except Unknown as error:
        raise Refused({"piece": sentence(str(error))}) from error


def _side(piece: Piece, side: str) -> None:
    if side not in ({"A", "B"} if piece.sided else {""}):
        raise Refused(
            {"side": f"A {piece.name} is of side A or B" if piece.sided
             else f"A {piece.name} has no side"}
        )  # fmt: skip


def _edible(house: House, fish: Fish, piece: Piece) -> None:
    """Nothing poisonous is booked as food."""
    never = house.guide.never_used(house.guide.one(fish.species))
    if piece.key in never and piece.counts_as != "rest":
        raise Refused(
            {"piece": f"The {piece.name} of this fish is poisonous: into the bin with it"}
        )


def _believable(
    house: House, kg: float, name: str, fish: Fish, now: FishNow, system: System
) -> None:
    """Only what cannot be is refused; what is odd is asked about."""
    if not LEAST_PIECE_KG <= kg <= MOST_PIECE_KG:
        raise Refused({"weight": "No piece weighs that; check the number and the unit"})
    whole = round_weight(now, house.guide.one(fish.species), level=0.998)
    most = whole.estimate.high if whole.estimate else whole.kg
    if kg > most * MOST_TIMES:
        raise Refused(
            {
                "weight": f"{format_mass(kg, system)} of {name} is more than {MOST_TIMES:.0f} "
                f"times the whole fish, {format_mass(most, system)}"
            }
        )


def _foresee(house: House, at: datetime, fish: Fish, now: FishNow) -> None:
    """Before the first weighing, keep what was foreseen: it is scored when the fish is done."""
    if now.weighed_kg > 0 or sessions.forecast_of(fish.id) is not None:
        return
    table = at_table(house, fish, now)
    usual = table.expected_fillet
    sessions.foresee(
        fish=fish.id, species=fish.species, cutter=table.cutter, skin=skin_of(fish),
        level=usual.level, kg=usual.value, low_kg=usual.low, high_kg=usual.high,
        learned_from=forecasts.learned(house, house.guide.one(fish.species)).learned_from, at=at,
    )  # fmt: skip


def _done(house: House, fish: Fish, row: Weighing, system: System) -> Done:
    plan = house.guide.plan_of(house.guide.known_or_named(fish.species))
    name = plan.call(_piece(house, row.piece).name, row.side)
    questions = ask(house, facts_of(house, fish), system)
    mine = next((q.text for q in questions if q.weighing == row.id), "")
    return Done("weighing", row.id, f"{fish.code} {name}: {format_mass(row.kg, system)}", mine)

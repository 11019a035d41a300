"""Table: one fish under the knife, its plan, its weighings, and where it went."""

from dataclasses import dataclass
from datetime import datetime

from lepidos.core.bodyplan import Step
from lepidos.core.cutting import CuttingPlan, Slot, next_slot, plan_cut, present_step
from lepidos.core.errors import Refused, Unknown
from lepidos.core.estimate import Estimate
from lepidos.core.species import Species
from lepidos.core.units import System, format_mass, format_range
from lepidos.core.yields import (
    Balance,
    Part,
    YieldFigure,
    balance,
    expected_fillet,
    expected_slots,
    fillet_yield,
)
from lepidos.devices.scale import DeviceError, Reading
from lepidos.stations.cold import ColdNow, cold_of_trip
from lepidos.stations.fish import RoundWeight, round_weight, skin_of, to_cut, total_length_m
from lepidos.stations.house import Done, House, once
from lepidos.stations.rules import cutting_notes
from lepidos.stations.trips import TripView, view_in_transaction
from lepidos.store import fishes
from lepidos.store.models import Fish, FishNow, Weighing

# The pan holds nothing worth a line in the book below this (practice).
LEAST_KG = 0.002
# A piece further outside its 80 % interval than this factor is asked about (practice).
ASK_BEYOND = 1.5


@dataclass(frozen=True)
class StepView:
    """A step with where it stands: "done", "now" or "later"."""

    step: Step
    state: str


@dataclass(frozen=True)
class TableView:
    """Everything the bench shows of one fish."""

    view: TripView
    fish: Fish
    now: FishNow
    species: Species
    party: str
    weight: RoundWeight
    total_length_m: float
    plan: CuttingPlan
    steps: tuple[StepView, ...]
    present: Step | None
    next: Slot | None
    expected: dict[str, Estimate]
    expected_fillet: Estimate
    weighings: tuple[Weighing, ...]
    balance: Balance
    fillet_yield: YieldFigure | None
    fillet_slots: tuple[Slot, ...]
    cold: ColdNow | None
    rule_notes: tuple[str, ...]

    @property
    def closed(self) -> bool:
        """Whether the fish is finished."""
        return self.now.stage == "done"

    @property
    def fillets_complete(self) -> bool:
        """Whether every planned fillet is weighed, so that the yield means something."""
        weighed = {(w.piece, w.side) for w in self.weighings}
        return self.closed or all((s.piece, s.side) in weighed for s in self.fillet_slots)

    def kg_of(self, piece: str, side: str = "") -> float:
        """What has been weighed of a piece; both sides when `side` is empty."""
        return sum(
            w.kg for w in self.weighings if w.piece == piece and (not side or w.side == side)
        )


def view_fish(house: House, fish_id: str) -> TableView:
    """One fish at the bench. Raises Unknown."""
    with house.store.reading():
        fish = fishes.get(fish_id)
        return _view(house, fish, view_in_transaction(house, fish.trip_id))


def scale_display(house: House) -> Reading | str:
    """What the scale shows, or the sentence that says why it shows nothing."""
    try:
        return house.scale.read()
    except DeviceError as error:
        return str(error)


@dataclass(frozen=True)
class WeighPiece:
    """An order to book a piece. `kg` None means: take it from the scale."""

    fish_id: str
    piece: str
    side: str
    kg: float | None = None
    system: System = "metric"


def weigh_piece(house: House, key: str, order: WeighPiece) -> Done:
    """Book one weighing. Raises Refused with the field, or Unknown for the fish."""

    def do(at: datetime) -> Done:
        fish, now = _open_fish(order.fish_id)
        species = house.guide.one(fish.species)
        try:
            piece = house.guide.piece(order.piece)
        except Unknown as error:
            raise Refused({"piece": str(error).capitalize()}) from error
        if order.side not in ({"A", "B"} if piece.sided else {""}):
            raise Refused({"side": f"A {piece.name} is of side A or B" if piece.sided
                           else f"A {piece.name} has no side"})  # fmt: skip
        kg, method = _mass(house, order)
        _fits_in_fish(order, piece.name, kg, now, species)
        row = fishes.weigh(
            house.ids,
            at,
            fish=fish.id,
            piece=order.piece,
            side=order.side,
            kg=kg,
            method=method,
        )
        fishes.refresh(fish.id, house.is_fillet)
        name = house.guide.plan_of(species).call(piece.name, order.side)
        what = f"{fish.code} {name}: {format_mass(kg, order.system)}"
        return Done("weighing", row.id, what, _question(house, fish.id, order, kg))

    return once(house, key, "table.weigh", order, do)


@dataclass(frozen=True)
class TickStep:
    """An order to tick a step of the plan."""

    fish_id: str
    step: str


def tick_step(house: House, key: str, order: TickStep) -> Done:
    """Tick a step. Raises Refused, Unknown."""

    def do(at: datetime) -> Done:
        fish, now = _open_fish(order.fish_id)
        species = house.guide.one(fish.species)
        plan = _plan(house, fish, now, species)
        step = next((s for s in plan.steps if s.key == order.step), None)
        if step is None:
            raise Refused({"step": "That step is not in this fish's plan"})
        name = fishes.STEP + order.step
        if name in now.facts.split():
            raise Refused({"step": "That step is ticked already"})
        fact = fishes.add_fact(house.ids, at, fish.id, name)
        fishes.refresh(fish.id, house.is_fillet)
        return Done("fact", fact.id, f"{fish.code}: {step.title}")

    return once(house, key, "table.tick", order, do)


@dataclass(frozen=True)
class CloseFish:
    """An order to finish a fish: what is not weighed by now is unaccounted for."""

    fish_id: str


def close_fish(house: House, key: str, order: CloseFish) -> Done:
    """Finish a fish. Raises Refused, Unknown."""

    def do(at: datetime) -> Done:
        fish, _ = _open_fish(order.fish_id)
        if not fishes.weighings_of(fish.id):
            raise Refused({"": f"Nothing of {fish.code} has been weighed yet"})
        fact = fishes.add_fact(house.ids, at, fish.id, fishes.CLOSED)
        fishes.refresh(fish.id, house.is_fillet)
        return Done("fact", fact.id, f"{fish.code} is finished")

    return once(house, key, "table.close", order, do)


@dataclass(frozen=True)
class ChooseSkin:
    """An order to cut a fish skin on or off."""

    fish_id: str
    skin: str


def choose_skin(house: House, key: str, order: ChooseSkin) -> Done:
    """Change the skin choice, as long as no fillet has been weighed. Raises Refused, Unknown."""

    def do(at: datetime) -> Done:
        fish, now = _open_fish(order.fish_id)
        if order.skin not in {"on", "off"}:
            raise Refused({"skin": "Say skin on or off"})
        if now.fillet_kg > 0:
            raise Refused({"skin": f"{fish.code}'s fillets are weighed already; undo them first"})
        fish.skin = order.skin
        fish.save()
        return Done("choice", fish.id, f"{fish.code} skin {order.skin}")

    return once(house, key, "table.skin", order, do)


def _open_fish(fish_id: str) -> tuple[Fish, FishNow]:
    fish, now = fishes.get(fish_id), fishes.now(fish_id)
    if now.stage == "withdrawn":
        raise Refused({"": f"The landing of {fish.code} was taken back"})
    if now.stage == "done":
        raise Refused({"": f"{fish.code} is finished; open it again first"})
    return fish, now


def _mass(house: House, order: WeighPiece) -> tuple[float, str]:
    if order.kg is not None:
        if not order.kg > 0:
            raise Refused({"weight": "A weight must be more than nothing"})
        return order.kg, "typed"
    try:
        kg = house.scale.settled().kg
    except DeviceError as error:
        raise Refused({"weight": str(error)}) from error
    if kg < LEAST_KG:
        raise Refused({"weight": "Nothing lies on the scale"})
    return kg, "scale"


def _fits_in_fish(order: WeighPiece, name: str, kg: float, now: FishNow, species: Species) -> None:
    # of an estimated fish the most that it can weigh: one in a thousand is heavier
    weight = round_weight(now, species, level=0.998)
    most = weight.estimate.high if weight.estimate else weight.kg
    if kg > most:
        how = "weighs" if weight.measured else "is estimated at up to"
        raise Refused(
            {
                "weight": f"{format_mass(kg, order.system)} of {name} is more than the whole "
                f"fish, which {how} {format_mass(most, order.system)}"
            }
        )


def _question(house: House, fish_id: str, order: WeighPiece, kg: float) -> str:
    fish, now = fishes.get(fish_id), fishes.now(fish_id)
    species = house.guide.one(fish.species)
    weight = round_weight(now, species)
    parts = _balance(weight, fishes.weighings_of(fish_id))
    if parts.over:
        over = format_mass(-parts.rest_high_kg, order.system)
        return f"The pieces of {fish.code} now weigh {over} more than the fish. Tray taken off?"
    plan = _plan(house, fish, now, species)
    expected = expected_slots(
        weight.as_estimate,
        species,
        house.guide.plan_of(species),
        plan,
        house.guide.pieces,
        skin_of(fish),
    ).get(Slot(order.piece, order.side).key)
    if expected and not expected.low / ASK_BEYOND <= kg <= expected.high * ASK_BEYOND:
        usual = format_range(expected.low, expected.high, order.system)
        name = house.guide.piece(order.piece).name
        return f"{format_mass(kg, order.system)} for the {name} of this fish? Usually {usual}."
    return ""


def _plan(house: House, fish: Fish, now: FishNow, species: Species) -> CuttingPlan:
    return plan_cut(
        to_cut(fish, now, species),
        species,
        house.guide.plan_of(species),
        house.guide.pieces,
        house.guide.schools,
    )


def _balance(weight: RoundWeight, weighings: list[Weighing]) -> Balance:
    parts = [Part(Slot(w.piece, w.side), w.kg) for w in weighings]
    return balance(weight.kg, parts, weight.interval)


def _view(house: House, fish: Fish, view: TripView) -> TableView:
    now = fishes.now(fish.id)
    species = house.guide.one(fish.species)
    weight = round_weight(now, species)
    weighings = fishes.weighings_of(fish.id)
    plan = _plan(house, fish, now, species)
    weighed = {Slot(w.piece, w.side).key for w in weighings}
    ticked = {
        name.removeprefix(fishes.STEP) for name in now.facts.split() if name.startswith(fishes.STEP)
    }
    present = None if now.stage == "done" else present_step(plan, ticked, weighed)
    reached = plan.steps.index(present) if present else len(plan.steps)
    skin = skin_of(fish)
    parts = _balance(weight, weighings)
    return TableView(
        view=view,
        fish=fish,
        now=now,
        species=species,
        party=next((p.name for p in view.parties if p.id == fish.party_id), ""),
        weight=weight,
        total_length_m=total_length_m(now, species),
        plan=plan,
        steps=tuple(
            StepView(s, "done" if i < reached else "now" if i == reached else "later")
            for i, s in enumerate(plan.steps)
        ),
        present=present,
        next=next_slot(plan, weighed),
        expected=expected_slots(
            weight.as_estimate,
            species,
            house.guide.plan_of(species),
            plan,
            house.guide.pieces,
            skin,
        ),
        expected_fillet=expected_fillet(weight.as_estimate, species, skin),
        weighings=tuple(weighings),
        balance=parts,
        fillet_yield=fillet_yield(parts, skin, house.guide.pieces),
        fillet_slots=tuple(s for s in plan.slots if house.is_fillet(s.piece)),
        cold=cold_of_trip(house, view.trip).get(fish.id),
        rule_notes=cutting_notes(fish.species),
    )

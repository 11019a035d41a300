"""Table: one fish under the knife, its plan, its weighings, and where it went."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from lepidos.core.cutting.hazards import cautions_by_step, spines_to_count
from lepidos.core.cutting.model import CuttingPlan, Slot
from lepidos.core.cutting.progress import progress
from lepidos.core.estimate import Estimate
from lepidos.core.fish.bodyplan import Step
from lepidos.core.fish.species import Species
from lepidos.core.pack.findings import Consequences, WholeUse
from lepidos.core.units import System
from lepidos.core.yields.balance import (
    Balance,
    Skins,
    YieldFigure,
    fillet_yield,
)
from lepidos.core.yields.cut_away import without
from lepidos.core.yields.forecast import Learned
from lepidos.core.yields.two_sides import Total
from lepidos.devices.scale import DeviceError, Reading
from lepidos.stations.base.context import AppContext, state_of_order
from lepidos.stations.base.fish import (
    RoundWeight,
    always_skinned,
    facts_by_fish,
    require_workable,
    total_length_m,
)
from lepidos.stations.cold.cold import ColdNow, cold_of_trip
from lepidos.stations.deck.lots import waiting_alike
from lepidos.stations.deck.rule_cards import cutting_notes
from lepidos.stations.schedule.pace import usual_seconds
from lepidos.stations.schedule.scales import scale_of
from lepidos.stations.table import byproducts, cutters, findings, forecasts, questions, spots
from lepidos.stations.table.forecasts import MAX_SPECIES
from lepidos.stations.table.models import HowCut, at_table, balance_of, facts_at, how_cut
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store.deck import fishes
from lepidos.store.records import Fact, Fish, FishNow, Forecast, Weighing
from lepidos.store.schedule import work
from lepidos.store.table import sessions


@dataclass(frozen=True)
class StepView:
    """A step with where it stands: "done", "now" or "later"."""

    step: Step
    state: str


@dataclass(frozen=True)
class TableView:
    """Everything the bench shows of one fish; `cautions` are those of each step, by its key.

    `gone_kg` was cut out of its fillets before they were weighed.
    """

    view: TripView
    fish: Fish
    now: FishNow
    species: Species
    party: str
    weight: RoundWeight
    total_length_m: float
    plan: CuttingPlan
    how: HowCut
    skin_is_a_choice: bool
    cautions: Mapping[str, tuple[str, ...]]
    steps: tuple[StepView, ...]
    present: Step | None
    next: Slot | None
    expected: dict[str, Estimate]
    expected_fillet: Estimate
    gone_kg: float
    fillet_now: Total | None
    forecast: Forecast | None
    held: forecasts.Held
    learned: Learned
    weighings: tuple[Weighing, ...]
    balance: Balance
    fillet_yield: YieldFigure | None
    fillet_slots: tuple[Slot, ...]
    cold: ColdNow | None
    rule_notes: tuple[str, ...]
    questions: tuple[questions.Question, ...]
    seen: tuple[findings.Seen, ...]
    follows: Consequences
    destined: tuple[byproducts.Destined, ...]
    use: WholeUse
    time: cutters.BoardTime | None
    usual_minutes: float
    board: cutters.AtBoard | None
    others: tuple[cutters.AtBoard, ...]
    dull_since: str
    scale: str
    alike: int

    @property
    def closed(self) -> bool:
        """Whether the fish is finished."""
        return self.now.stage == "done"

    @property
    def fillets_complete(self) -> bool:
        """Whether every planned fillet is weighed, so that the yield means something."""
        weighed = {(w.piece, w.side) for w in self.weighings}
        return self.closed or all((s.piece, s.side) in weighed for s in self.fillet_slots)

    @property
    def settled(self) -> bool:
        """Whether its plan is its own: a fillet is off, or it is finished."""
        return self.closed or self.now.fillet_kg > 0

    @property
    def spines(self) -> int:
        """How many venomous spines the present step counts off."""
        return spines_to_count(self.present, self.species) if self.present else 0

    @property
    def missed(self) -> tuple[str, ...]:
        """Pieces that are asked for and that this plan does not give."""
        given = {slot.piece for slot in self.plan.slots}
        return tuple(piece for piece in self.how.choice.keeps if piece not in given)

    def weighed(self, piece: str, side: str = "") -> tuple[Weighing, ...]:
        """What has been booked of a piece; both sides when `side` is empty."""
        return tuple(w for w in self.weighings if w.piece == piece and side in {"", w.side})


def view_fish(ctx: AppContext, fish_id: str, system: System = "metric") -> TableView:
    """One fish at the bench. Raises Unknown."""
    with ctx.store.reading():
        fish = fishes.get(fish_id)
        require_workable(ctx, fish, fishes.now(fish_id))
        return _view(ctx, fish, view_in_transaction(ctx, fish.trip_id), system)


def scale_display(ctx: AppContext, name: str = "") -> Reading | str:
    """What a scale shows, or the sentence that says why it shows nothing."""
    try:
        return ctx.scale_at(name).read()
    except DeviceError as error:
        return str(error)


def _scale(ctx: AppContext, facts: Sequence[Fact]) -> str:
    board = work.last_board(list(facts))
    return scale_of(ctx, board.name if board else "")


def _view(ctx: AppContext, fish: Fish, view: TripView, system: System) -> TableView:
    now, species = fishes.now(fish.id), ctx.guide.one(fish.species)
    model = at_table(ctx, fish, now)
    weighings = fishes.weighings_of(fish.id)
    facts = list(facts_by_fish(ctx, fish.trip_id).get(fish.id, ()))
    plan, closed = model.plan, now.stage == "done"
    where = progress(plan, _done(weighings, facts), ctx.guide.pieces)
    states = ["done"] * len(plan.steps) if closed else where.states
    sights = findings.seen_on(ctx, fish.id)
    away = spots.away_by_slot([s.row for s in sights], weighings)
    parts = balance_of(model.weight, weighings, away)
    by_piece = byproducts.parts_kg(weighings, away)
    destined = byproducts.destined(ctx, fish, by_piece, sessions.last_fates(fish.trip_id))
    slots = tuple(s for s in plan.slots if ctx.is_fillet(s.piece))
    expected = questions.expected_now(model.expected, weighings, away)
    gone_kg = sum(away.get(s.key, 0.0) for s in slots)
    at_boards = cutters.at_boards(ctx, view.trip)
    time = cutters.board_time(facts, ctx.clock())
    return TableView(
        view=view,
        fish=fish,
        now=now,
        species=species,
        party=next((p.name for p in view.parties if p.id == fish.party_id), ""),
        weight=model.weight,
        total_length_m=total_length_m(now, species),
        plan=plan,
        how=how_cut(ctx, fish, now, model),
        skin_is_a_choice=not always_skinned(ctx, species),
        cautions=cautions_by_step(plan, species, ctx.guide.cautions),
        steps=tuple(StepView(s, at) for s, at in zip(plan.steps, states, strict=True)),
        present=None if closed else where.present,
        next=None if closed else where.next,
        expected=expected,
        expected_fillet=without(model.expected_fillet, gone_kg),
        gone_kg=gone_kg,
        fillet_now=forecasts.fillet_now(slots, weighings, expected),
        forecast=sessions.forecast_of(fish.id),
        held=forecasts.held(ctx),
        learned=model.learned,
        weighings=tuple(weighings),
        balance=parts,
        fillet_yield=fillet_yield(parts, _cut_how(now, plan), ctx.guide.pieces),
        fillet_slots=slots,
        cold=cold_of_trip(ctx, view.trip).get(fish.id),
        rule_notes=_rule_notes(ctx, fish.species),
        questions=questions.ask(ctx, facts_at(ctx, fish, now, model, weighings, away), system),
        seen=sights,
        follows=findings.follows(sights),
        destined=destined,
        use=byproducts.use_of(ctx, model.weight.kg, by_piece, destined),
        time=time,
        usual_minutes=usual_seconds(ctx, fish, now, model.cutter) / 60,
        board=next((b for b in at_boards if time and b.board.id == time.board_id), None),
        others=tuple(b for b in at_boards if not time or b.board.id != time.board_id),
        dull_since=_dull_since(ctx, view, fish.id, time),
        scale=_scale(ctx, facts),
        alike=sum(1 for _ in waiting_alike(fish)),
    )


def _done(weighings: Iterable[Weighing], facts: Iterable[Fact]) -> list[Slot | str]:
    """What was weighed and which steps were ticked."""
    steps = [f.name for f in facts if f.kind == work.STEP]
    return [*(Slot(w.piece, w.side) for w in weighings), *steps]


def _cut_how(now: FishNow, plan: CuttingPlan) -> Skins:
    return now.doubt or ("mixed" if plan.skins else plan.skin)


def _rule_notes(ctx: AppContext, species: str) -> tuple[str, ...]:
    """What rule cards say of cutting such a fish."""
    key = ("cutting notes", species, state_of_order(ctx)[0])
    return ctx.memo.get(key, lambda: cutting_notes(species), most=MAX_SPECIES)


def _dull_since(
    ctx: AppContext, view: TripView, fish_id: str, time: cutters.BoardTime | None
) -> str:
    """The fish before this one at its board, if the knife was dull on it."""
    before = cutters.fish_before(ctx, view.trip, fish_id, time) if time else None
    if before is None:
        return ""
    hints = findings.follows(findings.seen_on(ctx, before.id)).hints
    return str(before.code) if "sharpen" in hints else ""

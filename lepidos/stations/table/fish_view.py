"""Table: one fish under the knife, its plan, its weighings, and where it went."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lepidos.core.cutting.hazards import cautions_by_step
from lepidos.core.cutting.plan import CuttingPlan, Slot, plan_cut
from lepidos.core.cutting.progress import progress
from lepidos.core.estimate import Estimate
from lepidos.core.fish.bodyplan import Step
from lepidos.core.fish.species import Species
from lepidos.core.pack.findings import Consequences, WholeUse
from lepidos.core.schedule.boards import MOST_FISH
from lepidos.core.units import System
from lepidos.core.yields.balance import (
    Balance,
    Part,
    YieldFigure,
    balance,
    expected_fillet,
    expected_slots,
    fillet_yield,
)
from lepidos.core.yields.forecast import Learned
from lepidos.core.yields.two_sides import Total
from lepidos.devices.scale import DeviceError, Reading
from lepidos.stations.base.context import AppContext, state_of_order
from lepidos.stations.base.fish import (
    RoundWeight,
    always_skinned,
    facts_by_fish,
    require_workable,
    round_weight,
    skin_of,
    to_cut,
    total_length_m,
)
from lepidos.stations.cold.cold import ColdNow, cold_of_trip
from lepidos.stations.deck.rule_cards import cutting_notes
from lepidos.stations.schedule.pace import usual_seconds
from lepidos.stations.table import byproducts, cutters, findings, forecasts, questions
from lepidos.stations.table.forecasts import MOST_SPECIES
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store import boards, fishes, sessions
from lepidos.store.records import Fact, Fish, FishNow, Forecast, Weighing


@dataclass(frozen=True)
class StepView:
    """A step with where it stands: "done", "now" or "later"."""

    step: Step
    state: str


@dataclass(frozen=True)
class TableView:
    """Everything the bench shows of one fish; `cautions` are those of each step, by its key."""

    view: TripView
    fish: Fish
    now: FishNow
    species: Species
    party: str
    weight: RoundWeight
    total_length_m: float
    plan: CuttingPlan
    skin_is_a_choice: bool
    cautions: Mapping[str, tuple[str, ...]]
    steps: tuple[StepView, ...]
    present: Step | None
    next: Slot | None
    expected: dict[str, Estimate]
    expected_fillet: Estimate
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


def view_fish(ctx: AppContext, fish_id: str, system: System = "metric") -> TableView:
    """One fish at the bench. Raises Unknown."""
    with ctx.store.reading():
        fish = fishes.get(fish_id)
        require_workable(ctx, fish, fishes.now(fish_id))
        return _view(ctx, fish, view_in_transaction(ctx, fish.trip_id), system)


def scale_display(ctx: AppContext) -> Reading | str:
    """What the scale shows, or the sentence that says why it shows nothing."""
    try:
        return ctx.scale.read()
    except DeviceError as error:
        return str(error)


@dataclass(frozen=True)
class AtTable:
    """What the cutting models say of a fish before anything of it is weighed.

    `species` is the species as this cutter's fish have shown it to be.
    """

    cutter: str
    species: Species
    weight: RoundWeight
    plan: CuttingPlan
    expected: dict[str, Estimate]
    expected_fillet: Estimate
    learned: Learned


def at_table(ctx: AppContext, fish: Fish, now: FishNow) -> AtTable:
    """Called in an open transaction."""
    species = ctx.guide.one(fish.species)
    weight, skin = round_weight(now, species), skin_of(ctx, fish)
    cutter = _cutter(ctx, facts_by_fish(ctx, fish.trip_id).get(fish.id, ()))
    learned = forecasts.learned(ctx, species)
    own = ctx.memo.get(
        (
            "own yields",
            species,
            cutter,
            weight.kg,
            forecasts.finished_mark(ctx),
        ),
        lambda: learned.species_for(cutter, weight.kg),
        most=MOST_FISH,
    )
    plan = plan_of(ctx, fish, now, species)
    body_plan = ctx.guide.plan_of(species)
    expected = expected_slots(weight.as_estimate, own, body_plan, plan, ctx.guide.pieces, plan.skin)
    usual = expected_fillet(weight.as_estimate, own, skin)
    return AtTable(cutter, own, weight, plan, expected, usual, learned)


def facts_of(ctx: AppContext, fish: Fish) -> questions.Facts:
    """What questions are asked of. Called in an open transaction."""
    now = fishes.now(fish.id)
    return _facts(ctx, fish, now, at_table(ctx, fish, now), fishes.weighings_of(fish.id))


def _facts(
    ctx: AppContext, fish: Fish, now: FishNow, model: AtTable, weighings: list[Weighing]
) -> questions.Facts:
    species = ctx.guide.one(fish.species)
    return questions.Facts(
        species,
        model.plan,
        total_length_m(now, species),
        weighings,
        model.expected,
        _balance(model.weight, weighings),
        answered(fish.id),
    )


def answered(fish_id: str) -> frozenset[str]:
    """Questions of a fish that were answered with: it is so."""
    return frozenset(f.name for f in fishes.facts_of(fish_id, fishes.ANSWER))


def _cutter(ctx: AppContext, facts: Sequence[Fact]) -> str:
    """Who has the fish on the board; "" when nobody said."""
    last = fishes.last_board(facts)
    return board_names(ctx).get(last.name, "") if last else ""


def board_names(ctx: AppContext) -> Mapping[str, str]:
    """Every board's cutter, by id. Called in an open transaction."""
    return ctx.memo.get(("boards", state_of_order(ctx)[0]), boards.names)


def plan_of(ctx: AppContext, fish: Fish, now: FishNow, species: Species) -> CuttingPlan:
    return plan_cut(
        to_cut(ctx, fish, now, species),
        species,
        ctx.guide.plan_of(species),
        ctx.guide.pieces,
        ctx.guide.methods,
    )


def _balance(weight: RoundWeight, weighings: list[Weighing]) -> Balance:
    parts = [Part(Slot(w.piece, w.side), w.kg) for w in weighings]
    return balance(weight.kg, parts, weight.interval)


def _view(ctx: AppContext, fish: Fish, view: TripView, system: System) -> TableView:
    now = fishes.now(fish.id)
    species = ctx.guide.one(fish.species)
    model = at_table(ctx, fish, now)
    weighings = fishes.weighings_of(fish.id)
    facts = list(facts_by_fish(ctx, fish.trip_id).get(fish.id, ()))
    plan, closed = model.plan, now.stage == "done"
    done: list[Slot | str] = [Slot(w.piece, w.side) for w in weighings]
    done += [f.name for f in facts if f.kind == fishes.STEP]
    where = progress(plan, done, ctx.guide.pieces)
    states = ["done"] * len(plan.steps) if closed else where.states
    parts = _balance(model.weight, weighings)
    sights = findings.seen_on(ctx, fish.id)
    by_piece = byproducts.grams(weighings)
    destined = byproducts.destined(ctx, fish, by_piece, sessions.last_fates(fish.trip_id))
    slots = tuple(s for s in plan.slots if ctx.is_fillet(s.piece))
    expected = questions.expected_now(model.expected, weighings)
    boards_now = cutters.at_boards(ctx, view.trip)
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
        skin_is_a_choice=not always_skinned(ctx, species),
        cautions=cautions_by_step(plan, species, ctx.guide.cautions),
        steps=tuple(StepView(s, at) for s, at in zip(plan.steps, states, strict=True)),
        present=None if closed else where.present,
        next=None if closed else where.next,
        expected=expected,
        expected_fillet=model.expected_fillet,
        fillet_now=forecasts.fillet_now(slots, weighings, expected),
        forecast=sessions.forecast_of(fish.id),
        held=forecasts.held(ctx),
        learned=model.learned,
        weighings=tuple(weighings),
        balance=parts,
        fillet_yield=fillet_yield(parts, skin_of(ctx, fish), ctx.guide.pieces),
        fillet_slots=slots,
        cold=cold_of_trip(ctx, view.trip).get(fish.id),
        rule_notes=ctx.memo.get(
            ("cutting notes", fish.species, state_of_order(ctx)[0]),
            lambda: cutting_notes(fish.species),
            most=MOST_SPECIES,
        ),
        questions=questions.ask(ctx, _facts(ctx, fish, now, model, weighings), system),
        seen=sights,
        follows=findings.follows(sights),
        destined=destined,
        use=byproducts.use_of(ctx, model.weight.kg, by_piece, destined),
        time=time,
        usual_minutes=_usual_minutes(ctx, now, species, model.cutter),
        board=next((b for b in boards_now if time and b.board.id == time.board_id), None),
        others=tuple(b for b in boards_now if not time or b.board.id != time.board_id),
        dull_since=_dull_since(ctx, view, fish.id, time) if time else "",
    )


def _dull_since(ctx: AppContext, view: TripView, fish_id: str, time: cutters.BoardTime) -> str:
    """The fish before this one at its board, if the knife was dull on it."""
    before = cutters.fish_before(ctx, view.trip, fish_id, time)
    if before is None:
        return ""
    hints = findings.follows(findings.seen_on(ctx, before.id)).hints
    return str(before.code) if "sharpen" in hints else ""


def _usual_minutes(ctx: AppContext, now: FishNow, species: Species, cutter: str) -> float:
    return usual_seconds(ctx, species, round_weight(now, species).kg, cutter) / 60

"""The slab, cold, order of work and rule cards, as the API shows them."""

from dataclasses import asdict
from datetime import date

from lepidos.core.catch.handling import Urgency
from lepidos.core.catch.rule_cards import Filleting
from lepidos.core.fish.species import LengthType
from lepidos.stations.base.fish import RoundWeight
from lepidos.stations.cold.cold import Cold, ColdNow
from lepidos.stations.deck.card import CardView
from lepidos.stations.deck.rule_cards import CardView as RuleCardView
from lepidos.stations.deck.slab import SlabFish
from lepidos.stations.schedule.order import BenchOrder, OrderPlace
from lepidos.web.api.shapes import EstimateOut, Instant, Out, estimate_out


class WeightOut(Out):
    """A round weight, and the estimate where the whole fish was not weighed."""

    kg: float
    measured: bool
    estimate: EstimateOut | None


class ColdNowOut(Out):
    """How cold a fish is at its core, and the days on ice that it has used up, of so many."""

    core_c: float
    ice_days: float
    ice_life_days: float


class ColdOut(ColdNowOut):
    """The same with its interval and its curve over the hours since it was landed."""

    low_c: float
    high_c: float
    hours: list[float]
    curve_c: list[float]


class AdviceOut(Out):
    """What to do with a fish, and how much it presses."""

    text: str
    urgency: Urgency


class TurnOut(Out):
    """A fish's place in the order of work."""

    fish_id: str
    board_id: str
    cutter: str
    starts_at: Instant
    ends_at: Instant
    due_at: Instant | None
    why: str
    minutes: float
    held: bool
    in_hand: bool


class FishOut(Out):
    """A fish on the slab."""

    id: str
    code: str
    species: str
    stage: str
    length_cm: float
    length_about: bool
    length_type: str
    round_weight: WeightOut
    party: str
    caught_by: str
    landed_at: Instant
    states: list[str]
    skin: str
    cold: ColdNowOut | None
    lies: str
    advice: list[AdviceOut]
    place: TurnOut | None


class VerdictOut(Out):
    """What a rule card says of a fish; `presses` when something is to be done about it."""

    text: str
    presses: bool


class CoreReadingOut(Out):
    """A core temperature that was taken."""

    at: Instant
    core_c: float


class FishCardOut(FishOut):
    """A fish before the knife."""

    cold: ColdOut | None  # wider than on the slab
    rules: list[VerdictOut]
    readings: list[CoreReadingOut]


class BoardOut(Out):
    """A cutter at a board."""

    id: str
    cutter: str


class OrderOut(Out):
    """The order of work. `proven`: no better one exists; `how` it was found."""

    places: list[TurnOut]
    boards: list[BoardOut]
    clears_at: Instant | None
    weighted_lateness_s: float
    proven: bool
    how: str
    searching: bool


class TallyOut(Out):
    """A count against its limit; `who` is "" for the boat."""

    who: str
    kept: int
    limit: int


class TalliesOut(Out):
    """A rule card's counts today."""

    persons: list[TallyOut]
    boat: TallyOut | None
    possession: list[TallyOut]


class RuleCardOut(Out):
    """A rule card with the counts of a trip. Seasons as [month, day]."""

    id: str
    species: str
    area: str
    source: str
    checked_on: date
    season_from: tuple[int, int] | None
    season_to: tuple[int, int] | None
    length_type: LengthType
    min_cm: float | None
    max_cm: float | None
    per_person: int | None
    per_boat: int | None
    possession: int | None
    fillet_at_sea: Filleting
    skin_patch: bool
    keep_carcass: bool
    note: str
    in_season: bool
    stale: bool
    tallies: TalliesOut


def weight(value: RoundWeight) -> WeightOut:
    """A round weight, and how it is known."""
    return WeightOut(
        kg=value.kg,
        measured=value.measured,
        estimate=estimate_out(value.estimate) if value.estimate else None,
    )


def cold_now(value: ColdNow | None) -> ColdNowOut | None:
    """How cold a fish is at its core; None where it is not known."""
    return ColdNowOut.model_validate(value) if value else None


def cold(value: Cold | None) -> ColdOut | None:
    """The same with its interval and its curve."""
    if value is None:
        return None
    return ColdOut(
        core_c=value.now.core_c,
        ice_days=value.now.ice_days,
        ice_life_days=value.now.ice_life_days,
        low_c=value.low_c,
        high_c=value.high_c,
        hours=list(value.hours),
        curve_c=list(value.curve_c),
    )


def fish(row: SlabFish) -> FishOut:
    """A fish on the slab."""
    return FishOut(
        id=row.fish.id,
        code=row.fish.code,
        species=row.species.key,
        stage=row.now.stage,
        length_cm=row.now.length_m * 100,
        length_about=row.now.length_about,
        length_type=row.now.length_type,
        round_weight=weight(row.weight),
        party=row.party,
        caught_by=row.caught_by,
        landed_at=row.fish.landed_at,
        states=sorted(s for s in row.states if not s.startswith("step.")),
        skin=row.fish.skin,
        cold=cold_now(row.cold),
        lies=row.handled.lies,
        advice=[AdviceOut.model_validate(a) for a in row.handled.advice],
        place=place(row.place),
    )


def place(value: OrderPlace | None) -> TurnOut | None:
    """A fish's place in the order of work."""
    if value is None:
        return None
    return TurnOut(
        fish_id=value.fish_id,
        board_id=value.board_id,
        cutter=value.cutter,
        starts_at=value.starts_at,
        ends_at=value.ends_at,
        due_at=value.due_at,
        why=value.why.why,
        minutes=value.minutes,
        held=value.held,
        in_hand=value.in_hand,
    )


def order(value: BenchOrder) -> OrderOut:
    """The order of work: what it is is said honestly."""
    return OrderOut(
        places=[shown for p in value.places if (shown := place(p))],
        boards=[BoardOut(id=b.id, cutter=b.name) for b in value.boards],
        clears_at=value.clears_at,
        weighted_lateness_s=value.lateness_s,
        proven=value.proven,
        how=value.how,
        searching=value.searching,
    )


def card(view: CardView) -> FishCardOut:
    """A fish's card: as on the slab, with its curve and what the rule cards say."""
    return FishCardOut(
        **{**dict(fish(view.row)), "cold": cold(view.cold)},
        rules=[VerdictOut.model_validate(v) for v in view.verdicts],
        readings=[CoreReadingOut(at=r.at, core_c=r.celsius) for r in view.readings],
    )


def rule_card(view: RuleCardView) -> RuleCardOut:
    """A rule card with the counts of a trip."""
    return RuleCardOut(
        id=view.id,
        **asdict(view.card),
        in_season=view.in_season,
        stale=view.stale,
        tallies=TalliesOut(**asdict(view.tallies)),
    )

"""What several stations ask of a fish: how heavy it is, and how we know."""

from collections.abc import Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import lru_cache
from typing import cast

from lepidos.core.catch.handling import STATES
from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.catch.round_weight import round_from_gutted, round_from_headed, round_from_share
from lepidos.core.cold.cooling_body import cooling_body
from lepidos.core.cutting.model import CuttingPlan, FishToCut, Skin
from lepidos.core.cutting.plan import plan_cut
from lepidos.core.errors import CannotWorkOut, LepidosError
from lepidos.core.estimate import Estimate
from lepidos.core.fish.anatomy import Body
from lepidos.core.fish.lengths import to_length_type
from lepidos.core.fish.species import LengthType, Species
from lepidos.core.yields.balance import Skins
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.wishes import USUAL_PURPOSE, choice_of, sayings, wish_of
from lepidos.store.base import entries
from lepidos.store.deck import fishes
from lepidos.store.records import Fact, Fish, FishNow
from lepidos.store.schedule import work
from lepidos.store.trips import trips

EARLIEST, LATEST = datetime(2000, 1, 1, tzinfo=UTC), datetime(2100, 1, 1, tzinfo=UTC)
WAITED_S = 5.0  # what took less to arrive was done now
# the order of work, the bench and pack ask again and again for the same fish
MAX_PLANS = 600
MAX_WAIT = timedelta(days=7)  # of an entry in a browser without its server


@dataclass(frozen=True)
class RoundWeight:
    """Round weight [kg]. `estimate` is None when the whole fish was on the scale."""

    kg: float
    estimate: Estimate | None

    @property
    def measured(self) -> bool:
        """Whether the whole fish was weighed."""
        return self.estimate is None

    @property
    def interval(self) -> tuple[float, float] | None:
        """The interval of an estimate [kg]."""
        return (self.estimate.low, self.estimate.high) if self.estimate else None

    @property
    def as_estimate(self) -> Estimate | float:
        """For models that take either."""
        return self.estimate or self.kg


def round_weight(now: FishNow, species: Species, level: float = 0.9) -> RoundWeight:
    """Weighed whole, else calculated from what was weighed of it, else from the length."""
    if now.whole_kg is not None:
        return RoundWeight(now.whole_kg, None)
    length_type = cast(LengthType, now.length_type)
    weighed = (now.gutted_kg, now.headed_kg, now.shared_kg)
    estimate = _estimated(weighed, now.length_m, length_type, species, level)
    return RoundWeight(estimate.value, estimate)


# by what was weighed: gutted, headed, one of several together
_FROM_WEIGHED = (round_from_gutted, round_from_headed, round_from_share)


@lru_cache(maxsize=4096)  # a page of sixty fish asks four times for each
def _estimated(
    weighed: tuple[float | None, float | None, float | None],
    length_m: float,
    length_type: LengthType,
    species: Species,
    level: float,
) -> Estimate:
    for kg, model in zip(weighed, _FROM_WEIGHED, strict=True):
        if kg is not None:
            return model(kg, species, level)
    return weight_from_length(length_m, length_type, species, level)


def total_length_m(now: FishNow, species: Species) -> float:
    """Total length [m], from the length that was taken."""
    have = cast(LengthType, now.length_type)
    return to_length_type(now.length_m, have, "total", species.total_per)


def always_skinned(ctx: AppContext, species: Species) -> bool:
    """Whether such a fish is cut skin off: nobody eats the skin, or its way takes it."""
    return not species.skin_eaten or ctx.guide.plan_of(species).skinned


def skin_as_cut(ctx: AppContext, fish: Fish) -> Skin:
    """Whether the fillets that came off this fish have their skin on or off."""
    own = sayings(ctx, fish.trip_id).fish.get(fish.id)
    said = own.skin if own and own.settled else fish.skin
    skinned = always_skinned(ctx, ctx.guide.known_or_named(fish.species))
    return "off" if skinned or said == "off" else "on"


def piece_as_cut(ctx: AppContext, fish: Fish, slot: str) -> tuple[Skin, str]:
    """Of a piece that came off this fish: whether it has its skin, and what it is for."""
    species, fish_skin = ctx.guide.known_or_named(fish.species), skin_as_cut(ctx, fish)
    wish = choice_of(ctx, fish, lambda: round_weight(fishes.now(fish.id), species).kg, species)
    special = wish.pieces.get(slot)
    known = ctx.guide.methods.purposes.get(special or "")
    skin: Skin = fish_skin
    if known and known.skin and not always_skinned(ctx, species):
        skin = known.skin
    # what its fillets are for says nothing of collars and scraps
    usual = wish.purpose if ctx.is_fillet(slot.partition(".")[0]) else ""
    return skin, special or usual or USUAL_PURPOSE


def skins_as_cut(ctx: AppContext, fish: Fish, now: FishNow) -> Skins:
    """`skin_as_cut`, or "mixed" when some of its pieces were for a purpose with another skin.

    Of a fish whose pieces were weighed untrimmed or judged by eye: which of the two.
    """
    if now.doubt:
        return now.doubt
    own = sayings(ctx, fish.trip_id).fish.get(fish.id)
    slots = wish_of(own).pieces if own else {}
    if not slots:
        return skin_as_cut(ctx, fish)
    skins = {skin_as_cut(ctx, fish), *(piece_as_cut(ctx, fish, slot)[0] for slot in slots)}
    return "mixed" if len(skins) > 1 else skin_as_cut(ctx, fish)


def was_bought(ctx: AppContext, trip_id: str) -> bool:
    """Whether the fish of a trip were bought. In an open transaction."""
    return ctx.memo.get(("bought", trip_id), lambda: trips.get(trip_id).origin == "bought")


def facts_at_table(ctx: AppContext, fish: Fish, facts: AbstractSet[str]) -> frozenset[str]:
    """What is already done to a fish, for its plan: bled if bought. In an open transaction."""
    if "headed" in facts:
        return frozenset({*facts, "bled", "gutted"})
    return frozenset({*facts, "bled"} if was_bought(ctx, fish.trip_id) else facts)


def to_cut(ctx: AppContext, fish: Fish, now: FishNow, species: Species) -> FishToCut:
    """The fish as the planner wants it: as it came to the table.

    What a ticked step made of it does not count, or the step would leave its own plan. As
    `sayings`: in an open transaction that wrote nothing yet.
    """
    made = {ctx.guide.step_makes(species.key, step) for step in now.steps.split()}
    kg = round_weight(now, species).kg
    choice = choice_of(ctx, fish, lambda: kg, species)
    return FishToCut(
        kg,
        total_length_m(now, species),
        "off" if choice.skin == "off" else "on",
        facts_at_table(ctx, fish, set(now.facts.split()) - made),
        choice.purpose or USUAL_PURPOSE,
        choice.methods,
        choice.pieces,
    )


def plan_of(ctx: AppContext, fish: Fish, now: FishNow, species: Species) -> CuttingPlan:
    """This fish's plan, by what was said of it. As `to_cut`."""
    asked = to_cut(ctx, fish, now, species)
    plan = ctx.guide.plan_of(species)
    said = (tuple(asked.methods.items()), tuple(asked.pieces.items()))
    size = (asked.round_kg, asked.length_m, asked.skin, asked.facts, asked.purpose)
    return ctx.memo.get(
        ("plan", species.key, ctx.guide.edition, *size, *said),
        lambda: plan_cut(asked, species, plan, ctx.guide.pieces, ctx.guide.methods),
        most=MAX_PLANS,
    )


@dataclass(frozen=True)
class SetAside:
    """A fish for which nothing can be calculated: it is shown as itself, with the reason."""

    fish: Fish
    now: FishNow
    reason: str

    @property
    def kind(self) -> str:
        """The name that its kind has in the file."""
        return str(self.fish.species).replace("_", " ")


def landed(ctx: AppContext, trip_id: str) -> Sequence[tuple[Fish, FishNow]]:
    """A trip's fish that stand and can be calculated, as they were landed.

    Read once for each state of the file and of the guide. Called inside an open transaction that
    has written nothing yet.
    """
    return _landed(ctx, trip_id)[0]


def set_aside(ctx: AppContext, trip_id: str) -> Sequence[SetAside]:
    """A trip's fish that stand and cannot be calculated. As `landed`."""
    return _landed(ctx, trip_id)[1]


def _landed(
    ctx: AppContext, trip_id: str
) -> tuple[Sequence[tuple[Fish, FishNow]], Sequence[SetAside]]:
    key = ("landed", trip_id, entries.last_key(), ctx.guide.edition)
    return ctx.memo.get(key, lambda: _sorted_out(ctx, trip_id))


def _sorted_out(ctx: AppContext, trip_id: str) -> tuple[list[tuple[Fish, FishNow]], list[SetAside]]:
    good, aside = [], []
    for fish, now in fishes.of_trip(trip_id):
        reason = why_not(ctx, fish, now)
        if reason:
            aside.append(SetAside(fish, now, reason))
        else:
            good.append((fish, now))
    return good, aside


def why_not(ctx: AppContext, fish: Fish, now: FishNow) -> str:
    """Why nothing can be calculated for a fish; "" when all can.

    A file may hold what today's doors would not let in: from an earlier Lepidos, or of a kind whose
    text in the crew's own guide no longer holds.
    """
    species = ctx.guide.species.get(fish.species)
    if species is None:
        why = ctx.own_problems.get(("species", fish.species), "the guide does not have it")
        return f"its kind, {str(fish.species).replace('_', ' ')}, cannot be used ({why})"
    if not EARLIEST <= fish.landed_at <= LATEST:
        return "the time of its landing cannot be"
    # only what its size is known by: sizes are asked about again and again
    size = _AS_LANDED._replace(**{name: getattr(now, name) for name in _SIZE})
    return _no_size(species, ctx.guide.body_of(species), size)


_AS_LANDED = FishNow("", "", "", "slab", "", 0.0, "total", None, None, 0.0, 0.0, "")
_SIZE = ("length_m", "length_type", "whole_kg", "gutted_kg", "headed_kg", "shared_kg")


@lru_cache(maxsize=4096)  # every fish of a trip is looked at after every change
def _no_size(species: Species, body: Body, size: FishNow) -> str:
    """Why such a size cannot be calculated, "" when it can."""
    try:
        cooling_body(body, total_length_m(size, species), round_weight(size, species).kg)
    except (LepidosError, ArithmeticError) as error:
        return str(error)
    return ""


def find_fish(ctx: AppContext, fish_id: str) -> tuple[Fish, FishNow]:
    """A fish as it is in the file, whether or not anything can be calculated. Raises Unknown."""
    with ctx.store.reading():
        return fishes.get(fish_id), fishes.now(fish_id)


def require_workable(ctx: AppContext, fish: Fish, now: FishNow) -> None:
    """Raises CannotWorkOut for a fish that is set aside."""
    if reason := why_not(ctx, fish, now):
        raise CannotWorkOut(str(fish.id), str(fish.code), reason)


def facts_by_fish(ctx: AppContext, trip_id: str) -> Mapping[str, Sequence[Fact]]:
    """By fish: the facts that stand, in the order in which they were so. As `landed`."""
    return ctx.memo.get(
        ("facts", trip_id, entries.last_key()), lambda: fishes.facts_of_trip(trip_id)
    )


def fact_words(ctx: AppContext, fish: Fish, fact: Fact) -> str:
    """What happened to a fish, as the history and an undo call it."""
    if fact.kind == work.STATE:
        return STATES[fact.name].word
    if fact.kind == work.STEP:
        return f"step “{ctx.guide.step_title(fish.species, fact.name)}”"
    if fact.kind == work.BOARD:
        return "to the board"
    if fact.kind == work.ANSWER:
        return "answer “it is so”"
    return {work.PAUSED: "wait", work.RESUMED: "going on"}.get(fact.name, "finish")


def when_done(now: datetime, fish: Fish, waited_s: float = 0.0) -> datetime:
    """When something was done to a fish, which may then have waited in a browser.

    Never before the fish was landed; and what did not wait is never before what was done to the
    fish last: a clock that went back would make it have no effect. In an open transaction.
    """
    at = max(fish.landed_at, now - min(MAX_WAIT, timedelta(seconds=max(0.0, waited_s))))
    if waited_s >= WAITED_S:
        return at
    return max(at, fishes.last_time(fish.id) or at)

"""The plan for cutting *this* fish: which pieces, in which order, each step with its reason."""

import math
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from lepidos.core.cutting.methods import Method, Methods, TakenWay, choose
from lepidos.core.cutting.model import GONE, CuttingPlan, FishToCut, Skin, Slot
from lepidos.core.cutting.skin import skin_of, skins_of, which_pieces
from lepidos.core.errors import BadInput
from lepidos.core.fish.bodyplan import BodyPlan, Piece, PlannedPiece, Step
from lepidos.core.fish.species import Species
from lepidos.core.limits import require_length, require_weight


def plan_cut(
    fish: FishToCut,
    species: Species,
    plan: BodyPlan,
    catalogue: Mapping[str, Piece],
    methods: Methods,
) -> CuttingPlan:
    """The same inputs give the same plan.

    A step may be in when all its conditions hold: size, the species' traits, skin on or off, the
    ways taken, the purpose, and facts not yet true of the fish (a bled fish is not bled again).
    Those steps are then put in order, what hurts first, and gone through as hands would: one that
    needs what is gone by then is left out.

    Args:
        fish: Round mass and total length within `limits`.
    Raises:
        OutOfRange: the size cannot be. BadInput: an unknown purpose, method or way.
    """
    require_weight(fish.round_kg)
    require_length(fish.length_m)
    case = _Case(_fit_for(fish, species, methods), species, plan, methods)
    taken, skin = case.taken(), case.skin()
    pieces = case.pieces(taken)
    planned = {p.piece for p in pieces}
    skins = skins_of(case.fish, species, plan, methods, skin, planned)
    either = {skin, *skins.values()}
    steps = case.steps(taken, either)
    slots = _slots(steps, planned, catalogue)
    if skins:
        steps = tuple(which_pieces(s, skin, skins, slots, plan, catalogue) for s in steps)
    pace = case.pace()
    return CuttingPlan(
        steps,
        pieces,
        slots,
        skin,
        taken,
        {step.key: pace * case.minutes(step) for step in steps},
        case.factor(taken, either),
        case.fish.purpose,
        skins,
        missing(fish.facts),
    )


def missing(facts: Collection[str]) -> frozenset[str]:
    """The parts that a fish came without, by what is true of it."""
    return frozenset(part for fact in facts for part in GONE.get(fact, ()))


@dataclass(frozen=True)
class _Case:
    """A fish with all that its plan is made from."""

    fish: FishToCut
    species: Species
    plan: BodyPlan
    methods: Methods

    @property
    def cm(self) -> float:
        return self.fish.length_m * 100

    @property
    def is_whole(self) -> bool:
        return self.methods.is_whole(self.fish.purpose, self.plan, self.fish.round_kg)

    def taken(self) -> dict[str, TakenWay]:
        """The way taken in each question that the plan asks. Raises BadInput."""
        fish, by_key = self.fish, self.methods.by_key()
        if unknown := set(fish.methods) - set(by_key):
            raise BadInput(f"There is no method “{sorted(unknown)[0][:40]}”")
        asked_about = asks_about(self.plan, self.methods)

        def way(key: str, after: Collection[str] = ()) -> TakenWay:
            return choose(
                by_key[key],
                self.species,
                self.cm,
                fish.round_kg,
                fish.purpose,
                fish.methods.get(key, ""),
                fish.facts,
                sorted(fish.pieces.values()),
                after,
            )

        found = {key: way(key) for key in by_key if key in asked_about}
        gone_by = {f"{key}:{taken.option}" for key, taken in found.items()}
        for key, one in by_key.items():
            if key in found and gone_by & set(one.follows):
                found[key] = way(key, gone_by)
        return found

    def skin(self) -> Skin:
        purpose = self.methods.purposes[self.fish.purpose]
        return skin_of(self.fish, self.species, self.plan, purpose, whole=self.is_whole)

    def pieces(self, taken: Mapping[str, TakenWay]) -> tuple[PlannedPiece, ...]:
        """The pieces worth taking at this size by these methods, none of a part the fish lacks."""
        gone = missing(self.fish.facts)
        return tuple(
            p
            for p in self.plan.pieces
            if p.piece not in gone and _sized(p, self.fish) and _taken_by(p, taken)
        )

    def steps(self, taken: Mapping[str, TakenWay], skins: Collection[Skin]) -> tuple[Step, ...]:
        """The steps in their order, with the tools that the ways taken take up."""
        traits = {*self.species.traits, *self.species.cautions}
        whole = self.is_whole

        def holds(step: Step) -> bool:
            return _fits(step, self.fish, traits, skins) and (
                step.whole if whole else _taken_by(step, taken)
            )

        instead = _instead(self.methods.by_key(), taken)
        chosen = _composed(filter(holds, self.plan.steps), self.fish.facts)
        at_steps = _at_steps(self.methods.by_key(), taken)
        return tuple(_with(step, instead, at_steps) for step in chosen)

    def minutes(self, step: Step) -> float:
        """As the step has them, before they are stretched."""
        return step.minutes + step.minutes_per_kg * self.fish.round_kg

    def pace(self) -> float:
        """What the steps' minutes are stretched by: the usual plan takes its body plan's time."""
        if self.plan.pace is None:
            return 1.0
        kg = self.fish.round_kg
        usual = _usual_minutes(kg, self.fish.length_m, self.species, self.plan, self.methods)
        return self.plan.pace.minutes(kg) / usual if usual else 1.0

    def factor(self, taken: Mapping[str, TakenWay], skins: Collection[Skin]) -> float:
        """What the ways taken change of the fillet, against the species' usual ways here."""
        usual = {
            key: choose(one, self.species, self.cm, self.fish.round_kg)
            for key, one in self.methods.by_key().items()
            if key in taken
        }
        if all(way.option == taken[key].option for key, way in usual.items()):
            return 1.0
        return self._effect(taken, skins) / self._effect(usual, skins)

    def _effect(self, ways: Mapping[str, TakenWay], skins: Collection[Skin]) -> float:
        """What these ways leave of the fillet; by a way of no step and no piece nobody goes."""
        gone_by = {way for step in self.steps(ways, skins) for way in step.method}
        gone_by |= {way for piece in self.pieces(ways) for way in piece.method}
        by_key = self.methods.by_key()
        return math.prod(
            1 + by_key[key].effect.get(way.option, 0.0)
            for key, way in ways.items()
            if f"{key}:{way.option}" in gone_by
        )


@lru_cache(maxsize=2048)  # the same fish is planned many times, for other purposes and ways
def _usual_minutes(
    round_kg: float, length_m: float, species: Species, plan: BodyPlan, methods: Methods
) -> float:
    """The sum of the steps of a fish as it was caught, for the freezer, in the usual ways."""
    case = _Case(FishToCut(round_kg, length_m), species, plan, methods)
    return math.fsum(case.minutes(s) for s in case.steps(case.taken(), {case.skin()}))


def _sized(row: Step | PlannedPiece, fish: FishToCut) -> bool:
    cm = fish.length_m * 100
    return row.from_kg <= fish.round_kg < row.below_kg and row.from_cm <= cm < row.below_cm


def _taken_by(row: Step | PlannedPiece, taken: Mapping[str, TakenWay]) -> bool:
    """Whether every way that it belongs to is the one taken."""
    chosen = (way.partition(":") for way in row.method)
    return all(taken[key].option == option for key, _, option in chosen)


def _fits(step: Step, fish: FishToCut, traits: Collection[str], skins: Collection[str]) -> bool:
    return (
        _sized(step, fish)
        and (not step.purposes or fish.purpose in step.purposes)
        and (not step.unless_fact or step.unless_fact not in fish.facts)
        and (not step.only_fact or step.only_fact in fish.facts)
        and (not step.trait or step.trait in traits)
        and (not step.unless_trait or step.unless_trait not in traits)
        and (not step.skin or step.skin in skins)
    )


def _fit_for(fish: FishToCut, species: Species, methods: Methods) -> FishToCut:
    """The fish for what it is cut for. Raises BadInput for an unknown purpose."""
    if fish.purpose not in methods.purposes:
        known = ", ".join(methods.purposes)
        raise BadInput(f"“{fish.purpose[:40]}” is not a purpose; use {known}")
    return replace(fish, purpose=methods.purpose_of(fish.purpose, fish.round_kg, species.traits))


# what hurts, venom before all else; the fish is looked at; then what is done to it closed
_PHASES = ("look", "hurts", "bleed", "surface", "")


def _rank(step: Step) -> int:
    if step.disarms or step.trait == "venomous_spines":
        return -1
    return _PHASES.index(step.phase)


def _composed(steps: Iterable[Step], facts: Collection[str]) -> Iterator[Step]:
    """The steps in their order, without those that need what is gone when their turn comes."""
    gone = set(missing(facts))
    for step in sorted(steps, key=_rank):
        if gone & set(step.needs):
            continue
        gone |= set(step.takes)
        if "head" in gone and step.headless_title:
            yield step.model_copy(
                update={
                    "title": step.headless_title,
                    "why": step.headless_why or step.why,
                    "feel": step.headless_feel,
                    "wrong": "",
                    "rescue": "",
                }
            )
        else:
            yield step


def _slots(
    steps: Sequence[Step], planned: Collection[str], catalogue: Mapping[str, Piece]
) -> tuple[Slot, ...]:
    """What goes on the scale, in the order of the steps; a fillet only when it is planned."""
    slots: dict[Slot, None] = {}
    for step in steps:
        for piece in step.gives:
            if piece not in planned and catalogue[piece].counts_as == "fillet":
                continue
            sides = ("A", "B") if catalogue[piece].sided else ("",)
            slots |= {Slot(piece, side): None for side in sides}
    return tuple(slots)


def asks_about(plan: BodyPlan, methods: Methods) -> frozenset[str]:
    """The methods whose way makes a difference to a body plan."""
    tools = {step.tool for step in plan.steps}
    changing = (s.key for s in methods.methods for to in s.tools.values() if tools & set(to))
    return frozenset({*(way.partition(":")[0] for way in plan.ways), *changing})


def _instead(methods: Mapping[str, Method], taken: Mapping[str, TakenWay]) -> dict[str, str]:
    """What the ways taken take up instead of a plan's tools."""
    found: dict[str, str] = {}
    for key, way in taken.items():
        found.update(methods[key].tools.get(way.option, {}))
    return found


def _at_steps(methods: Mapping[str, Method], taken: Mapping[str, TakenWay]) -> dict[str, str]:
    """By step: the tool that the ways taken take up there."""
    found: dict[str, str] = {}
    for key, way in taken.items():
        found.update(methods[key].step_tools.get(way.option, {}))
    return found


def _with(step: Step, instead: Mapping[str, str], at_steps: Mapping[str, str]) -> Step:
    tool = at_steps.get(step.key) or instead.get(step.tool)
    return step.model_copy(update={"tool": tool}) if tool else step

"""The plan for cutting *this* fish: which pieces, in which order, each step with its reason."""

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, field, replace
from typing import Literal

from lepidos.core.cutting.methods import Method, Methods, Purpose, Taken, choose
from lepidos.core.errors import BadInput
from lepidos.core.fish.bodyplan import BodyPlan, Piece, PlannedPiece, Step
from lepidos.core.fish.species import Species
from lepidos.core.limits import require_length, require_weight

Skin = Literal["on", "off"]


@dataclass(frozen=True)
class FishToCut:
    """What the planner needs to know: size, skin wanted, what is done already, what it is for.

    `methods` are the crew's own ways, by question; `facts` such as "gutted" and "headed".
    """

    round_kg: float
    length_m: float
    skin: Skin = "on"
    facts: AbstractSet[str] = frozenset()
    purpose: str = "freezer"
    methods: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Slot:
    """One thing to be weighed: a piece and its side ("" when it has none)."""

    piece: str
    side: str

    @property
    def key(self) -> str:
        """Short text form, such as "fillet.A" or "gut"."""
        return f"{self.piece}.{self.side}" if self.side else self.piece


@dataclass(frozen=True)
class CuttingPlan:
    """Ordered steps and the slots that they fill, in the order they come off the fish.

    `purpose` is what it is cut for, which for a fish too large for its pan is not what was asked;
    `taken` is the way of each method that this body plan asks about; `fillet_factor` what those
    ways change of the fillet against the species' usual way.
    """

    steps: tuple[Step, ...]
    pieces: tuple[PlannedPiece, ...]
    slots: tuple[Slot, ...]
    skin: Skin
    taken: Mapping[str, Taken]
    minutes: float
    fillet_factor: float
    purpose: str

    def zone_of(self, piece: str) -> str:
        """The zone that a planned piece is cut from, "" when it has none."""
        return next((p.zone for p in self.pieces if p.piece == piece), "")

    def slots_of(self, step: Step) -> tuple[Slot, ...]:
        """What a step puts on the scale."""
        return tuple(s for s in self.slots if s.piece in step.gives)


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
    fish = _for_its_size(fish, methods)
    by_key = methods.by_key()
    taken = _taken(fish, species, plan, methods)
    purpose = methods.purposes[fish.purpose]
    skin = _skin(fish, species, plan, purpose)
    traits = {*species.traits, *species.cautions}

    def holds(step: Step) -> bool:
        return _fits(step, fish, traits, skin) and (
            step.whole if purpose.whole else _taken_by(step, taken)
        )

    pieces = tuple(p for p in plan.pieces if _sized(p, fish) and _taken_by(p, taken))
    planned = {p.piece for p in pieces}
    instead = _instead(by_key, taken)
    steps = tuple(_with(s, instead) for s in _composed(filter(holds, plan.steps), fish.facts))
    return CuttingPlan(
        steps,
        pieces,
        _slots(steps, planned, catalogue),
        skin,
        taken,
        sum(step.minutes + step.minutes_per_kg * fish.round_kg for step in steps),
        _factor(species, fish, by_key, taken),
        fish.purpose,
    )


def _sized(row: Step | PlannedPiece, fish: FishToCut) -> bool:
    cm = fish.length_m * 100
    return row.from_kg <= fish.round_kg < row.below_kg and row.from_cm <= cm < row.below_cm


def _taken_by(row: Step | PlannedPiece, taken: Mapping[str, Taken]) -> bool:
    """Whether every way that it belongs to is the one taken."""
    chosen = (way.partition(":") for way in row.method)
    return all(taken[key].option == option for key, _, option in chosen)


def _fits(step: Step, fish: FishToCut, traits: Collection[str], skin: Skin) -> bool:
    return (
        _sized(step, fish)
        and (not step.purposes or fish.purpose in step.purposes)
        and (not step.unless_fact or step.unless_fact not in fish.facts)
        and (not step.trait or step.trait in traits)
        and (not step.unless_trait or step.unless_trait not in traits)
        and (not step.skin or step.skin == skin)
    )


def _for_its_size(fish: FishToCut, methods: Methods) -> FishToCut:
    """The fish for what it is cut for. Raises BadInput for an unknown purpose."""
    if fish.purpose not in methods.purposes:
        known = ", ".join(methods.purposes)
        raise BadInput(f"“{fish.purpose[:40]}” is no purpose; use {known}")
    return replace(fish, purpose=methods.purpose_of(fish.purpose, fish.round_kg))


def _skin(fish: FishToCut, species: Species, plan: BodyPlan, purpose: Purpose) -> Skin:
    """Cooked whole it keeps its skin; else skin that is not eaten comes off whatever was asked."""
    if purpose.whole:
        return "on"
    if plan.skinned or not species.skin_eaten:
        return "off"
    return purpose.skin or fish.skin


# what hurts, venom before all else; the fish is looked at; then what is done to it closed
_PHASES = ("look", "hurts", "bleed", "surface", "")


def _rank(step: Step) -> int:
    if step.disarms or step.trait == "venomous_spines":
        return -1
    return _PHASES.index(step.phase)


def _composed(steps: Iterable[Step], facts: Collection[str]) -> Iterator[Step]:
    """The steps in their order, without those that need what is gone when their turn comes."""
    gone = {part for fact in facts for part in _GONE.get(fact, ())}
    for step in sorted(steps, key=_rank):
        if gone & set(step.needs):
            continue
        gone |= set(step.takes)
        if "head" in gone and step.headless_title:
            words = {"title": step.headless_title, "why": step.headless_why}
            yield step.model_copy(update=words | {"feel": "", "wrong": "", "rescue": ""})
        else:
            yield step


_GONE = {"gutted": ("gut",), "headed": ("head", "cheeks")}


def _taken(fish: FishToCut, species: Species, plan: BodyPlan, methods: Methods) -> dict[str, Taken]:
    """The way taken in each question that the plan asks. Raises BadInput."""
    by_key = methods.by_key()
    if unknown := set(fish.methods) - set(by_key):
        raise BadInput(f"There is no method “{sorted(unknown)[0][:40]}”")
    asked_about = asks_about(plan, methods)
    cm = fish.length_m * 100
    return {
        key: choose(
            one, species, cm, fish.round_kg, fish.purpose, fish.methods.get(key, ""), fish.facts
        )
        for key, one in by_key.items()
        if key in asked_about
    }


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


def _instead(methods: Mapping[str, Method], taken: Mapping[str, Taken]) -> dict[str, str]:
    """What the ways taken take up instead of a plan's tools."""
    found: dict[str, str] = {}
    for key, way in taken.items():
        found.update(methods[key].tools.get(way.option, {}))
    return found


def _with(step: Step, instead: Mapping[str, str]) -> Step:
    return step.model_copy(update={"tool": instead[step.tool]}) if step.tool in instead else step


def _factor(
    species: Species, fish: FishToCut, methods: Mapping[str, Method], taken: Mapping[str, Taken]
) -> float:
    """What the ways taken change of the fillet, against this species' usual ways."""
    factor = 1.0
    for key, way in taken.items():
        usual = choose(methods[key], species, fish.length_m * 100, fish.round_kg).option
        effect = methods[key].effect
        factor *= (1 + effect.get(way.option, 0.0)) / (1 + effect.get(usual, 0.0))
    return factor

"""Methods: where people who cut fish disagree, which way a crew goes, and why."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Literal

from pydantic import model_validator

from lepidos.core.errors import BadInput
from lepidos.core.fish.bodyplan import BodyPlan
from lepidos.core.fish.species import Known, Sourced, Species


class SizeRule(Known):
    """An option for fish below a size."""

    option: str
    below_cm: float = 1e9
    below_kg: float = 1e9


class Method(Known):
    """A question with its two ways, the default, and what makes another one the default.

    `effect` is what an option changes of the fillet's mass, as a part of it;
    `tools` by option which tool is taken up instead of the one that a plan names, `step_tools` at
    which steps. `follows`: the default after the way of another question, as "question:option".
    `forced` by purpose: the way that goes before everyone's own; `impossible`: by option the fact
    that rules it out; `too_large_from_kg`: by option the weight from which nobody does it.
    """

    key: str
    question: str
    options: Mapping[str, str]
    default: str
    why: str
    plans: Mapping[str, str] = {}
    purposes: Mapping[str, str] = {}
    traits: Mapping[str, str] = {}
    sizes: tuple[SizeRule, ...] = ()
    effect: Mapping[str, float] = {}
    tools: Mapping[str, Mapping[str, str]] = {}
    step_tools: Mapping[str, Mapping[str, str]] = {}
    follows: Mapping[str, str] = {}
    forced: Mapping[str, str] = {}
    impossible: Mapping[str, str] = {}
    too_large_from_kg: Mapping[str, float] = {}

    def other(self, option: str) -> str:
        """The way not taken."""
        return next(o for o in self.options if o != option)


class Purpose(Known):
    """What a fish is cut for; `skin` goes before what was asked, `whole` is cooked on its bones.

    From `below_kg` on, and one with the trait `unless_trait`, a fish is cut for the purpose
    `instead`: nobody pans a big one whole, nobody eats an eel raw. `caution` goes on the label.
    """

    text: str
    skin: Literal["", "on", "off"] = ""
    whole: bool = False
    below_kg: float = 1e9
    unless_trait: str = ""
    instead: str = ""
    caution: str = ""


class Methods(Sourced):
    """All of them, and what a fish may be cut for. Raises ValidationError for a purpose missing."""

    methods: tuple[Method, ...]
    purposes: Mapping[str, Purpose]

    @model_validator(mode="after")
    def _instead_is_there(self) -> "Methods":
        for key, one in self.purposes.items():
            limited = one.below_kg < 1e9 or bool(one.unless_trait)
            if limited != bool(one.instead) or one.instead not in {"", *self.purposes}:
                raise ValueError(
                    f"{key}: give below_kg or unless_trait together with the purpose instead"
                )
        return self

    def purpose_of(self, purpose: str, kg: float, traits: Collection[str] = ()) -> str:
        """What a fish of that weight and these traits is cut for when it is meant for a purpose."""
        one = self.purposes[purpose]
        unfit = kg >= one.below_kg or (one.unless_trait in traits)
        return one.instead if unfit else purpose

    def is_whole(self, purpose: str, plan: BodyPlan, kg: float) -> bool:
        """Whether a fish of this body plan and weight is cooked on its bones for a purpose."""
        return self.purposes[purpose].whole or kg < plan.whole_below_kg.get(purpose, 0.0)

    def __hash__(self) -> int:
        # by identity, as a species
        return id(self)

    def by_key(self) -> dict[str, Method]:
        """By their keys."""
        return {one.key: one for one in self.methods}


@dataclass(frozen=True)
class TakenWay:
    """The way taken, and the rule that made it so."""

    option: str
    because: str


def choose(
    method: Method,
    species: Species,
    cm: float,
    kg: float,
    purpose: str = "",
    asked: str = "",
    facts: Collection[str] = (),
    also: Collection[str] = (),
    after: Collection[str] = (),
) -> TakenWay:
    """The way for this fish: the crew's own, else by purpose, size, body plan, trait, default.

    What a purpose forces goes before the crew's own, also one that only a piece is for (`also`);
    what a fact rules out is not taken. `after`: ways of other questions, as "question:option".
    Raises: BadInput for an option that the method does not have.
    """
    if asked and asked not in method.options:
        known = ", ".join(method.options)
        raise BadInput(f"{method.key}: “{asked[:40]}” is not a way of this; use {known}")
    for one in (purpose, *also):
        if one in method.forced:
            return TakenWay(method.forced[one], f"for this purpose ({one})")
    found = (
        TakenWay(asked, "your way") if asked else _usual(method, species, cm, kg, purpose, after)
    )
    fact = method.impossible.get(found.option)
    if fact in facts:
        return TakenWay(method.other(found.option), f"it is {fact} already")
    if kg >= (most := method.too_large_from_kg.get(found.option, 1e9)):
        return TakenWay(method.other(found.option), f"from {most:g} kg on")
    return found


def _usual(
    method: Method, species: Species, cm: float, kg: float, purpose: str, after: Collection[str]
) -> TakenWay:
    if purpose in method.purposes:
        return TakenWay(method.purposes[purpose], f"for this purpose ({purpose})")
    for way, option in method.follows.items():
        if way in after:
            question, _, other = way.partition(":")
            return TakenWay(option, f"usual where the {question} is {other}")
    for rule in method.sizes:
        if cm < rule.below_cm and kg < rule.below_kg:
            size = f"{rule.below_cm:g} cm" if rule.below_cm < 1e9 else f"{rule.below_kg:g} kg"
            return TakenWay(rule.option, f"below {size}")
    if species.body_plan in method.plans:
        return TakenWay(method.plans[species.body_plan], "usual for its body plan")
    for trait in species.traits:
        if trait in method.traits:
            return TakenWay(method.traits[trait], f"usual for {trait.replace('_', ' ')}")
    return TakenWay(method.default, f"the default ({method.why})")

"""Does a plan hold at the knife? Checked by what its steps do to the fish, and by nothing else.

The checker shares no code with the planner and is told nothing of how the plan came about: it goes
through the steps as hands would, keeps what is still there, and says where a step makes no sense,
what was forgotten, and which caution nobody was given. What a step does is data
(`guide/checks.toml`); the rules are those that `docs/plans.md` lists.
Source: common practice, no source.
"""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

from lepidos.core.cutting.deeds import Checks, Deed
from lepidos.core.cutting.model import CuttingPlan, Slot
from lepidos.core.cutting.tool_check import Fault, named_twice
from lepidos.core.fish.bodyplan import Piece, Step
from lepidos.core.fish.species import Species

SIDES = frozenset({"A", "B"})
ALWAYS_THERE = frozenset(
    {"head", "gut", "skin", "collars", "cheeks", "closed", "blood", "unwashed"}
)
HURTS = ("venomous_spines", "sharp_spines", "armour", "sword")
MAX_WHOLE_KG = 8.0  # that any oven takes (common practice, no source)
FOR_RAW_WORMS = frozenset({"raw", "smoke"})  # cold smoke counts as raw


@dataclass
class _Fish:
    """The fish as it lies there while the steps are gone through."""

    there: set[str]
    left: set[str] = field(default_factory=set)
    sides: set[str] = field(default_factory=set)
    wet_allowed: bool = True
    looked: bool = False


def check_plan(
    cut: CuttingPlan,
    species: Species,
    catalogue: Mapping[str, Piece],
    checks: Checks,
    said: Mapping[str, tuple[str, ...]],
    *,
    kg: float,
    facts: Collection[str] = (),
    purpose: str = "freezer",
    pieces: Mapping[str, str] = MappingProxyType({}),
    whole: bool = False,
    never: Collection[str] = (),
    parts: Mapping[str, str] = MappingProxyType({}),
) -> list[Fault]:
    """Every fault of a plan, in the order of its steps; none when it holds.

    Args:
        said: By step, the cautions that are shown at it.
        kg: Its round weight.
        facts: What the fish is already: "bled", "gutted", "headed".
        pieces: By slot, such as "fillet.B", what that piece alone is for.
        whole: Whether it is cooked on its bones.
        never: Pieces of this fish that nobody may eat or use.
        parts: By caution, the part of the fish that it is about, where it is about one.
    """
    fish = _Fish(_there(species, facts))
    deeds = [(step, checks.steps.get(step.key, Deed())) for step in cut.steps]
    found: list[Fault] = []
    purposes = _purposes(cut, purpose, pieces)
    for number, (step, deed) in enumerate(deeds):
        found += _hurts_first(step, deed, deeds[number:], species, fish)
        found += _makes_sense(step, deed, fish, purposes)
        found += _words(step, species, checks)
        found += named_twice(step)
        _do(deed, fish)
    if whole and kg > MAX_WHOLE_KG:
        found.append(Fault("small and large", "", f"nobody cooks {kg:.0f} kg whole"))
    found += _forgotten(cut, species, fish, purposes, whole)
    found += _skins(cut, catalogue, fish, deeds) if not whole else []
    found += _pieces(cut, catalogue, never)
    found += _came_without(cut)
    found += _unfinished(cut, catalogue, deeds)
    found += _cautions(cut, species, said, parts)
    return found


def _came_without(cut: CuttingPlan) -> list[Fault]:
    """A part that the fish came without is not weighed."""
    return [
        Fault("no step needs what is gone", step.key, f"“{step.title}”: it came without {part}")
        for step in cut.steps
        for part in sorted(cut.came_without & set(step.gives))
    ]


def _unfinished(
    cut: CuttingPlan, catalogue: Mapping[str, Piece], deeds: list[tuple[Step, Deed]]
) -> list[Fault]:
    """No meat is weighed before a step that still takes something from it, or wets it."""
    found = []
    for number, (step, _) in enumerate(deeds):
        given = {s.piece for s in cut.slots_of(step)}
        meat = sorted(p for p in given if catalogue[p].counts_as == "fillet")
        later = next((one for one, deed in deeds[number:] if deed.trims or deed.wets), None)
        if meat and later:
            words = f"{meat[0]} is weighed before “{later.title}”"
            found.append(Fault("weighed when finished", step.key, words))
    return found


def _purposes(cut: CuttingPlan, purpose: str, pieces: Mapping[str, str]) -> frozenset[str]:
    """What the fish and those of its pieces that the plan gives are for."""
    given = {slot.key for slot in cut.slots}
    return frozenset({purpose, *(one for slot, one in pieces.items() if slot in given)})


def _there(species: Species, facts: Collection[str]) -> set[str]:
    there = set(ALWAYS_THERE) | ({*species.traits} & {*HURTS, "scales"})
    if "venom_weever" in species.cautions:
        there.add("gill_spines")
    if "gutted" in facts:
        there -= {"gut", "blood"}
    if "bled" in facts:
        there -= {"blood"}
    if "headed" in facts:
        there -= {"head", "cheeks", "blood", "gill_spines"}
    return there


def _hurts_first(
    step: Step, deed: Deed, rest: list[tuple[Step, Deed]], species: Species, fish: _Fish
) -> list[Fault]:
    """What hurts is off before a hand has to be there."""
    takes_off = set(deed.takes) & {*HURTS, "gill_spines"}
    if not deed.hands or takes_off:
        return []
    found = []
    for part in ("venomous_spines", "gill_spines"):
        if part in fish.there:
            words = f"“{step.title}” comes while the {part.replace('_', ' ')} are on"
            found.append(Fault("what hurts goes first", step.key, words))
    if deed.opens:
        found += [
            Fault("what hurts goes first", step.key, f"the blade goes in before the {part} is off")
            for part in ("sharp_spines", "armour", "sword")
            if part in fish.there and any(part in d.takes for _, d in rest)
        ]
    return found


_WHY = {
    "closed": "the meat is open",
    "unwashed": "it is washed already",
    "bellies": "no step takes them off",
    "arms": "no step takes them off",
}


def _makes_sense(step: Step, deed: Deed, fish: _Fish, purposes: Collection[str]) -> list[Fault]:
    """No step needs what is gone, or undoes what was done."""
    found = []
    for part in deed.wants:
        if part not in fish.there:
            why = _WHY.get(part, f"no {part} there any more")
            found.append(Fault("no step needs what is gone", step.key, f"“{step.title}”: {why}"))
    if deed.wets and "closed" not in fish.there and ("raw" in purposes or not fish.wet_allowed):
        words = f"“{step.title}” wets meat that is to stay dry"
        found.append(Fault("no step undoes what was done", step.key, words))
    return found


def _do(deed: Deed, fish: _Fish) -> None:
    fish.left |= set(deed.leaves)
    fish.left -= set(deed.takes)
    fish.there -= set(deed.takes)
    fish.there |= set(deed.brings)
    fish.sides |= set(deed.cuts)
    fish.looked |= deed.looks
    if deed.opens:
        fish.there.discard("closed")
    if deed.dries:
        fish.wet_allowed = False


def _forgotten(
    cut: CuttingPlan, species: Species, fish: _Fish, purposes: Collection[str], whole: bool
) -> list[Fault]:
    """Nothing that the wanted pieces must not have is left on them."""
    rule = "nothing is forgotten"
    found = [Fault(rule, "", f"no step takes the {part} out again") for part in sorted(fish.left)]
    for part in ("venomous_spines", "gill_spines"):
        if part in fish.there:
            found.append(Fault(rule, "", f"no step takes the {part.replace('_', ' ')} off"))
    if whole:
        if "gut" in fish.there:
            found.append(Fault(rule, "", "it is cooked whole with its gut in"))
        if "scales" in fish.there:
            found.append(Fault(rule, "", "it is cooked whole with its scales on"))
        return found
    if sides := SIDES - fish.sides:
        found.append(Fault(rule, "", f"no step cuts side {' and '.join(sorted(sides))}"))
    if FOR_RAW_WORMS & set(purposes) and "raw" in species.cautions and not fish.looked:
        found.append(Fault(rule, "", "nobody looks for worms"))
    return found


def _skins(
    cut: CuttingPlan,
    catalogue: Mapping[str, Piece],
    fish: _Fish,
    deeds: list[tuple[Step, Deed]],
) -> list[Fault]:
    """Skin is where it is wanted: on all pieces, on none, or on those that a step names."""
    rule, meat = (
        "nothing is forgotten",
        [s for s in cut.slots if catalogue[s.piece].counts_as == "fillet"],
    )
    by_skin = {skin: [s for s in meat if cut.skin_of(s.key) == skin] for skin in ("on", "off")}
    found = []
    if by_skin["off"] and "skin" in fish.there:
        found.append(Fault(rule, "", "the skin stays on, though skin off is wanted"))
    if by_skin["on"] and "scales" in fish.there:
        found.append(Fault(rule, "", "the skin stays on with its scales"))
    if by_skin["on"] and not by_skin["off"] and "skin" not in fish.there:
        found.append(Fault(rule, "", "the skin comes off, though skin on is wanted"))
    if by_skin["on"] and by_skin["off"]:
        odd = by_skin["off" if cut.skin == "on" else "on"]
        for step, deed in deeds:
            if "skin" in deed.takes and any(not _names(step, slot, catalogue) for slot in odd):
                words = f"“{step.title}” does not say of which pieces"
                found.append(Fault(rule, step.key, words))
    return found


def _names(step: Step, slot: Slot, catalogue: Mapping[str, Piece]) -> bool:
    """Whether a step's title names a piece, by its name and its side's letter."""
    title = step.title.lower()
    return catalogue[slot.piece].name in title and slot.side.lower() in title


def _pieces(
    cut: CuttingPlan, catalogue: Mapping[str, Piece], never: Collection[str]
) -> list[Fault]:
    """Each planned piece comes from one step, and a step gives only planned meat."""
    rule, found = "pieces balance", []
    givers: dict[str, list[str]] = {}
    for step in cut.steps:
        for piece in step.gives:
            givers.setdefault(piece, []).append(step.key)
    for slot in cut.slots:
        by = givers.get(slot.piece, [])
        if len(by) != 1 and slot.piece != "trim":
            said = f"comes from {len(by)} steps: {', '.join(by)}" if by else "comes from no step"
            found.append(Fault(rule, by[-1] if by else "", f"{slot.piece} {said}"))
    planned = {p.piece for p in cut.pieces}
    eaten = {s.piece for s in cut.slots if catalogue[s.piece].counts_as == "fillet"}
    found += [Fault(rule, "", f"{p} is weighed but not planned") for p in sorted(eaten - planned)]
    found += [
        Fault("nothing poisonous is a piece", "", f"{slot.piece} must not be eaten or used")
        for slot in cut.slots
        if slot.piece in never and slot.piece != "gut"
    ]
    return found


def _cautions(
    cut: CuttingPlan,
    species: Species,
    said: Mapping[str, tuple[str, ...]],
    parts: Mapping[str, str],
) -> list[Fault]:
    """Every caution of the species is given at a step, except for parts the fish lacks."""
    keys = {step.key for step in cut.steps}
    shown = {caution for step, cautions in said.items() if step in keys for caution in cautions}
    return [
        Fault("every caution is said", "", f"{caution} is said at no step")
        for caution in species.cautions
        if caution not in shown and parts.get(caution, "") not in cut.came_without
    ]


def _words(step: Step, species: Species, checks: Checks) -> list[Fault]:
    """No sentence of another kind's."""
    is_so = {*species.traits, *species.cautions, species.body_plan, species.keeping.fat}
    text = " ".join((step.title, step.why, step.feel, step.wrong, step.rescue)).lower()
    return [
        Fault("reasons are this fish's", step.key, f"“{words.text}” is not true of it")
        for words in checks.words
        if words.text in text and not is_so & set(words.of)
    ]

"""What can hurt about a fish, and at which step of its plan that is said."""

from collections.abc import Mapping

from lepidos.core.cutting.model import CuttingPlan
from lepidos.core.fish.bodyplan import Step
from lepidos.core.fish.species import Known, Sourced, Species


class Caution(Known):
    """One plain sentence, who decides, and its short form for a bag's label.

    `stands_for` names the general caution of a step that this one, of a single kind of fish, takes
    the place of; its own key begins with that one's (see `Species.warns_of`). `at` are the steps it
    belongs to, the first that a plan has; without one it is said before the first step. `landing`
    says it when the fish is landed, too. `never` are parts of the fish that must not be eaten or
    used; `grave` ranks them: what hurts soonest is least. `part`, "head" or "gut", is what it is
    about: of a fish that came without it, it is not said.
    """

    text: str
    decides: str
    label: str
    stands_for: str = ""
    at: tuple[str, ...] = ()
    landing: bool = False
    never: tuple[str, ...] = ()
    grave: int = 50
    part: str = ""


class Aid(Known):
    """First aid for one kind of hurt: what to do, in order, and when to call for help.

    `cautions` are those of the fish and tools that do it; `least_min` to `most_min` in hot water.
    """

    key: str
    title: str
    do: tuple[str, ...]
    help: str
    cautions: tuple[str, ...] = ()
    least_min: int = 0
    most_min: int = 0


class FirstAid(Sourced):
    """All of it, what hurts soonest first.

    `stung` is what every caution of venom ends with: {stung} is the caution's own, the minutes
    those of the aid for a sting.
    """

    stung: str
    aids: tuple[Aid, ...]

    def when_stung(self, own: str) -> str:
        """The sentence for a sting. `own`: the further reasons to get help at once."""
        aid = next(one for one in self.aids if one.most_min)
        return self.stung.format(stung=own, least_min=aid.least_min, most_min=aid.most_min)


Cautions = Mapping[str, Caution]


def own_caution(key: str, species: Species, cautions: Cautions) -> str:
    """The species' own caution in the place of a general one, or the general one."""
    return next((c for c in species.cautions if cautions[c].stands_for == key), key)


def cautions_by_step(
    cut: CuttingPlan, species: Species, cautions: Cautions
) -> dict[str, tuple[str, ...]]:
    """By step: the keys of its cautions, the gravest first.

    Every caution of the species is at one, but for those of a part that it came without.

    Args: `cautions` is the guide's list. Returns: only steps that have any.
    """
    found: dict[str, list[str]] = {}
    for step in cut.steps:
        if step.caution:
            found[step.key] = [own_caution(step.caution, species, cautions)]
    said = {key for keys in found.values() for key in keys}
    present = [step.key for step in cut.steps]
    for key in species.cautions:
        if key in said or not present or cautions[key].part in cut.came_without:
            continue
        at = next((step for step in cautions[key].at if step in present), present[0])
        found.setdefault(at, []).append(key)
    return {
        step: tuple(sorted(keys, key=lambda k: cautions[k].grave)) for step, keys in found.items()
    }


def at_landing(species: Species, cautions: Cautions) -> tuple[str, ...]:
    """The cautions that are said when such a fish is landed, the gravest first."""
    found = [key for key in species.cautions if cautions[key].landing]
    return tuple(sorted(found, key=lambda k: cautions[k].grave))


def never_used(species: Species, cautions: Cautions) -> frozenset[str]:
    """Pieces of this fish that must not be eaten, and go nowhere but into the bin."""
    return frozenset(piece for key in species.cautions for piece in cautions[key].never)


def spines_to_count(step: Step, species: Species) -> int:
    """How many venomous spines are counted off one by one at a step; 0 where nobody counts."""
    if not step.disarms:
        return 0
    return step.counts or (species.venom_spines if step.trait == "venomous_spines" else 0)

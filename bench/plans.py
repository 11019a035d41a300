"""Do the guide's plans hold? Every species, three sizes, every purpose, state, pair of ways, skin,
each with four sets of tools; then every piece for every purpose of its own, in the usual ways.

    .venv/bin/python -m bench.plans              all of them
    .venv/bin/python -m bench.plans 20000 1      that many at random, from a seed

Prints how many plans were checked and every kind of fault with one fish that has it.
"""

import itertools
import sys
import time
from collections.abc import Iterable, Iterator
from multiprocessing import Pool
from random import Random

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.cutting.model import FishToCut
from lepidos.core.cutting.plan import asks_about
from lepidos.core.fish.bodyplan import BodyPlan
from lepidos.core.fish.species import Species
from lepidos.guide.library import Guide, load_guide
from lepidos.guide.plans import ToolSets, check

STATES = (frozenset[str](), frozenset({"bled"}), frozenset({"gutted"}), frozenset({"bled", "gutted"}), frozenset({"bled", "gutted", "headed"}))  # fmt: skip


# all that the guide names (none said), a pocket's worth, a kitchen's, a dock's with power
TOOLS = (
    frozenset[str](),
    frozenset({"fillet_knife", "pliers"}),
    frozenset({"stiff_knife", "shears", "spoon", "cloth"}),
    frozenset({"electric_knife", "fillet_knife", "glove", "clamp", "scale"}),
)


def sizes(species: Species) -> tuple[float, float, float]:
    """A small, a usual and a large length [cm]."""
    fit = species.length_weight
    span = fit.largest_cm - fit.smallest_cm
    return tuple(fit.smallest_cm + span * part for part in (0.1, 0.5, 0.9))  # type: ignore[return-value]


def ways(guide: Guide, plan: BodyPlan) -> list[dict[str, str]]:
    """The usual ways, each way alone, and all pairs of two, of the methods that the plan asks about."""
    asked = asks_about(plan, guide.methods)
    each = [
        (m.key, option) for m in guide.methods.methods for option in m.options if m.key in asked
    ]
    pairs = [dict(pair) for pair in itertools.combinations(each, 2) if pair[0][0] != pair[1][0]]
    return [{}, *({key: option} for key, option in each), *pairs]


def odd_pieces(guide: Guide, plan: BodyPlan) -> list[dict[str, str]]:
    """No piece apart, and each piece of meat, or its second side, for each purpose of its own."""
    meat = dict.fromkeys(p.piece for p in plan.pieces if guide.piece(p.piece).counts_as == "fillet")
    slots = [f"{piece}.B" if guide.piece(piece).sided else piece for piece in meat]
    return [{}, *({slot: purpose} for slot in slots for purpose in guide.methods.purposes)]


def fish(guide: Guide, species: Species) -> Iterator[tuple[Species, FishToCut]]:
    """Every fish of a species to cut."""
    every = ways(guide, guide.plan_of(species))
    for cm in sizes(species):
        kg = weight_from_length(cm / 100, species.length_type, species).value
        for purpose, state, skin, chosen in itertools.product(
            guide.methods.purposes, STATES, ("on", "off"), every
        ):
            yield species, FishToCut(kg, cm / 100, skin, state, purpose, chosen)  # type: ignore[arg-type]
        for purpose, state, skin, apart in itertools.product(
            guide.methods.purposes, STATES, ("on", "off"), odd_pieces(guide, guide.plan_of(species))
        ):
            yield species, FishToCut(kg, cm / 100, skin, state, purpose, {}, apart)  # type: ignore[arg-type]


def sample(guide: Guide, number: int, seed: int) -> Iterator[tuple[Species, FishToCut]]:
    """That many of them, at random from a seed."""
    rng, species = Random(seed), list(guide.species.values())
    apart = {key: odd_pieces(guide, plan) for key, plan in guide.plans.items()}
    every = {key: ways(guide, plan) for key, plan in guide.plans.items()}
    for _ in range(number):
        one = rng.choice(species)
        cm = rng.choice(sizes(one))
        kg = weight_from_length(cm / 100, one.length_type, one).value
        yield one, FishToCut(
            kg, cm / 100, rng.choice(("on", "off")), rng.choice(STATES),
            rng.choice(list(guide.methods.purposes)), rng.choice(every[one.body_plan]),
            rng.choice(apart[one.body_plan]),
        )  # fmt: skip


Faults = dict[tuple[str, str, str], tuple[int, set[str], str]]  # times, kinds, an example


def checked(guide: Guide, chosen: Iterable[tuple[Species, FishToCut]]) -> tuple[int, Faults]:
    """How many plans there were, and their faults by rule, step and words."""
    plans, found, tools = 0, Faults(), ToolSets(guide, TOOLS)
    for species, to_cut in chosen:
        plans += 1
        for fault in check(guide, species, to_cut, tools):
            key = (fault.rule, fault.step, fault.words)
            example = (f"{species.key}, {to_cut.length_m * 100:.0f} cm, {to_cut.purpose}, "
                       f"{sorted(to_cut.facts)}, skin {to_cut.skin}, {dict(to_cut.methods)}")  # fmt: skip
            times, kinds, first = found.get(key, (0, set(), example))
            found[key] = (times + 1, kinds | {species.key}, first)
    return plans, found


def of_species(key: str) -> tuple[int, Faults]:
    """`checked` for every fish of a species, in a process of its own."""
    guide = load_guide()
    return checked(guide, fish(guide, guide.species[key]))


def main(number: int = 0, seed: int = 1) -> int:
    """How many faults there are."""
    guide, began = load_guide(), time.monotonic()
    plans, faults = 0, Faults()
    if number:
        parts = [checked(guide, sample(guide, number, seed))]
    else:
        with Pool() as pool:
            parts = pool.map(of_species, guide.species, chunksize=1)
    for count, found in parts:
        plans += count
        for key, (times, kinds, example) in found.items():
            before, others, first = faults.get(key, (0, set(), example))
            faults[key] = (before + times, others | kinds, first)
    for key, (times, kinds, example) in sorted(faults.items(), key=lambda row: -row[1][0]):
        print(f"{times:7d}  {len(kinds):3d} kinds  {' | '.join(key)}\n         e.g. {example}")
    every = sum(times for times, _, _ in faults.values())
    print(f"{plans} plans, {every} faults, {time.monotonic() - began:.0f} s")
    return every


if __name__ == "__main__":
    sys.exit(min(1, main(*(int(word) for word in sys.argv[1:]))))

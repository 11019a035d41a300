"""Do the guide's plans hold? Every species, three sizes, every purpose, state, pair of ways, skin.

    .venv/bin/python -m bench.plans              all of them
    .venv/bin/python -m bench.plans 20000 1      that many at random, from a seed

Prints how many plans were checked and every kind of fault with one fish that has it.
"""

import itertools
import sys
import time
from collections import Counter
from collections.abc import Iterator
from random import Random

from lepidos.core.catch.length_weight import weight_from_length
from lepidos.core.cutting.plan import FishToCut, asks_about
from lepidos.core.fish.bodyplan import BodyPlan
from lepidos.core.fish.species import Species
from lepidos.guide.library import Guide, load_guide
from lepidos.guide.plans import check

STATES = (frozenset[str](), frozenset({"bled"}), frozenset({"gutted"}), frozenset({"bled", "gutted"}), frozenset({"bled", "gutted", "headed"}))  # fmt: skip


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


def fish(guide: Guide) -> Iterator[tuple[Species, FishToCut]]:
    """Every fish to cut."""
    every = {key: ways(guide, plan) for key, plan in guide.plans.items()}
    for species in guide.species.values():
        for cm in sizes(species):
            kg = weight_from_length(cm / 100, species.length_type, species).value
            for purpose, state, skin, chosen in itertools.product(
                guide.methods.purposes, STATES, ("on", "off"), every[species.body_plan]
            ):
                yield species, FishToCut(kg, cm / 100, skin, state, purpose, chosen)  # type: ignore[arg-type]


def sample(guide: Guide, number: int, seed: int) -> Iterator[tuple[Species, FishToCut]]:
    """That many of them, at random from a seed."""
    rng, species = Random(seed), list(guide.species.values())
    every = {key: ways(guide, plan) for key, plan in guide.plans.items()}
    for _ in range(number):
        one = rng.choice(species)
        cm = rng.choice(sizes(one))
        kg = weight_from_length(cm / 100, one.length_type, one).value
        yield one, FishToCut(
            kg, cm / 100, rng.choice(("on", "off")), rng.choice(STATES),
            rng.choice(list(guide.methods.purposes)), rng.choice(every[one.body_plan]),
        )  # fmt: skip


def main(number: int = 0, seed: int = 1) -> int:
    """How many faults there are."""
    guide, began = load_guide(), time.monotonic()
    chosen = sample(guide, number, seed) if number else fish(guide)
    plans, faults = 0, Counter[tuple[str, str, str]]()
    kinds: dict[tuple[str, str, str], set[str]] = {}
    example: dict[tuple[str, str, str], str] = {}
    for species, to_cut in chosen:
        plans += 1
        for fault in check(guide, species, to_cut):
            key = (fault.rule, fault.step, fault.words)
            faults[key] += 1
            kinds.setdefault(key, set()).add(species.key)
            example.setdefault(key, f"{species.key}, {to_cut.length_m * 100:.0f} cm, {to_cut.purpose}, "
                               f"{sorted(to_cut.facts)}, skin {to_cut.skin}, {dict(to_cut.methods)}")  # fmt: skip
    for key, count in faults.most_common():
        print(
            f"{count:7d}  {len(kinds[key]):3d} kinds  {' | '.join(key)}\n         e.g. {example[key]}"
        )
    print(f"{plans} plans, {sum(faults.values())} faults, {time.monotonic() - began:.0f} s")
    return sum(faults.values())


if __name__ == "__main__":
    sys.exit(min(1, main(*(int(word) for word in sys.argv[1:]))))

"""The forecast of a fillet's weight: how often the 80 % interval holds on the held-out half of crews.

`python -m bench.forecast [crews]`: made-up crews, each with its own mean, cutters and fish; the first
half of its fish teaches, the second half is predicted. "As the guide has it" draws crews from the
guide's own prior; the others are crews that the prior does not expect.
"""

import math
import sys
from dataclasses import dataclass
from random import Random

from lepidos.core.fish.species import Species
from lepidos.core.yields.balance import expected_fillet
from lepidos.core.yields.forecast import (
    CUTTER_PART,
    FISH_PART,
    MEAN_PART,
    SLOPE_SD,
    Finished,
    Learned,
    learn,
)  # fmt: skip
from lepidos.guide.library import load_guide


@dataclass(frozen=True)
class Kind:
    """What a crew is drawn from, in parts of the guide's own scales."""

    name: str
    mean: float = 1.0
    cutters: float = 1.0
    fish: float = 1.0
    tails: int = 0  # degrees of freedom of Student's t; 0 is normal


KINDS = (
    Kind("as the guide has it"),
    Kind("mean far from the guide's", mean=2.0),
    Kind("cutters very unlike", cutters=2.5),
    Kind("fish twice as various", fish=2.0),
    Kind("fish half as various", fish=0.5),
    Kind("odd fish (Student's t, 5 degrees)", tails=5),
)


def crew(rng: Random, species: Species, kind: Kind) -> list[Finished]:
    """The finished fish of a made-up crew, in the order they were cut."""
    row = species.yields.fillet_skin_on
    sd = row.sd / (row.mean * (1 - row.mean))
    middle = math.log(row.mean / (1 - row.mean)) + kind.mean * MEAN_PART * sd * rng.gauss(0, 1)
    slope = rng.gauss(0, SLOPE_SD)
    cutters = [kind.cutters * CUTTER_PART * sd * rng.gauss(0, 1) for _ in range(rng.randint(1, 4))]
    spread = kind.fish * FISH_PART * sd * math.exp(0.25 * rng.gauss(0, 1))
    fish = []
    for _ in range(rng.randint(8, 60)):
        kg = 2.0 * math.exp(0.5 * rng.gauss(0, 1))
        who = rng.randrange(len(cutters))
        odd = rng.gauss(0, 1)
        if kind.tails:
            odd /= math.sqrt(rng.gammavariate(kind.tails / 2, 2) / kind.tails)
            odd /= math.sqrt(kind.tails / (kind.tails - 2))
        logit = middle + slope * math.log(kg / 2.0) + cutters[who] + spread * odd
        fish.append(Finished(f"c{who}", kg, {"fillet_skin_on": kg / (1 + math.exp(-logit))}))
    return fish


@dataclass
class Score:
    """Held-out fish inside the interval, of all, and how wide it was on average."""

    inside: int = 0
    fish: int = 0
    width: float = 0.0
    guide_width: float = 0.0

    @property
    def covered(self) -> float:
        """Share inside."""
        return self.inside / self.fish


def score(crews: int, kind: Kind, seed: int = 1) -> Score:
    """Teach with each crew's first half, predict its second."""
    species, rng, found = load_guide().one("pollack"), Random(seed), Score()
    untaught = Learned(species, 1.0, {})
    for _ in range(crews):
        fish = crew(rng, species, kind)
        half = len(fish) // 2
        taught = learn(species, fish[:half])
        for one in fish[half:]:
            own = taught.species_for(one.cutter, one.round_kg)
            usual = expected_fillet(one.round_kg, own, "on")
            guide = expected_fillet(one.round_kg, untaught.species, "on")
            found.inside += usual.low <= one.parts["fillet_skin_on"] <= usual.high
            found.fish += 1
            found.width += (usual.high - usual.low) / one.round_kg
            found.guide_width += (guide.high - guide.low) / one.round_kg
    return found


def main(crews: int) -> None:
    """Measure and print Markdown."""
    print("| crews | held-out fish | inside the 80 % interval | its width | the guide's alone |")
    print("|---|---|---|---|---|")
    for kind in KINDS:
        s = score(crews, kind)
        print(
            f"| {kind.name} | {s.fish} | {s.covered:.1%} | {s.width / s.fish:.1%} of the fish | "
            f"{s.guide_width / s.fish:.1%} |",
            flush=True,
        )


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 200)

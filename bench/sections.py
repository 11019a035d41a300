"""Every fish of the guide in every medium, two sizes: time to cool against finite elements.

.venv/bin/python -m bench.sections

Beside it what the models before this one would have said: a cylinder of the same area, or a slab of
the width where the section is less than half as wide as deep.
"""

import math
import statistics

from lepidos.core.cold import conduction
from lepidos.core.cold.cooling_body import CoolingBody, cooling_body, time_until
from lepidos.guide.library import load_guide
from tests.core import section_fem

START_C, PARTS = 14.0, (0.35, 0.7)  # of the longest length
SLAB_BELOW = 0.5


def before(fish: CoolingBody) -> tuple[str, float]:
    """The shape and size that a fish had."""
    if fish.size_m / fish.across_m < SLAB_BELOW:
        return "slab", fish.size_m
    return "cylinder", math.sqrt(fish.size_m * fish.across_m)


def main() -> None:
    """Print the worst, and how many are within 5 %."""
    guide = load_guide()
    now: list[tuple[float, str]] = []
    then: list[tuple[float, str]] = []
    for one in guide.species.values():
        for part in PARTS:
            length_m = one.longest_cm / 100 * part
            kg = one.length_weight.a * (length_m * 100) ** one.length_weight.b / 1000
            fish = cooling_body(guide.body_of(one), length_m, kg)
            for key, medium in guide.media.items():
                ratio = 4 / START_C  # of the way from its start to the medium
                target = medium.celsius + (START_C - medium.celsius) * ratio
                if abs(START_C - medium.celsius) < 2:
                    target, start = medium.celsius + 10 * ratio, medium.celsius + 10
                else:
                    start = START_C
                seconds = time_until(fish, start, medium.celsius, medium.h, target)
                ours = conduction.DIFFUSIVITY * seconds / (fish.size_m / 2) ** 2
                theirs = section_fem.time_to_ratio(
                    round(fish.aspect, 6), fish.biot(medium.h), ratio, ours
                )
                shape, size = before(fish)
                old = conduction.time_to(
                    shape,
                    size,
                    start,
                    medium.celsius,
                    medium.h,
                    target,  # type: ignore[arg-type]
                )
                name = f"{one.key} {length_m * 100:.0f} cm, {key}"
                now.append((ours / theirs - 1, name))
                then.append((old / seconds * ours / theirs - 1, name))
    for title, found in (("the ellipse", now), ("cylinder or slab", then)):
        off = [abs(error) for error, _ in found]
        worst = max(found, key=lambda row: abs(row[0]))
        within = sum(error <= 0.05 for error in off)
        print(
            f"{title}: {len(found)} times, median {statistics.median(off):.2%} off, worst "
            f"{worst[0]:+.1%} ({worst[1]}), {within} within 5 %"
        )


if __name__ == "__main__":
    main()

"""Slips at the scale: how many are found, how often a right weight is questioned.

`python -m bench.slips [fish]`: fish of five species are cut by made-up cutters; some of their weights
get a slip (a tray left in, a decimal point, pounds for kilograms), the others are right.
"""

import math
import sys
from dataclasses import dataclass, field
from random import Random

from lepidos.core.cutting.model import FishToCut
from lepidos.core.cutting.plan import plan_cut
from lepidos.core.units import LB_KG
from lepidos.core.yields.balance import expected_slots
from lepidos.core.yields.entry_errors import ODD_PART, ODD_TIMES, find_slip, is_outside
from lepidos.guide.library import load_guide

KINDS = ("pollack", "cod", "ling", "mackerel", "plaice")
TRAYS = (0.085, 0.120, 0.240)


@dataclass
class Rates:
    """Shares: slips found by kind with the right weight offered, right weights questioned."""

    hits: dict[str, float] = field(default_factory=dict)
    asked: dict[str, float] = field(default_factory=dict)
    false_alarms: float = 0.0
    outside: float = 0.0
    weighings: int = 0


def rates(fish: int, seed: int = 1) -> Rates:
    """Measure on so many fish; a fish's true pieces are drawn from the guide's own intervals."""
    guide, rng = load_guide(), Random(seed)
    tried = dict.fromkeys(("tray", "decimal", "unit"), 0)
    hits, asked = dict(tried), dict(tried)
    right = false = outside = 0
    for n in range(fish):
        species = guide.one(KINDS[n % len(KINDS)])
        length_m = species.longest_cm / 100 * rng.uniform(0.4, 0.75)
        kg = species.length_weight.a * (length_m * 100) ** species.length_weight.b / 1000
        cut = plan_cut(
            FishToCut(kg, length_m), species, guide.plan_of(species), guide.pieces, guide.methods
        )
        expected = expected_slots(kg, species, guide.plan_of(species), cut, guide.pieces)
        before: list[float] = []
        for usual in expected.values():
            sd = math.log(usual.high / usual.low) / 2.563
            odd = ODD_TIMES if rng.random() < ODD_PART else 1.0  # as many as the detector expects
            true = usual.value * math.exp(odd * sd * rng.gauss(0, 1))
            tray = rng.choice(TRAYS)
            around = [*before[-3:], tray]
            for kind, shown, corrected in (
                ("tray", true + tray, true),
                ("decimal", true * rng.choice((0.1, 10.0)), true),
                ("unit", true / LB_KG, true),
            ):
                tried[kind] += 1
                found = find_slip(shown, usual, around, typed=True)
                if found and abs(found.kg / corrected - 1) < 0.02:
                    hits[kind] += 1
                if found or is_outside(shown, usual):
                    asked[kind] += 1
            right += 1
            false += find_slip(true, usual, around, typed=True) is not None
            outside += is_outside(true, usual)
            before.append(true)
    return Rates(
        {k: hits[k] / n for k, n in tried.items()},
        {k: asked[k] / n for k, n in tried.items()},
        false / right,
        outside / right,
        right,
    )


def main(fish: int) -> None:
    """Measure and print Markdown."""
    found = rates(fish)
    print("| slip | asked about | with the right weight offered |\n|---|---|---|")
    for kind in found.hits:
        print(f"| {kind} | {found.asked[kind]:.1%} | {found.hits[kind]:.1%} |")
    print(
        f"\nOf {found.weighings} right weights {found.false_alarms:.2%} were taken for a slip and "
        f"{found.outside:.2%} were outside the 99 % interval."
    )


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 2000)

"""Times the bag plan, a change to it, the split, learning and labels; and how even, how good.

Run it on an idle machine: `python -m bench.pack`.
"""

import math
import statistics
import time
from collections.abc import Callable
from datetime import UTC, date, datetime
from itertools import pairwise
from random import Random

import numpy as np

from lepidos.core.fish.anatomy import FilletProfile, fillet_profile
from lepidos.core.pack.bag_plan import BagOf, Part, plan_bags
from lepidos.core.pack.bag_sizes import BagSize, LaidShape, Supply, take_from_stock
from lepidos.core.pack.even_split import even_split
from lepidos.core.pack.fair_split import Bag, greedy
from lepidos.core.pack.labels import label_content
from lepidos.core.pack.portions import equal_portions, mass_before
from lepidos.core.pack.profile_learning import Stretch, WeighedBag, learn_profile
from lepidos.exchange.labelpdf import labels_pdf
from lepidos.guide.library import load_guide

SIZES = [BagSize(0.15, 0.25), BagSize(0.20, 0.30), BagSize(0.25, 0.35), BagSize(0.28, 0.0)]
KINDS = ("pollack", "cod", "ling", "mackerel", "turbot", "plaice")


def timed(do: Callable[[], object], times: int = 5) -> float:
    """The median of some runs [ms]."""
    took = []
    for _ in range(times):
        began = time.perf_counter()
        do()
        took.append((time.perf_counter() - began) * 1000)
    return statistics.median(took)


def table(pieces: int, seed: int) -> list[Part]:
    """Fillets of one to five portions, and small pieces, of six kinds and four parties."""
    rng, parts = Random(seed), []
    for n in range(pieces):
        kin = (f"party {n % 4}", rng.choice(KINDS))
        thick = rng.uniform(0.008, 0.035)
        if rng.random() < 0.4:
            shape = LaidShape(rng.uniform(0.08, 0.14), rng.uniform(0.06, 0.12), thick)
            many = rng.randint(1, 5)
            parts += [
                Part(f"{n}:{k}", str(n), (*kin, "fillet"), 0.2, 1.0, shape) for k in range(many)
            ]
        else:
            kg = rng.uniform(0.01, 0.15)
            shape = LaidShape(rng.uniform(0.04, 0.2), rng.uniform(0.03, 0.06), thick)
            parts.append(
                Part(f"{n}:0", str(n), (*kin, rng.choice(("cheek", "collar"))), kg, kg / 0.2, shape)
            )
    return parts


def of(bag: BagOf) -> frozenset[str]:
    """The parts in a bag."""
    return frozenset(p.key for p in bag.parts)


def plan(parts: list[Part]) -> list[BagOf]:
    """Plan and give every bag its size."""
    bags = plan_bags(parts, SIZES).bags
    take_from_stock([[p.shape for p in b.parts] for b in bags], [Supply(s, 200.0) for s in SIZES])
    return list(bags)


def bag_plan() -> None:
    parts = table(400, 1)
    first = timed(lambda: plan(parts), 1)
    before = {of(b) for b in plan(parts)}
    made = plan_bags(parts, SIZES)
    print(f"400 pieces, {len(parts)} portions: {first:.0f} ms the first time, "
          f"{timed(lambda: plan(parts)):.0f} ms again; {len(made.bags)} bags, bound {made.least}")  # fmt: skip
    moved = []
    for n in range(0, 400, 10):
        after = {of(b) for b in plan([p for p in parts if p.piece != str(n)])}
        gone = {key for bag in before - after for key in bag}
        moved.append(len([k for k in gone if k.split(":")[0] != str(n)]))
    change = timed(lambda: plan([p for p in parts if p.piece != "7"]))
    print(f"one piece less: {change:.0f} ms; moves {statistics.median(moved):.0f} other portions of "
          f"{len(parts)} at the median, {max(moved)} at most")  # fmt: skip


def split() -> None:
    for number, parties, seconds in ((60, 4, 5.0), (240, 8, 15.0)):
        found = []
        for seed in range(5):
            rng = Random(seed)
            bags = [Bag(str(n), rng.choice(KINDS), rng.randint(60, 520)) for n in range(number)]
            shares = [1] * parties
            at_once = timed(lambda b=bags, s=shares: greedy(b, s), 1)  # type: ignore[misc]
            first, began = greedy(bags, shares), time.perf_counter()
            best = even_split(bags, shares, seconds)
            found.append((at_once, time.perf_counter() - began, first, best))
        print(f"{number} bags, {parties} parties: at once {statistics.median(f[0] for f in found):.0f} ms, "
              f"looked for {max(f[1] for f in found):.1f} s at most; proven {sum(f[3].proven for f in found)} of 5")  # fmt: skip
        for _, took, first, best in found:
            print(f"   worst {first.worst_g:.0f} -> {best.worst_g:.0f} g (bound {best.least_g:.0f}), "
                  f"in all {first.overall_g:.0f} -> {best.overall_g:.1f} g, {took:.1f} s")  # fmt: skip


def learning() -> None:
    guide = load_guide()
    cod = guide.species["cod"]
    profile = fillet_profile(guide.body_of(cod), guide.plan_of(cod), "fillet")
    at = 2 * np.asarray(profile.x) - 1
    rng = np.random.default_rng(11)
    off: dict[int, list[float]] = {0: [], 5: [], 20: [], 50: []}
    for _ in range(60):
        tilt, belly = rng.normal(0, (0.10, 0.08))
        factor = np.exp(tilt * at + belly * (3 * at**2 - 1) / 2)
        truth = FilletProfile(
            profile.x, profile.width, tuple(np.asarray(profile.thickness) * factor)
        )
        bags = []
        for _ in range(50):
            kg = float(rng.uniform(0.5, 1.2))
            cuts = [0.0, *(m / 0.5 for m in equal_portions(profile, kg, 0.5, 0.2).marks_m), 1.0]
            for a, b in pairwise(cuts):
                true = (mass_before(truth, b) - mass_before(truth, a)) * kg
                bags.append(WeighedBag(true * math.exp(rng.normal(0, 0.03)), (Stretch(a, b, kg),)))
        each = len(bags) // 50
        for fillets, errors in off.items():
            learned = learn_profile(profile, bags[: fillets * each])
            for p in equal_portions(learned.profile, 0.8, 0.5, 0.2).portions:
                true = (mass_before(truth, p.to_m / 0.5) - mass_before(truth, p.from_m / 0.5)) * 0.8
                errors.append(abs(true / p.kg - 1))
    print("median error of a portion after 0, 5, 20, 50 weighed fillets, 60 simulated crews: "
          + ", ".join(f"{np.median(e) * 100:.2f} %" for e in off.values()))  # fmt: skip
    print(f"learning from 200 bags: {timed(lambda: learn_profile(profile, bags[:200])):.0f} ms")


def labels() -> None:
    made_at = datetime(2026, 7, 14, 12, tzinfo=UTC)
    day = date(2026, 7, 14)
    rows = [
        label_content(
            species="pollack", cut="fillet", skin="on", servings=2, weight=f"{400 + n} g", caught=day,
            packed=day, best=date(2027, 3, 14), owner=f"Party {n}", code="K7M2QD",
            cautions=["Cook through or hold frozen: parasites.", "Slit the bag before thawing."],
        )
        for n in range(300)
    ]  # fmt: skip
    for size in ((100, 62), (62, 29)):
        began = time.perf_counter()
        pdf = labels_pdf(rows, made_at, size)
        print(
            f"300 labels of {size[0]} × {size[1]} mm: {time.perf_counter() - began:.2f} s, {len(pdf) / 1000:.0f} kB"
        )


if __name__ == "__main__":
    bag_plan()
    split()
    learning()
    labels()

"""The order of work: first answer's time, and what five seconds of annealing gain.

`python -m bench.order [seconds]`: twenty random days of 60 fish for one to four cutters; the ratio is
weighted lateness after the time over the dispatch rule's on the same day.
"""

import statistics
import sys
import time
from random import Random

from lepidos.core.schedule.model import Cutter, Job
from lepidos.core.schedule.scheduler import Bench

KINDS = ("slimy", "dark", "white", "white", "white")
# Minutes to wash and change between board classes (common practice, no source).
CHANGEOVERS = {
    (a, b): 60.0 * (4 if a in {"slimy", "dark"} else 2)
    for a in ("slimy", "dark", "white")
    for b in ("slimy", "dark", "white")
    if a != b
}


def random_day(seed: int, cutters: int, fish: int = 60) -> Bench:
    """A day whose table is about full: fish come over some hours and must be cut in time."""
    rng = Random(seed)
    paces = [rng.uniform(0.85, 1.3) for _ in range(cutters)]
    jobs = []
    minutes = [rng.uniform(3, 12) for _ in range(fish)]
    span = sum(minutes) / cutters
    for k, base in enumerate(minutes):
        kind = rng.choice(KINDS)
        release = rng.uniform(0, 0.6 * span)
        slack = rng.uniform(0.1, 0.6) * span * (0.6 if kind == "dark" else 1.0)
        jobs.append(
            Job(
                f"F{k}",
                release * 60,
                (release + base + slack) * 60,
                rng.choice((1.0, 1.0, 2.0, 4.0)),
                kind,
                tuple(base * 60 * p for p in paces),
            )
        )
    boards = [Cutter(f"cutter {k + 1}", last_kind="white") for k in range(cutters)]
    return Bench(jobs, boards, CHANGEOVERS)


def main(seconds: float) -> None:
    """Measure and print Markdown."""
    warm = random_day(0, 1, 12)
    warm.improve(
        warm.dispatch(), Random(0), 10
    )  # the process that searches loads the compiler once
    print(
        "| cutters | first answer, median ms | worst | lateness after / dispatch rule, median of 20 | best | worst | after / first answer |"
    )
    print("|---|---|---|---|---|---|---|")
    for cutters in (1, 2, 3, 4):
        times, ratios, against_first = [], [], []
        for seed in range(20):
            bench = random_day(seed, cutters)
            began = time.perf_counter()
            first = bench.dispatch()
            times.append((time.perf_counter() - began) * 1000)
            rule = bench.by_rule("tardiness")
            began = time.perf_counter()
            after = bench.improve(
                first, Random(seed), gone=lambda b=began: (time.perf_counter() - b) / seconds
            )
            if rule.lateness > 0:
                ratios.append(after.lateness / rule.lateness)
            if first.lateness > 0:
                against_first.append(after.lateness / first.lateness)
        print(
            f"| {cutters} | {statistics.median(times):.0f} | {max(times):.0f} | "
            f"{statistics.median(ratios):.2f} | {min(ratios):.2f} | {max(ratios):.2f} | "
            f"{statistics.median(against_first):.2f} |",
            flush=True,
        )


if __name__ == "__main__":
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 5.0)

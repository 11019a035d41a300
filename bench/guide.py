"""The guide's figures: `python -m bench.guide`. Plans, drawings, the whole table, search."""

import statistics
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, date, datetime
from pathlib import Path
from random import Random

from lepidos.exchange import svg
from lepidos.guide.library import load_guide
from lepidos.settings import Settings
from lepidos.stations.deck import landing, landing_check
from lepidos.stations.guide.planner import AskPlan, plan_fish
from lepidos.stations.guide.table_plan import plan_table
from lepidos.stations.trips import trips
from lepidos.web.app import make_context
from lepidos.web.drawings.cuts import plan_drawing, section_svg

SLIPS = ("mackrel", "snaper", "haliut", "fluke", "king", "stripd bass", "gadus", "turbott", "zzzz")


def timed(do: Callable[[], object], rounds: int = 15) -> tuple[float, float]:
    """Median and worst [ms]."""
    took = []
    for _ in range(rounds):
        began = time.perf_counter()
        do()
        took.append((time.perf_counter() - began) * 1000)
    return statistics.median(took), max(took)


def row(name: str, figures: tuple[float, float], more: str = "") -> None:
    """A row of the table."""
    print(f"| {name} | {figures[0]:.1f} ms | {figures[1]:.1f} ms | {more} |", flush=True)


def main() -> None:
    """Measure and print Markdown."""
    guide = load_guide()
    print("| what | median | worst of 15 | |\n|---|---|---|---|")
    plans, draws, sizes = [], [], []
    for key, one in guide.species.items():
        ask = AskPlan(key, one.longest_cm / 200)
        plans.append(timed(lambda a=ask: plan_fish(guide, a), 3))
        body = guide.body_of(one)
        draws.append(timed(lambda o=one, b=body: svg.fish_group(o, b), 3))
        planned = plan_fish(guide, ask)
        drawn = plan_drawing(guide, planned, planned.cut.steps[5], 1.5)
        sizes.append(
            len(str(drawn.fish)) + len(str(drawn.bones)) + sum(len(p) for _, p, _ in drawn.zones)
            + len(section_svg(guide, one, 1.5))
        )  # fmt: skip
    for name, found, more in (
        ("a plan with both ways, every species", plans, f"{len(plans)} species"),
        ("a drawing, made again", draws, f"largest {max(sizes) / 1000:.0f} kB"),
    ):
        row(name, (statistics.median(f[0] for f in found), max(f[1] for f in found)), more)
    many = dict(guide.species)
    for n in range(500 - len(many)):
        one = list(guide.species.values())[n % len(guide.species)]
        names = (f"{one.name} number {n}", f"name {n} of {one.key}")
        many[f"more_{n}"] = one.model_copy(update={"key": f"more_{n}", "other_names": names})
    large = replace(guide, species=many)
    found = [timed(lambda t=text: large.search(t), 5) for text in SLIPS]
    row(
        "search among 500 species",
        (statistics.median(f[0] for f in found), max(f[1] for f in found)),
    )
    with tempfile.TemporaryDirectory() as folder:
        ctx = make_context(Settings(data_dir=Path(folder), timezone="UTC", log_level="error"))
        today = datetime.now(UTC).date()
        order = trips.StartTrip(
            "Marram Lass", "boat", "Skarrow Quay", on_date=date.fromordinal(today.toordinal())
        )
        trip = trips.start_trip(ctx, "bench-trip", order).subject_id
        rng, kinds = Random(3), list(guide.species)
        for n in range(60):
            one = guide.one(rng.choice(kinds[:30]))
            fish = landing_check.LandFish(
                trip, one.key, one.longest_cm / 200, "total", states=("bled",)
            )
            landing.land_fish(ctx, f"bench-{n:06d}", fish)
        row("plan of a table of 60 fish", timed(lambda: plan_table(ctx, trip), 7))
        ctx.store.close()


if __name__ == "__main__":
    main()

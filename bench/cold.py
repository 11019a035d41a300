"""Cold histories of a day: `python -m bench.cold`. Sixty fish, 24 hours, one and three curves each."""

import statistics
import time
from random import Random

from lepidos.core.cold import cooling_body, ellipse, thermal_history
from lepidos.guide.library import load_guide

MEDIA = load_guide().media


def main() -> None:
    """Measure the first time, with every eigenvalue to be found, and again."""
    guide, rng = load_guide(), Random(4)
    species = [guide.one(k) for k in ("pollack", "cod", "ling", "mackerel", "plaice")]
    fish = []
    for k in range(60):
        one = species[k % len(species)]
        length_m = one.longest_cm / 100 * rng.uniform(0.4, 0.7)
        kg = one.length_weight.a * (length_m * 100) ** one.length_weight.b / 1000
        fish.append(cooling_body.cooling_body(guide.body_of(one), length_m, kg))
    air, ice = MEDIA["open_air"], MEDIA["drained_ice"]

    def day(curves: tuple[str, ...]) -> float:
        began = time.perf_counter()
        for body in fish:
            for which in curves:
                stays = [
                    thermal_history.Stay(3600, 17.0, getattr(air, which)),
                    thermal_history.Stay(23 * 3600, 0.0, getattr(ice, which)),
                ]
                thermal_history.core_history(body, 14.0, stays, 24 * 60)
        return (time.perf_counter() - began) * 1000

    for name, curves in (("one curve", ("h",)), ("three curves", ("h", "h_low", "h_high"))):
        firsts = []
        for _ in range(5):
            ellipse.modes.cache_clear()
            firsts.append(day(curves))
        again = [day(curves) for _ in range(9)]
        print(
            f"60 fish x 24 h, {name} each: first {statistics.median(firsts):.0f} ms "
            f"(worst {max(firsts):.0f}), then {statistics.median(again):.0f} ms"
        )


if __name__ == "__main__":
    main()

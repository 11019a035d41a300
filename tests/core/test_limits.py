"""What a model is given must be possible: each stated limit holds, on both sides."""

import math
import unittest
from collections.abc import Callable
from datetime import date

from lepidos.core.catch.length_weight import fit_length_weight, weight_from_length
from lepidos.core.cold import (
    conduction,
    cooling_body,
    freshness,
    ice_balance,
    spoilage,
    thermal_history,
)
from lepidos.core.errors import OutOfRange
from lepidos.core.freezer.storage_life import add_months
from lepidos.core.limits import require_length, require_weight
from lepidos.core.schedule.boards import Boards
from lepidos.core.schedule.deadline import deadline
from lepidos.core.schedule.model import Cutter, Job
from lepidos.guide.library import load_guide

GUIDE = load_guide()
Call = Callable[[float], object]


def core(name: str) -> Call:
    def call(value: float) -> object:
        at = {"size_m": 0.06, "start_c": 14.0, "medium_c": 0.0, "h": 120.0, "seconds": 600.0}
        at[name] = value
        return conduction.core_temperature("cylinder", **at)

    return call


def target(value: float) -> object:
    return conduction.time_to("cylinder", 0.06, 14.0, 0.0, 120.0, value)


def ice(name: str) -> Call:
    def call(value: float) -> object:
        at = {"aboard_kg": 50.0, "taken_kj": 1e3, "to_take_kj": 1e3, "ua_w_per_k": 1.5,
              "outside_c": 20.0, "passed_s": 3600.0, "to_come_s": 3600.0} | {name: value}  # fmt: skip
        return ice_balance.account(**at)

    return call


def job(name: str) -> Call:
    def call(value: float) -> object:
        at = {"release_s": 0.0, "deadline_s": 1e4, "weight": 1.0, "seconds": 600.0} | {name: value}
        seconds = (at.pop("seconds"),)
        return Boards([Job(key="P1", kind="white", seconds=seconds, **at)], [Cutter("Ines")])

    return call


def late(value: float) -> object:
    weights = GUIDE.bench.late_weights
    return deadline(
        None, lain_s=0, bled=True, forms_histamine=False, late_share=value, weights=weights
    )


def stay(name: str) -> Call:
    def call(value: float) -> object:
        at = {"start_c": 14.0, "every_s": 600.0, "h": 120.0, "seconds": 3600.0} | {name: value}
        body = cooling_body.CoolingBody("cylinder", 0.06)
        stays = [thermal_history.Stay(at["seconds"], 0.0, at["h"])]
        return thermal_history.history(body, at["start_c"], stays, at["every_s"])

    return call


COD = GUIDE.one("cod")
# what is called, what the refusal names, lowest, highest
LIMITS: list[tuple[Call, str, float, float]] = [
    (require_length, "length", 0.01, 20.0),
    (require_weight, "round weight", 1e-7, 50_000.0),
    (spoilage.spoilage_rate, "temperature", -60, 60),
    (spoilage.hours_until_chilled_by, "warmest air or water", -5, 50),
    (core("start_c"), "start temperature", -60, 60),
    (core("medium_c"), "medium temperature", -60, 60),
    (core("size_m"), "size", 0.001, 2),
    (core("h"), "heat transfer coefficient", 0.5, 20_000),
    (core("seconds"), "time", 0, 1e12),
    (target, "target temperature", -60, 60),
    (lambda v: conduction.roots("slab", v), "Biot number", 1e-4, 1e5),
    (lambda v: conduction.core_ratio("slab", 1.0, v), "Fourier number", 0, 1e6),
    (stay("start_c"), "start temperature", -60, 60),
    (stay("every_s"), "spacing", 1, 86_400),
    (stay("h"), "h", 0.5, 20_000),
    (lambda v: ice_balance.ice_to_cool(v, 10), "fish", 0, 1e6),
    (lambda v: ice_balance.ice_to_cool(10, v), "fish temperature", -2, 60),
    (lambda v: ice_balance.ice_to_cool(10, 20, v), "wanted temperature", -2, 60),
    (lambda v: ice_balance.ice_to_cool_fao(v, 10), "fish", 0, 1e6),
    (lambda v: ice_balance.ice_to_cool_fao(10, v), "fish temperature", -2, 60),
    (lambda v: ice_balance.box_melt(v, 20, 60), "UA of the box", 0, 1000),
    (lambda v: ice_balance.box_melt(1, v, 60), "outside temperature", -40, 60),
    (lambda v: ice_balance.box_melt(1, 20, v), "time", 0, 1e8),
    (ice("aboard_kg"), "ice aboard", 0, 1e5),
    (ice("taken_kj"), "heat taken", 0, 1e9),
    (ice("to_take_kj"), "heat to take", 0, 1e9),
    (lambda v: freshness.ice_age(1.0, None, v), "ice life", 0.1, 1000),
    (lambda v: freshness.ice_age(v, None, 10.0), "ice-days", 0, 1000),
    (lambda v: add_months(date(2026, 7, 14), int(v)), "months", 0, 240),
    (late, "share of the ice life", 0.01, 1),
    (job("release_s"), "P1 release", -1e7, 1e8),
    (job("deadline_s"), "P1 deadline", -1e7, 1e8),
    (job("weight"), "P1 weight", 0, 1e6),
    (job("seconds"), "P1 cutting time", 1, 86_400),
    (lambda v: weight_from_length(0.6, "total", COD, v), "level", 0.5, 0.999),
    (lambda v: fit_length_weight([v, 0.5, 0.6], [1.0, 1.5, 2.5]), "length", 1e-3, 20),
    (lambda v: fit_length_weight([0.4, 0.5, 0.6], [v, 1.5, 2.5]), "weight", 1e-5, 5000),
]


class LimitTest(unittest.TestCase):
    def refuses(self, call: Call, name: str, value: float) -> bool:
        try:
            call(value)
        except OutOfRange as error:
            return str(error).startswith(f"{name} ")
        return False

    def test_each_limit_is_where_it_is_stated(self) -> None:
        for call, name, low, high in LIMITS:
            # whole months, and the rest to a thousandth of the limit
            step = 1.0 if name == "months" else None
            for edge, beyond in ((low, -1), (high, 1)):
                out = edge + beyond * (step or (1e-3 * abs(edge) or 1e-9))
                with self.subTest(name=name, edge=edge):
                    self.assertFalse(self.refuses(call, name, edge))
                    self.assertTrue(self.refuses(call, name, out))

    def test_no_number_is_none(self) -> None:
        for call, name, _, _ in LIMITS:
            if name != "months":
                with self.subTest(name=name):
                    self.assertTrue(self.refuses(call, name, math.nan))


if __name__ == "__main__":
    unittest.main()

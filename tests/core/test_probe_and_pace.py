"""Probe readings taken into a curve; deadlines from the cold; minutes learned from finished fish."""

import unittest
from random import Random

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lepidos.core.cold.cooling_body import CoolingBody
from lepidos.core.cold.probe_update import (
    GRID,
    READING_SD_K,
    START_SD_K,
    TRANSFER_SD,
    Reading,
    Spell,
    assimilate,
    check_reading,
)
from lepidos.core.cold.thermal_history import core_history
from lepidos.core.errors import OutOfRange
from lepidos.core.schedule.cutting_time import CutBefore, learn
from lepidos.core.schedule.deadline import FAR_S, Ahead, deadline
from lepidos.guide.library import load_guide

ICE = Spell(4 * 3600, 0.0, 120.0, 60.0, 200.0)
BODY = CoolingBody("cylinder", 0.09)
H = 3600.0


WEIGHTS = load_guide().bench.late_weights


class ProbeTest(unittest.TestCase):
    def test_without_readings_the_middle_is_the_models_own_curve(self) -> None:
        found = assimilate(BODY, 14.0, [ICE], [])
        _, plain = core_history(BODY, 14.0, [ICE.stay(0.0)])
        # the mean over the range of transfer lies close to the curve of its middle
        self.assertLess(float(np.max(np.abs(np.array(found.celsius) - plain))), 0.35)
        self.assertAlmostEqual(found.high[0] - found.low[0], 2 * 1.645 * START_SD_K, delta=0.01)

    def test_a_reading_pulls_the_curve_and_narrows_it_most_near_itself(self) -> None:
        before = assimilate(BODY, 14.0, [ICE], [])
        at = before.seconds.index(7200.0)
        seen = before.celsius[at] - 1.0
        after = assimilate(BODY, 14.0, [ICE], [Reading(7200.0, seen)])
        self.assertTrue(seen < after.celsius[at] < before.celsius[at])
        self.assertLess(after.high[at] - after.low[at], before.high[at] - before.low[at])
        self.assertEqual(after.doubtful, ())

    def test_a_reading_at_the_start_weighs_as_much_as_it_is_surer(self) -> None:
        """Two normal measures of one temperature: their mean by precision, and its interval."""
        found = assimilate(BODY, 14.0, [ICE], [Reading(0.0, 15.0)])
        prior, seen = START_SD_K**-2, READING_SD_K**-2
        self.assertAlmostEqual(found.celsius[0], 14 + seen / (prior + seen), places=6)
        width = 2 * 1.645 * (prior + seen) ** -0.5
        self.assertAlmostEqual(found.high[0] - found.low[0], width, places=3)

    def test_two_readings_at_the_start_are_surer_than_one(self) -> None:
        found = assimilate(BODY, 14.0, [ICE], [Reading(0.0, 15.0), Reading(0.0, 15.0)])
        prior, seen = START_SD_K**-2, 2 * READING_SD_K**-2
        self.assertAlmostEqual(found.celsius[0], 14 + seen / (prior + seen), places=6)

    def test_many_readings_outweigh_the_model(self) -> None:
        # a fish that was 17 °C at the start though the sea is 14: the readings say so
        truth = core_history(BODY, 17.0, [ICE.stay(0.3)], 600.0)
        rng = Random(3)
        readings = [
            Reading(float(t), float(c) + rng.gauss(0, READING_SD_K))
            for t, c in list(zip(*truth, strict=True))[1:18]
        ]
        found = assimilate(BODY, 14.0, [ICE], readings, 600.0)
        off = np.abs(np.array(found.celsius) - truth[1])[1:18]
        self.assertLess(float(off.max()), 0.6)

    def test_the_curve_is_the_mean_over_every_start_and_transfer_by_what_they_explain(self) -> None:
        """Summed plainly over starts 0.05 K apart, where the model integrates them out."""
        seen, every = 1.5, 1800.0
        at = 4
        starts = np.arange(-8, 8.01, 0.05) * START_SD_K
        weight, sums = 0.0, np.zeros(9)
        for place in GRID:
            times, base = core_history(BODY, 14.0, [ICE.stay(place)], every)
            _, unit = core_history(BODY, 1.0, [ICE.stay(place, 0.0)], every)
            curves = base + starts[:, None] * unit
            likely = np.exp(
                -0.5 * (place / TRANSFER_SD) ** 2
                - 0.5 * (starts / START_SD_K) ** 2
                - 0.5 * ((seen - curves[:, at]) / READING_SD_K) ** 2
            )
            weight, sums = weight + likely.sum(), sums + likely @ curves
        found = assimilate(BODY, 14.0, [ICE], [Reading(float(times[at]), seen)], every)
        np.testing.assert_allclose(found.celsius, sums / weight, atol=0.01)

    def test_the_interval_covers_the_truth_as_often_as_it_says(self) -> None:
        """Truths drawn from the stated priors: 90 % intervals hold 85 to 95 % of them."""
        rng, inside, total = Random(11), 0, 0
        for _ in range(120):
            place = max(-1.5, min(1.5, rng.gauss(0, TRANSFER_SD)))
            start = 14 + rng.gauss(0, START_SD_K)
            times, core = core_history(BODY, start, [ICE.stay(place)], 1800.0)
            k = rng.randrange(2, len(times))
            reading = Reading(float(times[k]), float(core[k]) + rng.gauss(0, READING_SD_K))
            found = assimilate(BODY, 14.0, [ICE], [reading], 1800.0)
            for i in (k - 1, len(times) - 1):
                inside += found.low[i] <= core[i] <= found.high[i]
                total += 1
        self.assertTrue(0.85 <= inside / total <= 0.95, inside / total)

    def test_a_reading_no_model_explains_is_doubted_and_still_taken(self) -> None:
        found = assimilate(BODY, 14.0, [ICE], [Reading(3600.0, 25.0)])
        self.assertEqual([r.celsius for r in found.doubtful], [25.0])

    def test_what_cannot_be_inside_a_fish_is_refused(self) -> None:
        for celsius in (85.0, -40.0, float("nan")):
            with self.assertRaises(OutOfRange):
                check_reading(celsius)
        with self.assertRaises(OutOfRange):
            assimilate(BODY, 14.0, [ICE], [Reading(9e9, 4.0)])


class DeadlineTest(unittest.TestCase):
    def ahead(self, celsius: float, lain_s: float = H) -> Ahead:
        times = tuple(np.arange(0, 26 * H, 600.0).tolist())
        return Ahead(times, tuple(celsius for _ in times), lain_s, 10.0)

    def due(self, ahead: Ahead | None, **more: object) -> tuple[float, str]:
        order: dict[str, object] = {
            "lain_s": H,
            "bled": True,
            "forms_histamine": False,
            "late_share": 0.1,
            "weights": WEIGHTS,
        }
        found = deadline(ahead, **(order | more))  # type: ignore[arg-type]
        return found.seconds, found.why

    def test_a_share_of_the_ice_life_is_a_time(self) -> None:
        # at 0 °C a day is a day: a tenth of ten days is one day, an hour of it gone
        seconds, why = self.due(self.ahead(0.0))
        self.assertEqual(why, "spoils")
        self.assertAlmostEqual(seconds, 23 * H, delta=1)
        # at 10 °C everything goes four times as fast (Olley & Ratkowsky: (1 + 0.1·T)², memory)
        self.assertAlmostEqual(self.due(self.ahead(10.0))[0], 5 * H, delta=1)

    def test_beyond_the_curve_its_last_rate_goes_on(self) -> None:
        # six days at 0 °C are beyond the curve's 26 hours; at −10 °C nothing is used up
        cold = self.ahead(0.0)
        self.assertAlmostEqual(cold.spoils_at_s(0.6), 6 * 24 * H, delta=1)
        self.assertGreater(self.ahead(-10.0).spoils_at_s(0.1), 7 * 24 * H)

    def test_two_reasons_within_ten_minutes_weigh_as_the_heavier(self) -> None:
        # rest two days after landing weighs 1, its party's leaving 3: ten minutes apart, no more
        rest_in = 2 * 86_400 - H
        for later, weight in ((590.0, 3.0), (610.0, 1.0)):
            found = deadline(
                None, lain_s=H, bled=True, forms_histamine=False, late_share=0.1,
                weights=WEIGHTS, leaves_in_s=rest_in + later,
            )  # fmt: skip
            self.assertEqual((found.why, found.weight), ("rest", weight))

    def test_histamine_hours_press_before_the_ice_life(self) -> None:
        # 8 h above 4.4 °C in all when never above 21 °C (FDA guidance, chapter 7, memory)
        seconds, why = self.due(self.ahead(5.0), forms_histamine=True, late_share=0.9)
        self.assertEqual((why, round(seconds / H, 2)), ("histamine", 7.0))

    def test_unbled_presses_within_the_hour_and_a_party_before_it_leaves(self) -> None:
        self.assertEqual(self.due(None, bled=False, lain_s=0.25 * H), (0.75 * H, "unbled"))
        self.assertEqual(self.due(self.ahead(0.0), leaves_in_s=1800.0), (1800.0, "party"))

    def test_a_histamine_fish_whose_warmth_nobody_knows_gets_the_stricter_hours(self) -> None:
        self.assertEqual(self.due(None, forms_histamine=True), (3 * H, "histamine"))

    def test_a_forgotten_fish_is_late_but_not_beyond_all_bounds(self) -> None:
        self.assertEqual(self.due(None, lain_s=1e7)[0], -FAR_S)

    @given(st.floats(-1, 25), st.floats(0, 20))
    @settings(max_examples=40)
    def test_the_warmer_the_sooner(self, celsius: float, more: float) -> None:
        cool, warm = (
            self.due(self.ahead(c), forms_histamine=True)[0] for c in (celsius, celsius + more)
        )
        self.assertLessEqual(warm, cool + 1e-6)

    def test_two_reasons_at_once_weigh_as_the_heavier(self) -> None:
        found = deadline(
            None,
            lain_s=0.0,
            bled=False,
            forms_histamine=False,
            late_share=0.1,
            leaves_in_s=H,
            weights=WEIGHTS,
        )
        self.assertEqual(found.weight, WEIGHTS["party"])
        with self.assertRaises(OutOfRange):
            deadline(
                None, lain_s=0.0, bled=True, forms_histamine=False, late_share=0.0, weights=WEIGHTS
            )


class FarTest(unittest.TestCase):
    def test_what_waits_unpressed_is_two_days_and_nothing_is_further_than_a_week(self) -> None:
        self.assertEqual(FAR_S, 7 * 24 * 3600)


class PaceTest(unittest.TestCase):
    def test_the_guides_minutes_grow_with_the_meats_area(self) -> None:
        pace = load_guide().plans["round"].pace
        assert pace is not None
        # base + per_kg · kg^⅔ of round.toml (common practice, no source)
        self.assertAlmostEqual(pace.minutes(8.0), 3.0 + 1.6 * 4.0)
        with self.assertRaises(OutOfRange):
            pace.minutes(0.0)

    def test_with_nothing_finished_the_prior_stands(self) -> None:
        pace = learn([])
        self.assertEqual((pace.factor("Ines", "cod"), pace.learned_from), (1.0, 0))

    def test_a_quick_cutter_and_a_slow_species_are_told_apart(self) -> None:
        rng, cuts = Random(5), []
        who, what = {"Ines": 0.8, "Tobias": 1.3}, {"cod": 1.0, "plaice": 1.4}
        for _ in range(200):
            name, kind = rng.choice(list(who)), rng.choice(list(what))
            seconds = 400 * who[name] * what[kind] * np.exp(rng.gauss(0, 0.2))
            cuts.append(CutBefore(name, kind, float(seconds), 400.0))
        pace = learn(cuts)
        for name in who:
            for kind in what:
                wanted = who[name] * what[kind]
                self.assertAlmostEqual(pace.factor(name, kind) / wanted, 1.0, delta=0.12)
        # one nobody has seen gets what is common to all
        self.assertAlmostEqual(pace.factor("Piet", "ling"), np.exp(pace.common))

    def test_one_fish_moves_the_expectation_a_little_only(self) -> None:
        pace = learn([CutBefore("Ines", "cod", 1200.0, 400.0)])
        self.assertTrue(1.0 < pace.factor("Ines", "cod") < 3.0)
        # by the normal model: effect = ln 3 · (prior variance) / (prior variance + fish variance)
        variance = 0.35**2 + 0.25**2 + 0.25**2
        self.assertAlmostEqual(
            pace.factor("Ines", "cod"), 3 ** (variance / (variance + 0.30**2)), places=9
        )

    def test_a_pause_is_no_fish(self) -> None:
        self.assertEqual(
            learn([CutBefore("Ines", "cod", s, 400.0) for s in (0.0, 5.0, 9 * H)]).learned_from, 0
        )


if __name__ == "__main__":
    unittest.main()

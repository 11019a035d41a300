"""What late and missing steps mean, and a look over."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from lepidos.core.catch.handling import STATES, advise
from lepidos.core.cold.freshness import ice_age, quality_index
from lepidos.core.errors import OutOfRange
from lepidos.guide.library import load_guide

H = 3600.0
WELL = {"dispatched": 0.0, "bled": 60.0, "gills_out": 600.0, "gutted": 600.0, "iced": 300.0}


class AdviceTest(unittest.TestCase):
    def said(
        self, states: dict[str, float], lying: str, lain_s: float, **more: object
    ) -> list[str]:
        found = advise(states, lying, more.pop("traits", ()), lain_s, **more)
        return [f"{a.urgency}: {a.text}" for a in found]

    def test_each_late_or_missing_step_changes_the_advice(self) -> None:
        without = {k: v for k, v in WELL.items() if k != "bled"}
        gut_in = {"bled": 60.0}
        cases = [
            ({}, "", 60.0, (), "now: Dispatch it and bleed it at once."),
            ({"dispatched": 5.0}, "", 60.0, (), "now: Bleed it at once."),
            (without, "iced", 2 * H, (), "now: Not bled: expect pink meat; put it first."),
            (WELL | {"bled": 40 * 60.0}, "iced", 2 * H, (), "watch: Bled 40 min after landing: some pink meat is likely."),
            (gut_in, "iced", 3 * H, (), "watch: Gut in for 3 h: take gut and gills out."),
            (gut_in, "iced", 9 * H, (), "now: Gills in overnight: take them out."),
            (WELL, "meltwater", 5 * H, (), "now: Lying in meltwater: drain the box."),
            (WELL, "unpacked", 5 * H, (), "now: Out of the ice: put it back."),
            (WELL, "", 20 * 60.0, (), "watch: Not on ice yet, 20 min after landing: ice it."),
            (WELL, "", 20 * 60.0, ("histamine",), "now: Not on ice yet, 20 min after landing: ice it."),
            (WELL, "", 2 * H, (), "now: Not on ice yet, 2 h after landing: ice it."),
            (WELL, "", 59 * 60.0, (), "watch: Not on ice yet, 59 min after landing: ice it."),
            (WELL, "", H, (), "now: Not on ice yet, 60 min after landing: ice it."),
            (WELL, "iced", 50 * H, (), "watch: Two days on ice: rested enough, cut it."),
        ]  # fmt: skip
        for states, lying, lain_s, traits, wanted in cases:
            with self.subTest(wanted=wanted):
                self.assertIn(wanted, self.said(states, lying, lain_s, traits=traits))

    def test_a_rest_on_ice_is_spoken_of_when_it_is_worth_it(self) -> None:
        warm = self.said(WELL, "iced", H, core_c=8.0)
        cold = self.said(WELL, "iced", 6 * H, core_c=0.5)
        self.assertIn("good: Still warm inside; a cold fillet is firmer and easier to trim.", warm)
        self.assertTrue(any("rest gutted on ice up to about two days" in text for text in cold))

    def test_a_well_kept_fish_in_the_first_hours_presses_in_nothing(self) -> None:
        self.assertEqual(self.said(WELL, "iced", H), [])

    def test_a_bought_fish_is_neither_dispatched_nor_bled(self) -> None:
        for minutes in (0, 5, 20, 300, 3000):
            said = " ".join(self.said({}, "", minutes * 60.0, bought=True)).lower()
            self.assertNotRegex(said, "dispatch|bleed|bled|landing")
            self.assertIn("gut and gills out first", said)
        self.assertIn("since you noted it: ice it", said)
        self.assertEqual(self.said({"gutted": 0.0, "gills_out": 0.0}, "iced", H, bought=True), [])

    def test_a_fish_without_its_head_has_no_gills_and_is_not_bled(self) -> None:
        for hours in (0.1, 3, 20):
            said = " ".join(self.said({"headed": 0.0}, "iced", hours * H)).lower()
            self.assertNotRegex(said, "dispatch|ble[ed]d|gill|gut in")

    @given(
        st.dictionaries(st.sampled_from(list(STATES)), st.floats(0, 1e5)),
        st.sampled_from(["", *[k for k, s in STATES.items() if s.medium]]),
        st.floats(0, 1e7),
        st.one_of(st.none(), st.floats(-5, 40)),
    )
    def test_what_presses_most_comes_first(self, states, lying, lain_s, core_c) -> None:
        rank = {"now": 0, "watch": 1, "good": 2}
        found = [rank[a.urgency] for a in advise(states, lying, (), lain_s, core_c)]
        self.assertEqual(found, sorted(found))

    def test_a_time_that_cannot_be_is_refused(self) -> None:
        with self.assertRaises(OutOfRange):
            advise({}, "", (), -1.0)


class LookTest(unittest.TestCase):
    marks = load_guide().marks

    def test_there_are_five_marks_each_from_as_caught_to_worst_and_drawn(self) -> None:
        self.assertEqual(list(self.marks), ["gills", "eyes", "flesh", "smell", "blood"])
        for mark in self.marks.values():
            points = [g.points for g in mark.grades]
            self.assertEqual(points, list(range(len(points))), mark.key)
            self.assertTrue(all(g.sketch for g in mark.grades), mark.key)

    def test_points_add_up(self) -> None:
        # The method's arithmetic (Bremner 1985; Larsen et al. 1992, memory): a plain sum
        found = quality_index({"gills": 1, "eyes": 2, "flesh": 0}, self.marks)
        assert found is not None
        most = sum(self.marks[k].worst for k in ("gills", "eyes", "flesh"))
        self.assertEqual((found.points, found.most, found.seen), (3, most, 3))
        self.assertIsNone(quality_index({}, self.marks))
        worst = quality_index({k: m.worst for k, m in self.marks.items()}, self.marks)
        assert worst is not None
        self.assertEqual(worst.share, 1.0)
        with self.assertRaises(OutOfRange):
            quality_index({"gills": 4}, self.marks)

    def test_the_index_rises_in_a_straight_line_with_days_on_ice(self) -> None:
        ages = []
        for eyes in (0, 1, 2):
            found = quality_index({"eyes": eyes}, self.marks)
            age = ice_age(None, found, 12.0)
            assert age is not None
            ages.append(age.days)
        self.assertEqual(ages, [0.0, 6.0, 12.0])

    def test_eye_and_thermometer_are_weighed_by_how_sure_they_are(self) -> None:
        every = quality_index(dict.fromkeys(self.marks, 1), self.marks)
        one = quality_index({"eyes": 1}, self.marks)
        assert every is not None
        alone = ice_age(1.0, None, 12.0)
        both = ice_age(1.0, every, 12.0)
        weak = ice_age(1.0, one, 12.0)
        assert alone
        assert both
        assert weak
        self.assertTrue(alone.days == 1.0 < both.days < every.share * 12)
        self.assertLess(both.sd, alone.sd)
        self.assertLess(weak.days, both.days)
        self.assertIsNone(ice_age(None, None, 12.0))
        self.assertEqual(ice_age(20.0, None, 12.0).left_days, 0.0)  # type: ignore[union-attr]


if __name__ == "__main__":
    unittest.main()

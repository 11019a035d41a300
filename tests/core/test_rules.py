"""Rule cards: sizes with their measuring error, seasons over the new year, counts."""

import math
import unittest
from dataclasses import replace
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from lepidos.core.catch.rule_cards import (
    MEASURING_SD_CM,
    RuleCard,
    check_card,
    in_season,
    is_stale,
    size_verdict,
    tallies,
)
from lepidos.core.errors import OutOfRange
from lepidos.guide.library import load_guide

TODAY = date(2026, 7, 14)
CARD = RuleCard("pollack", "Skarrow Bay", "invented for this test", date(2026, 7, 1), min_cm=50.0)
GUIDE = load_guide()
POLLACK, MACKEREL = GUIDE.one("pollack"), GUIDE.one("mackerel")


class CardTest(unittest.TestCase):
    def test_a_card_that_can_be_has_no_problem(self) -> None:
        self.assertEqual(check_card(CARD, TODAY), {})

    def test_each_wrong_field_is_named(self) -> None:
        cases: list[tuple[dict[str, object], str]] = [
            ({"min_cm": 60.0, "max_cm": 50.0}, "max_cm"),
            ({"min_cm": 0.2}, "min_cm"),
            ({"max_cm": 900.0}, "max_cm"),
            ({"area": " "}, "area"),
            ({"source": ""}, "source"),
            ({"per_person": -1}, "per_person"),
            ({"possession": 10_001}, "possession"),
            ({"season_from": (6, 1)}, "season_to"),
            ({"season_from": (2, 30), "season_to": (3, 1)}, "season_from"),
            ({"length_type": "elbow"}, "length_type"),
            ({"fillet_at_sea": "perhaps"}, "fillet_at_sea"),
            ({"checked_on": date(2026, 7, 15)}, "checked_on"),
        ]
        for change, field in cases:
            with self.subTest(change=change):
                self.assertEqual(list(check_card(replace(CARD, **change), TODAY)), [field])

    def test_a_season_may_run_over_the_new_year(self) -> None:
        winter = replace(CARD, season_from=(11, 1), season_to=(2, 29))
        summer = replace(CARD, season_from=(6, 1), season_to=(8, 31))
        self.assertTrue(in_season(winter, date(2026, 12, 31)))
        self.assertTrue(in_season(winter, date(2027, 2, 28)))
        self.assertFalse(in_season(winter, TODAY))
        self.assertTrue(in_season(summer, date(2026, 8, 31)))
        self.assertFalse(in_season(summer, date(2026, 9, 1)))
        self.assertTrue(in_season(CARD, TODAY))

    def test_a_card_older_than_a_season_asks_to_be_checked(self) -> None:
        self.assertFalse(is_stale(CARD, TODAY))
        self.assertTrue(is_stale(CARD, date(2026, 11, 1)))


class SeasonEdgeTest(unittest.TestCase):
    def test_both_edges_of_a_season_over_the_new_year_are_in_it(self) -> None:
        winter = replace(CARD, season_from=(11, 1), season_to=(2, 15))
        for day, inside in (
            (date(2026, 10, 31), False),
            (date(2026, 11, 1), True),
            (date(2027, 2, 15), True),
            (date(2027, 2, 16), False),
        ):
            self.assertEqual(in_season(winter, day), inside, day)


class SizeTest(unittest.TestCase):
    def stand(self, cm: float, card: RuleCard = CARD) -> str:
        found = size_verdict(card, cm / 100, "total", POLLACK)
        assert found is not None
        return found.stand

    def test_within_measuring_error_of_a_limit_it_is_said_to_be_so(self) -> None:
        error = 1.96 * MEASURING_SD_CM
        self.assertEqual(self.stand(50 - error - 0.01), "under")
        self.assertEqual(self.stand(50 - error + 0.01), "near")
        self.assertEqual(self.stand(50 + error - 0.01), "near")
        self.assertEqual(self.stand(50 + error + 0.01), "within")

    def test_a_largest_size_works_the_other_way(self) -> None:
        slot = replace(CARD, max_cm=70.0)
        self.assertEqual([self.stand(cm, slot) for cm in (45, 60, 70, 75)],
                         ["under", "within", "near", "over"])  # fmt: skip

    def test_fork_and_total_length_are_not_mixed_up(self) -> None:
        # the guide's mackerel: total = 1.08 × fork (memory); 36 cm fork is about 38.9 cm total
        card = replace(CARD, species="mackerel", min_cm=37.0, length_type="total")
        found = size_verdict(card, 0.36, "fork", MACKEREL)
        assert found is not None
        ratio = MACKEREL.total_per_fork
        self.assertTrue(found.converted)
        self.assertAlmostEqual(found.length_cm, 36 * ratio.mean)
        self.assertGreater(found.sd_cm, MEASURING_SD_CM)
        back = size_verdict(replace(card, length_type="fork"), 0.36 * ratio.mean, "total", MACKEREL)
        assert back is not None
        self.assertAlmostEqual(back.length_cm, 36.0)
        with self.assertRaises(OutOfRange):
            size_verdict(replace(card, length_type="mantle"), 0.36, "fork", MACKEREL)

    def test_the_spread_of_both_ratios_goes_into_a_change_by_way_of_the_total(self) -> None:
        card = replace(CARD, species="mackerel", min_cm=30.0, length_type="standard")
        found = size_verdict(card, 0.36, "fork", MACKEREL)
        assert found is not None
        fork, standard = MACKEREL.total_per["fork"], MACKEREL.total_per["standard"]
        self.assertAlmostEqual(found.length_cm, 36 * fork.mean / standard.mean)
        spread = math.hypot(fork.sd / fork.mean, standard.sd / standard.mean)
        measured = MEASURING_SD_CM * fork.mean / standard.mean
        self.assertAlmostEqual(found.sd_cm, math.hypot(found.length_cm * spread, measured))

    def test_a_card_without_sizes_says_nothing_of_them(self) -> None:
        self.assertIsNone(size_verdict(replace(CARD, min_cm=None), 0.5, "total", POLLACK))


class TallyTest(unittest.TestCase):
    card = replace(CARD, per_person=2, per_boat=5, possession=4)

    def test_counts_by_person_boat_and_over_the_days(self) -> None:
        found = tallies(
            self.card, ["Ines", "Ines", "Piet", ""], {"Ines": 3}, ["Ines", "Piet", "Maud"]
        )
        self.assertEqual({t.who: t.kept for t in found.persons},
                         {"Ines": 2, "Piet": 1, "Maud": 0, "not noted": 1})  # fmt: skip
        assert found.boat is not None
        self.assertEqual((found.boat.kept, found.boat.left), (4, 1))
        held = {t.who: (t.kept, t.left) for t in found.possession}
        self.assertEqual(held, {"Ines": (5, -1), "Piet": (1, 3), "Maud": (0, 4)})
        self.assertEqual([t.who for t in found.full], ["Ines", "Ines"])

    @given(st.lists(st.sampled_from(["", "Ines", "Piet"]), max_size=40))
    def test_persons_add_up_to_the_boat(self, caught: list[str]) -> None:
        found = tallies(self.card, caught, {}, ["Ines"])
        assert found.boat is not None
        self.assertEqual(sum(t.kept for t in found.persons), found.boat.kept)
        self.assertEqual(found.boat.kept, len(caught))


if __name__ == "__main__":
    unittest.main()

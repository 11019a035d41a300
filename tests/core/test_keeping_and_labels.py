"""Best-by dates, bag codes that catch slips, and text that stays on its line."""

import unittest
from datetime import date
from random import Random

from hypothesis import given
from hypothesis import strategies as st

from lepidos.core.errors import BadInput, OutOfRange
from lepidos.core.freezer.storage_life import add_months, best_by
from lepidos.core.pack import labels
from lepidos.guide.library import load_guide

GUIDE = load_guide()
codes = st.integers(0, 2**32).map(lambda seed: labels.make_code(Random(seed)))


class KeepingTest(unittest.TestCase):
    def test_fat_classes_keep_as_the_chart_says(self) -> None:
        # FoodSafety.gov cold food storage chart (memory): lean 6 to 8 months, fatty 2 to 3
        for species in GUIDE.species.values():
            low, high = {"lean": (6, 8), "fatty": (2, 3), "medium": (3, 6)}[species.keeping.fat]
            with self.subTest(species=species.key):
                self.assertTrue(low <= species.keeping.months <= high)

    def test_best_by_counts_calendar_months(self) -> None:
        self.assertEqual(
            best_by(date(2026, 7, 14), GUIDE.one("pollack").keeping), date(2027, 3, 14)
        )
        self.assertEqual(add_months(date(2027, 11, 30), 3), date(2028, 2, 29))
        with self.assertRaises(OutOfRange):
            add_months(date(2026, 1, 1), -1)


class CodeTest(unittest.TestCase):
    @given(codes)
    def test_reads_back_however_it_is_written(self, code: str) -> None:
        shown = labels.show_code(code)
        for text in (code, shown, shown.lower(), f" {shown} ", f"http://boat.local:8000/b/{code}/"):
            self.assertEqual(labels.read_code(text), code)

    @given(codes, st.integers(0, 5), st.sampled_from(labels.ALPHABET))
    def test_one_wrong_sign_is_always_caught(self, code: str, place: int, sign: str) -> None:
        if code[place] == sign:
            return
        with self.assertRaisesRegex(BadInput, "One character"):
            labels.read_code(code[:place] + sign + code[place + 1 :])

    @given(codes, st.integers(0, 4))
    def test_two_swapped_neighbours_are_always_caught(self, code: str, place: int) -> None:
        if code[place] == code[place + 1]:
            return
        swapped = code[:place] + code[place + 1] + code[place] + code[place + 2 :]
        with self.assertRaisesRegex(BadInput, "One character"):
            labels.read_code(swapped)

    def test_what_is_no_code_is_told_so(self) -> None:
        for text in ("", "K7M", "O0I1AE", "K7M-2QDX", "=cmd()", "9" * 10_000):
            with self.subTest(text=text[:10]), self.assertRaisesRegex(BadInput, "six characters"):
                labels.read_code(text)


class ContentTest(unittest.TestCase):
    def content(self, **changes: object) -> labels.LabelContent:
        values: dict[str, object] = {
            "species": "pollack",
            "cut": "fillet",
            "skin": "on",
            "servings": 2,
            "weight": "458 g",
            "caught": date(2026, 7, 14),
            "packed": date(2026, 7, 14),
            "best": date(2027, 3, 14),
            "owner": "Tolland",
            "code": "K7M2QD",
            "cautions": ("Slit the bag.",),
        }
        return labels.label_content(**(values | changes))

    def test_says_what_whose_and_until_when(self) -> None:
        label = self.content()
        self.assertEqual(label.title, "pollack fillet")
        self.assertEqual(label.details, "skin on · 2 servings · 458 g")
        self.assertEqual(label.best_by, "Best by 14 Mar 2027")
        self.assertEqual(label.link, "K7M2QD")
        self.assertEqual(self.content(servings=1).details, "skin on · 1 serving · 458 g")

    def test_link_is_an_address_when_there_is_one(self) -> None:
        self.assertEqual(self.content(link_base="http://boat/").link, "http://boat/b/K7M2QD")

    @given(st.text(max_size=300))
    def test_any_name_stays_on_one_printable_line(self, name: str) -> None:
        owner = self.content(owner=name).owner
        self.assertLessEqual(len(owner), labels.MAX_OWNER_LENGTH)
        self.assertNotRegex(owner, r"[\x00-\x1f\x7f\u2028\u2029\u202e]")

"""The quick run picks the tests of what changed, and says which it leaves out."""

import unittest

from scripts import quick


class TouchedTest(unittest.TestCase):
    def test_a_module_brings_the_tests_that_import_it(self) -> None:
        self.assertIn("tests.web.test_access", quick.touched(["lepidos/stations/boat/codes.py"]))
        self.assertIn("tests.core.test_ellipse", quick.touched(["lepidos/core/cold/ellipse.py"]))
        self.assertNotIn(
            "tests.core.test_ellipse", quick.touched(["lepidos/store/file/durable.py"])
        )

    def test_a_changed_test_comes_by_itself_and_a_file_of_the_guide_brings_the_guides(self) -> None:
        self.assertEqual(quick.touched(["tests/core/test_trial.py"])[:1], ["tests.core.test_trial"])
        self.assertIn(
            "tests.guide.test_problems", quick.touched(["lepidos/guide/species/cod.toml"])
        )

    def test_what_takes_too_long_is_left_and_named(self) -> None:
        chosen, left = quick.within(["tests.test_quick", "tests.core.test_trial"])
        self.assertIn("tests.test_quick.TouchedTest", chosen)
        self.assertFalse(set(chosen) & set(left))
        long = quick.BUDGET_S
        try:
            quick.BUDGET_S = 0.5 * quick.USUAL_S
            self.assertEqual(quick.within(["tests.test_quick"])[0], [])
        finally:
            quick.BUDGET_S = long


if __name__ == "__main__":
    unittest.main()

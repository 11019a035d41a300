"""The list of figures in the docs is the one in the code: nobody changes one without seeing both."""

import re
import unittest
from pathlib import Path

from scripts.constants import page

DOCS = Path(__file__).parents[1] / "docs"
BOUND = re.compile(r"\b_?(MAX|MIN|SHORTEST|COLDEST|WARMEST|EARLIEST|LATEST|LONG|SHOWN|KEPT|PAGE)")


class ConstantsTest(unittest.TestCase):
    def test_the_docs_have_every_figure_as_it_is(self) -> None:
        listed = (DOCS / "constants.md").read_text("utf-8")
        self.assertEqual(listed.splitlines(), page().splitlines())

    def test_what_the_core_reckons_with_has_words_beside_it(self) -> None:
        plain = []
        for row in page().splitlines():
            cells = re.split(r"(?<!\\) \| ", row.strip("| "))
            if row.startswith("| core.") and len(cells) == 2 and not BOUND.search(cells[0]):
                plain.append(cells[0])
        # units, names of seconds, grids and tables that their own module explains
        self.assertLessEqual(len(plain), 20, plain)


if __name__ == "__main__":
    unittest.main()

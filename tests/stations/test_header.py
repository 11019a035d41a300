"""The header's own words: what was done last, in short."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from lepidos.stations.header.header import MAX_LAST_LENGTH, in_short


class LastTest(unittest.TestCase):
    def test_only_what_was_done_is_said_not_what_follows_of_it(self) -> None:
        for said, short in (
            ("P3 landed", "P3 landed"),
            ("PL1 belly fillet, blind side: 74 g", "PL1 belly fillet, blind side: 74 g"),
            ("P1: ear stones kept. Rinse and dry them; note the code.", "P1: ear stones kept"),
            ("P3: worms, 2, belly flap. Cut them out.", "P3: worms, 2, belly flap"),
            ("chest, bottom: 86401 readings, 2 Oct 2026 to 1 Dec 2026; 36 raw holds proved",
             "chest, bottom: 86401 readings"),
            ("Is it a pollack? It lies on the board", "Is it a pollack"),
            ("Kept at −18.5 °C", "Kept at −18.5 °C"),
        ):  # fmt: skip
            self.assertEqual(in_short(said), short)

    @given(st.text(st.sampled_from("ab,.;: "), max_size=200))
    def test_it_is_the_beginning_of_what_was_said(self, said: str) -> None:
        short = in_short(said)
        self.assertTrue(said.startswith(short))
        self.assertNotIn("; ", short)
        if len(short) > MAX_LAST_LENGTH:
            self.assertNotIn(", ", short)

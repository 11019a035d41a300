"""Every slip that a door accepts, and every page after it: the sweep of `tests/web` in full.

    .venv/bin/python -m bench.every_page

Lands every species at its usual length, at a tenth and ten times of it, in the other unit, at its
shortest and longest, then asks for every page of the trip, of each fish and of the guide; and tries
every value of an own fish and an own plan replaced by hard ones.
"""

import sys
import tomllib
import unittest

from lepidos.guide.library import load_guide
from lepidos.guide.own import text_of
from tests.web.sweep import SweepTest, lengths_cm, spoiled


class FullSweep(SweepTest):
    """Run as tests; the counts are printed."""

    def test_every_species_at_every_length(self) -> None:
        """All 94 fish."""
        landed = pages = 0
        for one in load_guide().species.values():
            trip = self.start_cold_trip()
            for cm in lengths_cm(one):
                landed += bool(self.land_by_api(trip, one.key, cm))
            pages += self.assert_all_pages_answer(trip, [one.key])
        print(f"{landed} landings at their edges, {pages} pages, all answered 200")

    def test_every_value_of_an_own_fish_and_plan(self) -> None:
        """A round fish, a flatfish, and their plans."""
        trip, tried, kept = self.start_cold_trip(), 0, 0
        for kind, key in (("species", "cod"), ("species", "plaice"), ("plan", "round")):
            text = text_of(kind, key)
            name = f"odd_{key}"
            for what, toml in spoiled(tomllib.loads(text)):
                fresh = toml.replace('code = "C"', 'code = "QC"').replace(
                    'code = "PL"', 'code = "QP"'
                )
                answer = self.form("/guide/own", kind=kind, own_key=name, toml=fresh)
                tried += 1
                self.assertIn(answer.status_code, {303, 422}, what)
                if answer.status_code == 303 and kind == "species":
                    kept += 1
                    self.assertEqual(self.client.get(f"/guide/{name}").status_code, 200, what)
                    self.land_by_api(trip, name, 3.0)
        pages = self.assert_all_pages_answer(trip)
        print(f"{tried} spoiled texts, {kept} of them fit, {pages} pages, all answered 200")


if __name__ == "__main__":
    result = unittest.TextTestRunner(verbosity=0).run(
        unittest.defaultTestLoader.loadTestsFromTestCase(FullSweep)
    )
    sys.exit(not result.wasSuccessful())

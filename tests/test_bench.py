"""What the benchmarks measure on must be what the app works with."""

import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

from bench.season import fill
from lepidos.store.deck import fishes
from lepidos.store.file.database import Store
from lepidos.store.pack import bags
from lepidos.store.trips import trips


class SeasonTest(unittest.TestCase):
    def test_the_large_file_is_one_of_todays(self) -> None:
        with TemporaryDirectory() as folder:
            path = Path(folder) / "lepidos.sqlite"
            newest = fill(path, fish=160, bags=40)
            store = Store.open(path)
            try:
                with store.reading():
                    self.assertEqual((fishes.count(), bags.count(), trips.count()), (160, 40, 2))
                    rows = fishes.of_trip(newest)
                    self.assertEqual(len(rows), 80)
                    self.assertEqual(len(fishes.facts_of_trip(newest)), 80)
                    self.assertTrue(all(now.length_m > 0.2 for _, now in rows))
            finally:
                store.close()


if __name__ == "__main__":
    unittest.main()

"""The app ends when it is told to, whatever its searching process is at."""

import multiprocessing
import unittest

from tests.web.client import WebTest


class EndTest(WebTest):
    def test_a_search_that_goes_on_does_not_hold_up_the_end(self) -> None:
        trip = self.start_trip()
        for length in range(50, 62):
            self.form(f"/live{trip}/fish", species="pollack", length=str(length))
        self.client.get(f"{trip}/table")
        (worker,) = multiprocessing.active_children()
        self.client.__exit__(None, None, None)
        self.assertFalse(worker.is_alive())
        self.client.__enter__()  # the test's own clearing up closes it once more


if __name__ == "__main__":
    unittest.main()

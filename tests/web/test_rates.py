"""How much a device may ask for: the bucket by itself, and devices at the app's door."""

import unittest
from unittest.mock import patch

from hypothesis import given
from hypothesis import strategies as st

from lepidos.web.shell import rates
from lepidos.web.shell.rates import A_SECOND, AT_ONCE, MAX_KNOWN, STREAMS, Rates
from tests.web.test_access import BoatTest


class BucketTest(unittest.TestCase):
    def setUp(self) -> None:
        self.now = 1000.0
        self.rates = Rates(lambda: self.now)

    def may(self, who: str = "a", role: str = "bench") -> bool:
        return self.rates.wait_s(who, role) == 0

    def test_so_many_at_once_then_as_they_come_back(self) -> None:
        self.assertTrue(all(self.may() for _ in range(int(AT_ONCE["bench"]))))
        wait = self.rates.wait_s("a", "bench")
        self.assertAlmostEqual(wait, 1 / A_SECOND["bench"])
        self.assertTrue(self.may("b"))  # another device is not held up
        self.now += wait + 1e-6
        self.assertTrue(self.may())
        self.assertFalse(self.may())

    @given(st.lists(st.floats(0, 60), min_size=1, max_size=200))
    def test_never_more_than_the_bucket_and_what_came_back(self, gaps: list[float]) -> None:
        now = [0.0]
        bucket = Rates(lambda: now[0])
        let_in = 0
        for gap in gaps:
            now[0] += gap
            let_in += sum(bucket.wait_s("a", "stranger") == 0 for _ in range(20))
        self.assertLessEqual(let_in, AT_ONCE["stranger"] + now[0] * A_SECOND["stranger"] + 1e-6)

    def test_made_up_addresses_are_forgotten_again(self) -> None:
        for n in range(MAX_KNOWN + 10):
            self.rates.wait_s(f"192.168.{n}", "stranger")
        self.assertEqual(len(self.rates._left), MAX_KNOWN)

    def test_streams_are_counted_and_given_back(self) -> None:
        for _ in range(STREAMS["guest"]):
            self.assertTrue(self.rates.open_stream("a", "guest"))
        self.assertFalse(self.rates.open_stream("a", "guest"))
        self.assertTrue(self.rates.open_stream("b", "guest"))
        self.rates.close_stream("a")
        self.assertTrue(self.rates.open_stream("a", "guest"))


class DoorTest(BoatTest):
    def test_a_device_that_asks_too_much_is_told_when_to_come_back_and_others_go_on(self) -> None:
        bench = self.let_in("bench")
        few = patch.dict(rates.AT_ONCE, {"bench": 3.0}), patch.dict(rates.A_SECOND, {"bench": 0.01})
        with few[0], few[1]:
            answers = [bench.get("/live/scale") for _ in range(5)]
            last = answers[-1]
            self.assertEqual(last.status_code, 429)
            self.assertGreaterEqual(int(last.headers["retry-after"]), 1)
            self.assertEqual(last.headers["content-type"], "application/problem+json")
            self.assertIn("too much at once", last.json()["detail"])
            self.assertIn("content-security-policy", last.headers)
            self.assertEqual(self.here.get("/live/scale").status_code, 200)
            self.assertEqual(bench.get("/static/mark.svg").status_code, 200)

    def test_a_strangers_guesses_are_slowed_down_by_address(self) -> None:
        stranger = self.device("192.168.4.9")
        # on a slow machine the wait would be over before so many were asked
        with patch.dict(rates.A_SECOND, {"stranger": 0.01}):
            got = [stranger.get("/join").status_code for _ in range(int(AT_ONCE["stranger"]) + 20)]
        self.assertEqual(got[0], 200)
        self.assertEqual(got[-1], 429)
        self.assertEqual(self.device("192.168.4.10").get("/join").status_code, 200)

    def test_too_many_streams_of_a_device_are_refused(self) -> None:
        bench = self.let_in("bench")
        with patch.dict(rates.STREAMS, {"bench": 0}):
            answer = bench.get("/live/changes")
        self.assertEqual(answer.status_code, 429)
        self.assertIn("too many pages open", answer.json()["detail"])

"""What the running app remembers between requests."""

import threading
import time
import unittest
from concurrent.futures import ThreadPoolExecutor

from lepidos.stations.base import changes
from lepidos.stations.base.changes import Changes, Memo


class MemoTest(unittest.TestCase):
    def test_what_several_ask_for_at_once_is_worked_out_once(self) -> None:
        memo, calls, together = Memo(), [], threading.Barrier(8)

        def make() -> int:
            calls.append(1)
            time.sleep(0.05)
            return 42

        def ask(_: int) -> int:
            together.wait()
            return memo.get(("a",), make)

        with ThreadPoolExecutor(8) as pool:
            self.assertEqual(list(pool.map(ask, range(8))), [42] * 8)
        self.assertEqual(len(calls), 1)

    def test_a_failure_is_told_and_not_kept(self) -> None:
        memo = Memo()
        with self.assertRaisesRegex(ValueError, "no luck"):
            memo.get(("a",), self._fail)
        self.assertEqual(memo.get(("a",), lambda: 7), 7)

    def test_one_who_waits_for_a_failure_tries_it_himself(self) -> None:
        memo, began = Memo(), threading.Event()

        def slow_failure() -> int:
            began.set()
            time.sleep(0.05)
            return self._fail()

        with ThreadPoolExecutor(2) as pool:
            first = pool.submit(memo.get, ("a",), slow_failure)
            began.wait()
            second = pool.submit(memo.get, ("a",), lambda: 7)
            self.assertEqual(second.result(), 7)
            self.assertIsInstance(first.exception(), ValueError)

    def test_an_answer_may_ask_for_others(self) -> None:
        memo = Memo()
        self.assertEqual(memo.get(("a",), lambda: memo.get(("b",), lambda: 2) + 1), 3)

    def test_the_longest_unasked_go_first(self) -> None:
        memo = Memo()
        for key in range(changes.MAX_KEPT):
            memo.get(("slab", key), lambda key=key: key)
        memo.get(("slab", 0), lambda: -1)
        memo.get(("slab", "one more"), lambda: 1)
        self.assertEqual(memo.get(("slab", 0), lambda: -1), 0)
        self.assertEqual(memo.get(("slab", 1), lambda: -1), -1)

    def test_each_kind_keeps_its_own_and_no_more(self) -> None:
        memo = Memo()
        for key in range(1000):
            memo.get(("slab", key), lambda: "large")
            memo.get(("way", key), lambda: "small", most=100)
        self.assertEqual(memo.get(("way", 900), lambda: "made again", most=100), "small")
        self.assertEqual(len(memo), changes.MAX_KEPT + 100)

    @staticmethod
    def _fail() -> int:
        raise ValueError("no luck")


class ChangesTest(unittest.TestCase):
    def test_every_change_has_a_mark_of_its_own(self) -> None:
        changes = Changes()
        marks = {changes.mark}
        for _ in range(5):
            changes.tell()
            marks.add(changes.mark)
        self.assertEqual((len(marks), changes.count), (6, 5))
        self.assertNotIn(Changes().mark, marks)

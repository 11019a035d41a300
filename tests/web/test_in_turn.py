"""Pages one after another, entries at once."""

import asyncio
import functools
import threading
import unittest
from collections.abc import Callable, Coroutine
from concurrent.futures import ThreadPoolExecutor, wait
from unittest.mock import patch

from starlette.types import Message, Receive, Scope, Send

from lepidos.stations.deck import slab
from lepidos.web.shell import in_turn
from lepidos.web.shell.in_turn import InTurn
from tests.web.client import WebTest


class App:
    """Answers when it is told to, and says what it works on."""

    def __init__(self) -> None:
        self.begun: list[str] = []
        self.may_answer: dict[str, asyncio.Event] = {}
        self.may_end = asyncio.Event()
        self.may_end.set()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        path = scope["path"]
        self.begun.append(path)
        await self.may_answer.setdefault(path, asyncio.Event()).wait()
        if path == "/trips/broken":
            raise RuntimeError("meant")
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await self.may_end.wait()
        await send({"type": "http.response.body", "body": path.encode()})

    def answer(self, path: str) -> None:
        self.may_answer[path].set()


def in_a_loop(test: Callable[..., Coroutine[None, None, None]]) -> Callable[..., None]:
    """Runs it in a thread of its own: in this one the loop of the browser's tests may be running."""

    @functools.wraps(test)
    def run(self: unittest.TestCase) -> None:
        with ThreadPoolExecutor(1) as pool:
            pool.submit(asyncio.run, test(self)).result(60)

    return run


class InTurnTest(unittest.TestCase):
    def setUp(self) -> None:
        self.app = App()
        self.door = InTurn(self.app)
        self.said: list[Message] = []

    async def ask(self, path: str, method: str = "GET") -> asyncio.Task[None]:
        async def receive() -> Message:
            raise AssertionError("nobody sends a body")

        async def send(message: Message) -> None:
            self.said.append(message)

        scope = {"type": "http", "method": method, "path": path}
        task = asyncio.create_task(self.door(scope, receive, send))
        await self.settle()
        return task

    async def settle(self) -> None:
        for _ in range(5):
            await asyncio.sleep(0)

    @in_a_loop
    async def test_a_page_waits_for_the_page_before_it_in_line(self) -> None:
        tasks = [await self.ask(f"/trips/{k}/pack") for k in range(3)]
        for k in range(3):
            self.assertEqual(self.app.begun, [f"/trips/{n}/pack" for n in range(k + 1)])
            self.app.answer(f"/trips/{k}/pack")
            await self.settle()
        await asyncio.gather(*tasks)
        bodies = [m["body"] for m in self.said if m["type"] == "http.response.body"]
        self.assertEqual(bodies, [f"/trips/{k}/pack".encode() for k in range(3)])

    @in_a_loop
    async def test_entries_and_looks_at_one_thing_pass_a_page_that_is_made(self) -> None:
        await self.ask("/trips/1/pack")
        for path, method in (
            ("/live/fish/1/weighings", "POST"), ("/trips/1/fish", "POST"), ("/fish/1", "GET"),
            ("/b/AB2CD3", "GET"), ("/pieces/1", "GET"), ("/first-aid", "GET"),
            ("/static/js/app.js", "GET"), ("/live/changes", "GET"),
        ):  # fmt: skip
            with self.subTest(path):
                await self.ask(path, method)
                self.assertEqual(self.app.begun[-1], path)
        await self.ask("/trips/1/freezer")
        self.assertNotIn("/trips/1/freezer", self.app.begun)
        await self.ask("/season", "HEAD")
        self.assertNotIn("/season", self.app.begun)

    @in_a_loop
    async def test_whoever_reads_slowly_holds_nobody_up(self) -> None:
        self.app.may_end.clear()
        await self.ask("/trips/1/pack")
        await self.ask("/trips/1/freezer")
        self.app.answer("/trips/1/pack")
        await self.settle()
        self.assertIn("/trips/1/freezer", self.app.begun)

    @in_a_loop
    async def test_a_page_that_fails_leaves_its_place(self) -> None:
        task = await self.ask("/trips/broken")
        await self.ask("/trips/1/pack")
        self.app.answer("/trips/broken")
        with self.assertRaises(RuntimeError):
            await task
        await self.settle()
        self.assertIn("/trips/1/pack", self.app.begun)

    @in_a_loop
    async def test_a_long_report_is_not_waited_for_and_leaves_but_one_place(self) -> None:
        with patch.object(in_turn, "LONG_S", 0.01):
            report = await self.ask("/season")
        await self.ask("/trips/1/pack")
        await self.ask("/trips/1/freezer")
        async with asyncio.timeout(5):
            while "/trips/1/pack" not in self.app.begun:
                await asyncio.sleep(0.01)
        self.app.answer("/season")
        await report
        await self.settle()
        # a place that was left is not left again when the report is done
        self.assertNotIn("/trips/1/freezer", self.app.begun)


class AtTheAppsDoorTest(WebTest):
    def test_a_landing_passes_a_page_and_the_next_page_does_not(self) -> None:
        trip = self.start_trip()
        begun, go_on = threading.Event(), threading.Event()
        view = slab.view_slab

        def slowly(*given: object) -> slab.Slab:
            begun.set()
            go_on.wait(60)
            return view(*given)  # type: ignore[arg-type]

        with (
            patch.object(slab, "view_slab", slowly),
            patch.object(in_turn, "LONG_S", 60.0),
            ThreadPoolExecutor(2) as pool,
        ):
            first = pool.submit(self.client.get, f"{trip}/deck")
            self.assertTrue(begun.wait(60))
            second = pool.submit(self.client.get, f"{trip}/freezer")
            try:
                landed = self.form(f"/live{trip}/fish", species="cod", length="70", bled="on")
                self.assertEqual(landed.status_code, 200, landed.text)
                self.assertFalse(wait([second], 1.0).done)
            finally:
                go_on.set()
            self.assertEqual(first.result(60).status_code, 200)
            self.assertEqual(second.result(60).status_code, 200)


if __name__ == "__main__":
    unittest.main()

"""The phone's queue by itself in Chromium: its store, its server and its clock are the test's."""

from typing import Any

from playwright.sync_api import Page

from lepidos.web.shell.static_files import script_url
from tests.browser.chromium import BrowserTest

# A queue whose server gives one answer after another from a list; when the list ends nobody answers.
SETTING = """
async ([url, answers]) => {
  const { makeQueue } = await import(url);
  const kept = new Map();
  const test = window.test = { posted: [], told: [], later: [], kept, answers, at: 1000, keys: 0, room: 5 };
  test.store = {
    get length() { return kept.size; },
    key: (n) => [...kept.keys()][n] ?? null,
    getItem: (name) => kept.get(name) ?? null,
    setItem: (name, text) => {
      if (kept.size >= test.room && !kept.has(name)) throw new Error("no room");
      kept.set(name, text);
    },
    removeItem: (name) => kept.delete(name),
  };
  test.page = (post) => makeQueue({
    store: test.store,
    post,
    newKey: () => `key-${++test.keys}`,
    units: () => "imperial",
    tell: (name, detail) => test.told.push([name, detail?.entry?.key ?? null]),
    now: () => test.at,
    later: (task) => { test.later.push(task); return () => { test.later = test.later.filter((t) => t !== task); }; },
  });
  test.queue = test.page(async (path, fields) => {
    test.posted.push([path, Object.fromEntries(fields)]);
    return test.answers.shift() ?? null;
  });
}
"""
# Another page of the browser whose one request hangs until the test answers it.
SLOW_PAGE = """
() => {
  test.slow = test.page(() => new Promise((answer) => { test.answerSlow = answer; }));
  test.slow.send();
}
"""
OK = {"ok": True, "status": 200, "body": {"sentence": "P1: gut"}}
LATER = {"ok": False, "status": 507, "later": True, "body": {"detail": "The disk is full."}}
FAILED = {"ok": False, "status": 500, "body": {}}
REFUSED = {"ok": False, "status": 422, "body": {"errors": [{"field": "weight", "detail": "Too much"}]}}  # fmt: skip


class QueueTest(BrowserTest):
    def queue(self, *answers: dict[str, Any] | None) -> Page:
        page = self.open()
        page.goto("/guide/techniques")
        page.evaluate(SETTING, [script_url("queue.js"), list(answers)])
        return page

    def add(self, page: Page, said: str, group: str = "fish:1") -> None:
        page.evaluate(
            "([said, group]) => test.queue.add('/take', group, said, [['weight', said]], { slot: 's' })",
            [said, group],
        )
        self.settle(page)

    def settle(self, page: Page) -> None:
        page.evaluate("() => new Promise((done) => setTimeout(done, 20))")

    def retry(self, page: Page) -> None:
        page.evaluate("() => { const [task] = test.later.splice(0, 1); task(); }")
        self.settle(page)

    def names(self, page: Page, which: str, group: str = "") -> list[str]:
        found: list[str] = page.evaluate(
            "([which, group]) => test.queue[which](group).map((e) => e.said)", [which, group]
        )
        return found

    def posted(self, page: Page) -> list[tuple[str, str]]:
        return [(f["weight"], f["key"]) for _, f in page.evaluate("test.posted")]

    def test_what_arrived_leaves_the_queue_and_is_told_once(self) -> None:
        page = self.queue(OK)
        self.add(page, "0.4")
        self.assertEqual(self.names(page, "waiting"), [])
        told = [t for t in page.evaluate("test.told") if t[0] == "arrived"]
        self.assertEqual(told, [["arrived", "key-1"]])
        ((path, fields),) = page.evaluate("test.posted")
        self.assertEqual(path, "/take")
        self.assertEqual(
            fields, {"weight": "0.4", "units": "imperial", "key": "key-1", "waited_ms": "0"}
        )

    def test_without_an_answer_it_waits_in_order_and_goes_again_under_its_key(self) -> None:
        page = self.queue()
        self.add(page, "1")
        self.add(page, "2", "fish:2")
        self.assertEqual(self.names(page, "waiting"), ["1", "2"])
        self.assertEqual(self.names(page, "waiting", "fish:2"), ["2"])
        self.assertEqual(len(page.evaluate("test.later")), 1)  # one timer, however many wait
        page.evaluate("answers => { test.answers = answers; test.at += 61000; }", [OK, OK])
        self.retry(page)
        self.assertEqual(self.names(page, "waiting"), [])
        self.assertEqual(self.posted(page)[-2:], [("1", "key-1"), ("2", "key-2")])
        self.assertEqual(page.evaluate("test.posted.at(-1)[1].waited_ms"), "61000")
        self.assertEqual(page.evaluate("test.later"), [])

    def test_a_refusal_is_set_aside_and_the_next_goes_on(self) -> None:
        page = self.queue(REFUSED, OK)
        self.add(page, "99")
        self.add(page, "0.2")
        self.assertEqual((self.names(page, "waiting"), self.names(page, "refused")), ([], ["99"]))
        self.assertEqual(
            page.evaluate("test.queue.refused('fish:1')[0].problem"), [["weight", "Too much"]]
        )
        self.assertEqual(self.names(page, "refused", "fish:2"), [])

    def test_after_three_failures_it_is_set_aside_and_not_after_two(self) -> None:
        page = self.queue(FAILED, FAILED, FAILED, OK)
        self.add(page, "0.4")
        self.retry(page)
        self.assertEqual((self.names(page, "waiting"), self.names(page, "refused")), (["0.4"], []))
        self.add(page, "0.5")  # sends at once; the first fails for the third time
        self.assertEqual((self.names(page, "waiting"), self.names(page, "refused")), ([], ["0.4"]))
        self.assertIn("Tried 3 times", page.evaluate("test.queue.refused()[0].problem[0][1]"))
        self.assertEqual(self.posted(page)[-1], ("0.5", "key-2"))

    def test_what_the_app_cannot_take_now_waits_for_as_long_as_it_takes_and_says_why(self) -> None:
        page = self.queue(LATER, LATER, LATER, LATER)
        self.add(page, "0.4")
        for _ in range(3):
            self.retry(page)
        self.assertEqual((self.names(page, "waiting"), self.names(page, "refused")), (["0.4"], []))
        self.assertEqual(page.evaluate("test.queue.waiting()[0].why"), "The disk is full.")
        page.evaluate("answers => { test.answers = answers; }", [OK])
        self.retry(page)
        self.assertEqual(self.names(page, "waiting"), [])

    def test_sent_again_it_keeps_its_key_and_starts_with_three_new_tries(self) -> None:
        page = self.queue(REFUSED, FAILED)
        self.add(page, "0.4")
        page.evaluate("test.queue.sendAgain('key-1')")
        self.settle(page)
        self.assertEqual((self.names(page, "waiting"), self.names(page, "refused")), (["0.4"], []))
        self.assertEqual(self.posted(page), [("0.4", "key-1"), ("0.4", "key-1")])
        self.assertNotIn("problem", page.evaluate("test.queue.waiting()[0]"))
        page.evaluate("test.queue.sendAgain('no such key')")
        self.assertEqual(self.names(page, "waiting"), ["0.4"])

    def test_dropped_is_gone(self) -> None:
        page = self.queue(REFUSED)
        self.add(page, "0.4")
        page.evaluate("test.queue.forget('key-1')")
        self.assertEqual(self.names(page, "refused"), [])
        self.assertEqual(page.evaluate("test.told.at(-1)[0]"), "queue")

    def test_without_room_it_throws_and_keeps_nothing(self) -> None:
        page = self.queue()
        page.evaluate("test.room = 1")
        self.add(page, "1")
        thrown = page.evaluate(
            "() => { try { test.queue.add('/take', 'g', '2', []); return ''; } catch (e) { return e.message; } }"
        )
        self.assertEqual(thrown, "no room")
        self.assertEqual(self.names(page, "waiting"), ["1"])

    def test_what_earlier_versions_kept_is_taken_over_in_its_order(self) -> None:
        page = self.queue(None, OK)
        page.evaluate(
            """() => {
              test.room = 9;
              const list = (name, ...entries) => test.kept.set(name, JSON.stringify(entries));
              list("old", { key: "k", trip: "t1", said: "cod", fields: [], at: 0 });
              const kept = (said) => ({ key: said, group: "t1", path: "/take", said, fields: [], at: 5 });
              list("lepidos.waiting", kept("ling"), kept("bream"));
              list("lepidos.refused", { ...kept("plaice"), problem: [["", "No"]] });
              test.queue.add("/take", "t1", "turbot", []);
              test.queue.takeOver(["old", "lepidos.waiting", "lepidos.refused"]);
            }"""
        )
        self.assertEqual(self.names(page, "waiting", "t1"), ["cod", "ling", "bream", "turbot"])
        self.assertEqual(self.names(page, "refused"), ["plaice"])
        self.assertEqual(page.evaluate("test.queue.waiting()[0].path"), "/live/trips/t1/fish")
        kept: list[str] = page.evaluate("[...test.kept.keys()]")
        self.assertFalse({"old", "lepidos.waiting", "lepidos.refused"} & set(kept))

    def test_without_room_to_take_them_over_earlier_entries_stay_as_they_were(self) -> None:
        page = self.queue()
        kept = page.evaluate(
            """() => {
              test.room = 2;
              const entries = ["1", "2"].map((key) => ({ key, trip: "t1", said: "cod", fields: [], at: 0 }));
              test.kept.set("old", JSON.stringify(entries)).set("other", "1");
              test.queue.takeOver(["old"]);
              return [...test.kept.keys(), JSON.parse(test.kept.get("old")).length];
            }"""
        )
        self.assertEqual(kept, ["other", "old", 2])

    def test_a_late_failure_on_one_page_takes_nothing_from_another(self) -> None:
        page = self.queue()
        self.add(page, "1")
        self.add(page, "2")
        page.evaluate(SLOW_PAGE)
        page.evaluate("answers => { test.answers = answers; }", [OK])
        self.retry(page)  # the first is there; nobody answered for the second
        self.assertEqual(self.names(page, "waiting"), ["2"])
        page.evaluate("answer => test.answerSlow(answer)", LATER)  # of the first
        self.settle(page)
        self.assertEqual(self.names(page, "waiting"), ["2"])
        page.evaluate("() => { test.slow.send(); }")
        page.evaluate("answers => { test.answers = answers; }", [OK])
        self.retry(page)
        page.evaluate("answer => test.answerSlow(answer)", REFUSED)
        self.settle(page)
        self.assertEqual((self.names(page, "waiting"), self.names(page, "refused")), ([], []))
        arrived = [key for name, key in page.evaluate("test.told") if name == "arrived"]
        self.assertEqual(arrived, ["key-1", "key-2"])

    def test_what_two_pages_sent_is_told_once(self) -> None:
        page = self.queue()
        self.add(page, "1")
        page.evaluate(SLOW_PAGE)
        page.evaluate("answers => { test.answers = answers; }", [OK])
        self.retry(page)
        page.evaluate("answer => test.answerSlow(answer)", OK)
        self.settle(page)
        arrived = [key for name, key in page.evaluate("test.told") if name == "arrived"]
        self.assertEqual(arrived, ["key-1"])

    def test_what_a_closed_page_left_is_sent_by_another(self) -> None:
        page = self.queue()
        page.evaluate(SLOW_PAGE)
        page.evaluate("() => test.slow.add('/take', 'fish:1', '1', [['weight', '1']])")
        page.evaluate("answers => { test.answers = answers; test.queue.watch(); }", [OK])
        self.retry(page)
        self.assertEqual(self.names(page, "waiting"), [])

    def test_only_what_the_server_cannot_have_is_taken_back(self) -> None:
        page = self.queue()
        self.add(page, "0.4")  # tried once, nobody answered: it may have arrived all the same
        self.add(page, "0.5")
        self.add(page, "0.6", "fish:2")
        back = "(group) => test.queue.takeBack(group)?.said ?? null"
        self.assertEqual(page.evaluate(back, "fish:1"), "0.5")
        self.assertIsNone(page.evaluate(back, "fish:1"))
        self.assertEqual(self.names(page, "waiting"), ["0.4", "0.6"])
        self.assertEqual(page.evaluate(back, "fish:2"), "0.6")

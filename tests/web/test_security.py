"""Who may call and what a page may do."""

import asyncio
import re
from functools import partial
from pathlib import Path
from unittest.mock import patch

from anyio.from_thread import start_blocking_portal
from starlette.types import Receive, Scope, Send
from structlog.testing import capture_logs

from lepidos.web.shell.security import MAX_BYTES, Guard
from lepidos.web.shell.static_files import script_url, static_url
from tests.web.client import HOST, WebTest

WEB = Path(__file__).parents[2] / "lepidos" / "web"


class GuardTest(WebTest):
    def test_a_form_from_another_site_changes_nothing(self) -> None:
        for headers in (
            {"origin": "http://evil.example"},
            {"origin": "null"},
            {"referer": "http://evil.example/page"},
            {"sec-fetch-site": "cross-site", "origin": HOST},
            {"sec-fetch-site": "same-site", "origin": HOST},
            {"cookie": "units=metric"},
            {"origin": "http://127.0.0.1:9999"},
        ):
            with self.subTest(headers=headers):
                answer = self.client.post("/trips", data={"key": self.key()}, headers=headers)
                self.assertEqual(answer.status_code, 403)
                self.assertIn("another site", answer.text)
        self.assertEqual(self.client.get("/api/v1/trips").json()["total"], 0)

    def test_a_script_without_cookies_may_use_the_api(self) -> None:
        answer = self.client.post(
            "/api/v1/places", json={"name": "chest"}, headers={"idempotency-key": self.key()}
        )
        self.assertEqual(answer.status_code, 201)

    def test_only_hosts_that_are_ours_are_answered(self) -> None:
        for host in ("evil.example", "127.0.0.1.evil.example", "localhost.evil.example:8000", ""):
            with self.subTest(host=host):
                answer = self.client.get("/health", headers={"host": host})
                self.assertEqual(answer.status_code, 400)
        for host in ("localhost:8000", "127.0.0.1", "[::1]:8000", "LOCALHOST"):
            with self.subTest(host=host):
                self.assertEqual(
                    self.client.get("/health", headers={"host": host}).status_code, 200
                )

    def test_too_much_is_refused_also_without_a_stated_length(self) -> None:
        stated = self.client.post(
            "/trips", content=b"x" * (MAX_BYTES + 1), headers={"origin": HOST}
        )
        self.assertEqual(stated.status_code, 413)

        def drip():
            for _ in range(MAX_BYTES // 65536 + 2):
                yield b"x" * 65536

        dripped = self.client.post(
            "/trips", content=drip(),
            headers={"origin": HOST, "content-type": "application/x-www-form-urlencoded"},
        )  # fmt: skip
        self.assertEqual(dripped.status_code, 413)
        self.assertIn("Nothing was changed", dripped.text)

    def test_a_body_that_drips_is_given_up_and_a_stream_is_not(self) -> None:
        async def form(scope: Scope, receive: Receive, send: Send) -> None:
            if scope["path"] == "/stream":
                await receive()
                await asyncio.sleep(0.2)
                self.assertEqual((await receive())["type"], "http.disconnect")
            else:
                while (await receive()).get("more_body"):
                    pass
            await send({"type": "http.response.start", "status": 200, "headers": []})

        async def refuse(_: Scope, __: Receive, send: Send, status: int, detail: str) -> None:
            await send(
                {"type": "http.response.start", "status": status, "headers": [], "said": detail}
            )

        async def answer(path: str, wait_s: float, last: dict[str, object]) -> dict[str, object]:
            told: list[dict[str, object]] = []
            waiting = [{"type": "http.request", "body": b"x", "more_body": path == "/slow"}, last]

            async def receive() -> dict[str, object]:
                if len(waiting) == 1:
                    await asyncio.sleep(wait_s)
                return waiting.pop(0)

            async def send(message: dict[str, object]) -> None:
                told.append(message)

            scope = {"type": "http", "path": path, "method": "POST",
                     "headers": [(b"host", b"127.0.0.1"), (b"origin", b"http://127.0.0.1")]}  # fmt: skip
            await Guard(form, (), refuse)(scope, receive, send)
            return told[0]

        end = {"type": "http.request", "body": b"", "more_body": False}
        with patch("lepidos.web.shell.security.BODY_S", 0.1), start_blocking_portal() as portal:
            slow = portal.call(partial(answer, "/slow", 0.5, end))
            quick = portal.call(partial(answer, "/slow", 0.0, end))
            stream = portal.call(partial(answer, "/stream", 0.2, {"type": "http.disconnect"}))
        self.assertEqual((slow["status"], quick["status"], stream["status"]), (408, 200, 200))
        self.assertIn("Nothing was changed", str(slow["said"]))

    def test_every_answer_is_stamped_errors_too(self) -> None:
        answers = [self.client.get(p) for p in ("/health", "/nowhere", "/api/v1/trips/none")]
        answers.append(self.client.post("/trips", headers={"origin": "http://evil.example"}))
        for answer in answers:
            with self.subTest(status=answer.status_code):
                policy = answer.headers["content-security-policy"]
                self.assertIn("default-src 'none'", policy)
                self.assertNotIn("unsafe", policy)
                self.assertEqual(answer.headers["x-content-type-options"], "nosniff")
                self.assertEqual(answer.headers["x-frame-options"], "DENY")
                self.assertEqual(answer.headers["cache-control"], "no-store")

    def test_what_only_a_page_is_held_to_does_not_come_with_each_of_its_parts(self) -> None:
        for path in (script_url("small.js"), static_url("deck.css")):
            headers = self.client.get(path).headers
            self.assertNotIn("content-security-policy", headers)
            self.assertNotIn("permissions-policy", headers)
            self.assertEqual(headers["x-content-type-options"], "nosniff")
            self.assertEqual(headers["cross-origin-resource-policy"], "same-origin")
        # a drawing can be opened as a page, a worker asks for what it likes
        for path in (static_url("mark.svg"), "/worker.js", "/", "/nowhere"):
            self.assertIn(
                "default-src 'none'", self.client.get(path).headers["content-security-policy"]
            )

    def test_a_fault_of_ours_is_a_page_and_tells_no_secrets(self) -> None:
        def broken() -> None:
            raise RuntimeError("secret detail")

        self.app.add_api_route("/broken", broken)
        self.app.add_api_route("/api/broken", broken)
        with capture_logs() as logged:
            page, problem = self.client.get("/broken"), self.client.get("/api/broken")
        self.assertEqual(
            [entry["event"] for entry in logged if entry["event"] == "broken"], ["broken"] * 2
        )
        self.assertEqual((page.status_code, problem.status_code), (500, 500))
        self.assertNotIn("secret detail", page.text + problem.text)
        self.assertIn("content-security-policy", page.headers)
        self.assertEqual(problem.headers["content-type"], "application/problem+json")

    def test_shipped_files_are_kept_by_their_hash_and_folders_not_listed(self) -> None:
        page = self.client.get("/trips/new").text
        url = re.findall(r"/static/shell\.css\?v=[0-9a-f]{10}", page)[0]
        self.assertIn("immutable", self.client.get(url).headers["cache-control"])
        self.assertEqual(self.client.get("/static/shell.css").headers["cache-control"], "no-cache")
        for path in ("/static/", "/static/../app.py", "/static/%2e%2e/app.py"):
            with self.subTest(path=path):
                self.assertEqual(self.client.get(path).status_code, 404)

    def test_cookies_are_strict_and_closed_to_scripts(self) -> None:
        cookie = self.form("/units", back="/").headers["set-cookie"]
        self.assertIn("HttpOnly", cookie)
        self.assertIn("SameSite=strict", cookie)


class TemplatesTest(WebTest):
    def test_no_template_has_inline_script_style_or_an_outside_address(self) -> None:
        for path in WEB.rglob("templates/**/*.html"):
            text = path.read_text("utf-8")
            with self.subTest(template=path.name):
                self.assertNotRegex(text, r"<script(?![^>]*\bsrc=)")
                self.assertNotRegex(text, r"\sstyle=|<style|\son\w+=\"|javascript:")
                self.assertNotRegex(text, r"(src|href)=\"(https?:)?//")
                self.assertNotIn("|safe", text)

    def test_our_own_scripts_have_no_eval_and_one_place_for_fetch(self) -> None:
        for path in (WEB / "static" / "js").glob("*.js"):
            text = path.read_text("utf-8")
            with self.subTest(script=path.name):
                self.assertNotRegex(text, r"\beval\(|new Function|innerHTML")
                if path.name != "api.js":
                    self.assertNotIn("fetch(", text)

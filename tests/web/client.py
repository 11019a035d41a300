"""The app over HTTP, on a folder of its own."""

import re
import tempfile
import unittest
from pathlib import Path
from typing import Any

import httpx
from fastapi.testclient import TestClient

from lepidos.settings import Settings
from lepidos.web.app import make_app
from tests.app import lay_out

HOST = "http://127.0.0.1"


class Client(TestClient):
    """A browser for pages, which says where a form was; for the API a script without cookies."""

    def request(self, method: str, url: Any, **more: Any) -> Any:
        kept = self.cookies
        if "/api/v1" in str(url):
            self.cookies = httpx.Cookies()
        elif method == "POST" and len(kept):
            more["headers"] = {"origin": HOST, **(more.get("headers") or {})}
        try:
            answer = super().request(method, url, **more)
        finally:
            self.cookies = kept
        if "text/html" in answer.headers.get("content-type", ""):
            # how a page's source is broken into lines is no matter to its reader
            answer._text = " ".join(answer.text.split())
        return answer


class WebTest(unittest.TestCase):
    """`self.client` is a browser of its own; `self.trip` a trip with two parties."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        lay_out(self.folder / "lepidos.sqlite")
        self.app = make_app(
            Settings(
                data_dir=self.folder,
                timezone="Etc/GMT-1",
                clock_at="2026-07-14T12:00:00+00:00",
                log_level="error",
            )
        )
        self.client = Client(self.app, base_url=HOST, follow_redirects=False)
        self.client.__enter__()
        self.addCleanup(self.client.__exit__, None, None, None)
        self._count = 0
        self.ctx = self.app.state.context

    def key(self) -> str:
        self._count += 1
        return f"web-test-{self._count:06d}"

    def form(self, path: str, **fields: object):
        """Send a form as a browser would from this site."""
        fields.setdefault("key", self.key())
        return self.client.post(path, data=fields, headers={"origin": HOST})

    def start_trip(self, **more: object) -> str:
        fields = {
            "name": "Marram Lass", "kind": "boat", "harbour": "Skarrow Quay",
            "on_date": "2026-07-14", "people": "Ines, Tobias", "parties": "Tolland, Marsh",
        }  # fmt: skip
        answer = self.form("/trips", **(fields | more))
        self.assertEqual(answer.status_code, 303, answer.text[:400])
        return answer.headers["location"].split("/deck")[0]

    def land(self, trip: str, species: str = "pollack", length: str = "68", **more: object) -> str:
        answer = self.form(f"{trip}/fish", species=species, length=length, bled="on", **more)
        self.assertEqual(answer.status_code, 303, answer.text[-800:])
        page = self.client.get(f"{trip}/table").text
        return re.findall(r"/fish/[0-9A-Z]{26}", page)[-1]

    def weigh(self, fish: str, slot: str, weight: str) -> None:
        answer = self.form(f"{fish}/weighings", slot=slot, weight=weight)
        self.assertEqual(answer.status_code, 303, answer.text[-800:])

    def seal(self, trip: str, **more: object) -> httpx.Response:
        """Seal the bag at hand, as the page offers it."""
        form = (
            self.client.get(f"{trip}/pack")
            .text.split(f'action="{trip}/bags"')[1]
            .split("</form>")[0]
        )
        fields: dict[str, object] = {}
        for name, value in re.findall(r'name="(\w+)"\s+value="([^"]*)"', form):
            if name not in {"key", "units"}:
                earlier = fields.get(name, [])
                fields[name] = [*earlier, value] if isinstance(earlier, list) else value
        return self.form(f"{trip}/bags", **(fields | more))

    def piece(self, trip: str, index: int = 0) -> str:
        return re.findall(r"/pieces/[0-9A-Z]{26}", self.client.get(f"{trip}/pack").text)[index]

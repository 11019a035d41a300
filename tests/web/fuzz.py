"""A seeded stream of requests over every form and API operation: usual values, slips and hostile ones.

No answer may be of the 500s, but for a device that says 503. `run` returns those that were.
"""

import json
from collections.abc import Iterator
from html.parser import HTMLParser
from random import Random
from typing import Any

from fastapi.testclient import TestClient

HOST = "http://127.0.0.1"
STANDING = ("deck", "table", "plan", "pack", "freezer", "ice", "waste", "yieldbook")
ID = r"/fish/[0-9A-Z]{26}"

TEXTS = (
    "", " ", "0", "-1", "1", "35", "3.5", "350", "12 kg", "6 lb 7 oz", "1e400", "5e-324", "nan", "inf",
    "9" * 400, "x" * 5000, "Ölkeller", "ölkeller", "\u202eabc", "\x00", "a\nb", "'; DROP TABLE fish", "<b>",
    "//[", "http://[", "/\\evil", "0001-01-01T00:00", "9999-12-31T23:59", "2026-03-29T02:30", "25:61",
    "2026-07-14T12:05", "2026-02-30", "fillet.A", "fillet.C", "mackerel", "cod", "on", "off", "\ud7ff", "%00",
    "P99999999999", "../../etc/passwd", "١٢", "½", "76430",
)  # fmt: skip
NUMBERS: tuple[Any, ...] = (
    0, 1, -1, 2, 35, 3.5, 0.58, 5e-324, 1e-9, 1e9, 1e308, -0.0, 10**30, -(10**30), 2**63, True, "7", None, [], {},
)  # fmt: skip
QUERIES = (
    "at", "by", "as", "side", "q", "page", "place", "code", "done", "length", "weight", "length_type", "purpose",
    "state", "skin", "tool", "way.head", "way.ribs", "step", "family", "kind", "from", "key", "serving", "serving_kg",
    "per_bag", "tail", "length_m", "species", "trip", "trip_id", "printed", "printer", "year", "cutter", "party", "over", "under", "order",
)  # fmt: skip
HEADERS = (
    {}, {}, {}, {}, {}, {"origin": "http://["}, {"referer": "//["}, {"accept": "application/json"},
    {"content-type": "text/plain"}, {"content-type": "multipart/form-data; boundary=x"},
    {"content-type": "application/json; charset=utf-99"}, {"cookie": "units=imperial; theme=night; board=x"},
    {"accept-encoding": "gzip;q=0"},
)  # fmt: skip


class Forms(HTMLParser):
    """The forms of a page: method, action, and fields with the values they stand at or offer."""

    def __init__(self) -> None:
        super().__init__()
        self.forms: list[tuple[str, str, dict[str, list[str]]]] = []
        self._fields: dict[str, list[str]] = {}
        self._select = ""

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        given = {k: v or "" for k, v in attrs}
        if tag == "form":
            self._fields = {}
            self.forms.append((given.get("method", "get"), given.get("action", ""), self._fields))
        elif tag == "select":
            self._select = given.get("name", "")
            self._fields.setdefault(self._select, [])
        elif tag == "option" and self._select:
            self._fields[self._select].append(given.get("value", ""))
        elif tag in {"input", "textarea", "button"} and given.get("name"):
            self._fields.setdefault(given["name"], []).append(given.get("value", "on"))

    def handle_endtag(self, tag: str) -> None:
        if tag == "select":
            self._select = ""


class Fuzz:
    """`count` requests from a seed, through a client that follows no redirects."""

    def __init__(self, client: TestClient, seed: int) -> None:
        self.client = client
        self.rng = Random(seed)
        self.number = 0
        self.seed = seed
        self.statuses: dict[int, int] = {}
        self.pages = ["/", "/trips", "/trips/new", "/rules", "/rules/new", "/guide", "/guide/own/write",
                      "/guide/cod", "/guide/plaice", "/devices", "/which-fish", "/health", "/boat", "/join", "/guide/techniques",
                      "/season", "/season/fish", "/season/trials", "/season/millimetres", "/season/cutters",
                      "/season/keep", "/season/what-if", "/bundle", "/freezer/next", "/settings"]  # fmt: skip
        self.forms: list[tuple[str, str, dict[str, list[str]]]] = []
        self.ids: list[str] = ["nobody", "x" * 300]
        self.schema = client.get("/api/openapi.json").json()

    def run(self, count: int) -> list[str]:
        """What was answered with 500 or more."""
        bad = []
        for method, path, sent in self.requests(count):
            answer = self.client.request(method, path, **sent)
            self.statuses[answer.status_code] = self.statuses.get(answer.status_code, 0) + 1
            if answer.status_code >= 500 and not (
                answer.status_code == 503 and "device" in answer.text
            ):
                bad.append(f"{answer.status_code} {method} {path[:200]} {str(sent)[:600]}")
            self.learn(path, answer)
            if self.was_accepted(answer):
                bad += self.fallen(f"{method} {path[:200]} {str(sent)[:600]}")
        return bad

    def was_accepted(self, answer: Any) -> bool:
        """Whether something was written."""
        return answer.status_code == 201 or "done=" in answer.headers.get("location", "")

    def fallen(self, after: str) -> list[str]:
        """Of two of the pages: which do not stand any more, now that something was accepted."""
        trips = [p for p in self.pages if p.startswith("/trips/0")]
        path = self.rng.choice(trips).split("?")[0].rsplit("/", 1)[0] if trips else ""
        every = [f"{path}/{name}" for name in STANDING] if path.count("/") == 2 else []
        found = []
        for page in self.rng.sample([*every, *self.pages[:13]], 2):
            status = self.client.get(page, follow_redirects=True).status_code
            if status not in {200, 404}:
                found.append(f"{status} {page} after {after}")
        return found

    def learn(self, path: str, answer: Any) -> None:
        """New ids, pages and forms to go on with."""
        if answer.status_code == 303 and len(self.pages) < 400:
            self.pages.append(answer.headers["location"])
        kind = answer.headers.get("content-type", "")
        if "json" in kind and answer.status_code == 201:
            found = answer.json().get("id")
            if found:
                self.ids = [*self.ids[-300:], found]
                self.pages += [
                    f"/trips/{found}/{name}" for name in ("deck", "table", "pack", "freezer", "ice")
                ][:1]
        if "html" in kind and answer.status_code == 200:
            page = Forms()
            page.feed(answer.text)
            self.forms = [*self.forms[-600:], *page.forms]
            links = [part.split('"', 1)[0] for part in answer.text.split('href="')[1:]]
            good = [link for link in links if link.startswith("/") and "/static" not in link]
            self.pages = [
                *self.pages[:13],
                *self.pages[13:][-250:],
                *self.rng.sample(good, min(3, len(good))),
            ]

    def requests(self, count: int) -> Iterator[tuple[str, str, dict[str, Any]]]:
        """A third pages with odd queries, a third forms, a third API operations."""
        for _ in range(count):
            self.number += 1
            yield self.rng.choice((self.page, self.form, self.operation))()

    def word(self) -> str:
        return self.rng.choice(TEXTS)

    def page(self) -> tuple[str, str, dict[str, Any]]:
        path = self.rng.choice(self.pages).split("?")[0].replace("&amp;", "&")
        asked = [(self.rng.choice(QUERIES), self.word()) for _ in range(self.rng.randrange(3))]
        return "GET", path, {"params": _sendable(asked), "headers": self.rng.choice(HEADERS)}

    def form(self) -> tuple[str, str, dict[str, Any]]:
        if not self.forms:
            return self.page()
        method, path, fields = self.rng.choice(self.forms)
        values: dict[str, str] = {}
        for name, offered in fields.items():
            if name == "key":
                values[name] = f"fuzz-{self.seed}-{self.number:08d}"
            elif self.rng.random() < 0.7 and offered:
                values[name] = self.rng.choice(offered)
            elif self.rng.random() < 0.8:
                values[name] = self.word()
        if self.rng.random() < 0.1:
            values[self.rng.choice(["waited_ms", "back", "landed_at", "weight", "kg", "mark"])] = (
                self.word()
            )
        if method == "get":
            return "GET", path or "/", {"params": _sendable(list(values.items()))}
        headers = {"origin": HOST, **self.rng.choice(HEADERS)}
        if self.rng.random() < 0.15 and path.startswith(("/trips/", "/fish/")):
            path = "/live" + path
        return "POST", path, {"data": dict(_sendable(list(values.items()))), "headers": headers}

    def operation(self) -> tuple[str, str, dict[str, Any]]:
        path, methods = self.rng.choice(list(self.schema["paths"].items()))
        method, what = self.rng.choice(list(methods.items()))
        params: list[tuple[str, str]] = []
        headers = {
            "idempotency-key": f"fuzz-{self.seed}-{self.number:08d}",
            **self.rng.choice(HEADERS),
        }
        for one in what.get("parameters", ()):
            value = self.value(one["schema"]) if self.rng.random() < 0.6 else self.word()
            if one["in"] == "path":
                near = self.rng.random() < 0.8
                value = (
                    self.rng.choice(self.ids[-40:])
                    if near and one["name"].endswith("_id")
                    else value
                )
                path = path.replace(
                    f"{{{one['name']}}}", str(value).replace("/", "%2F").replace("?", "%3F") or "x"
                )
            elif one["in"] == "query" and self.rng.random() < 0.5:
                params.append((one["name"], str(value)))
        sent: dict[str, Any] = {"params": _sendable(params), "headers": headers}
        body = (
            what.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema")
        )
        if body is not None:
            text = json.dumps(self.value(body)) if self.rng.random() < 0.95 else self.word()
            sent["content"] = text.encode("utf-8", "surrogatepass")
            sent["headers"] = {"content-type": "application/json", **headers}
        return method.upper(), _clean(path), sent

    def value(self, schema: dict[str, Any]) -> Any:
        """A value after a JSON schema, mostly fitting."""
        if self.rng.random() < 0.05:
            return self.rng.choice(NUMBERS)
        if "$ref" in schema:
            return self.value(
                self.schema["components"]["schemas"][schema["$ref"].rsplit("/", 1)[1]]
            )
        if "anyOf" in schema:
            return self.value(self.rng.choice(schema["anyOf"]))
        if "enum" in schema:
            return self.rng.choice(schema["enum"])
        kind = schema.get("type")
        if kind == "object":
            needed = schema.get("required", ())
            return {
                name: self.value(part)
                for name, part in schema.get("properties", {}).items()
                if (name in needed or self.rng.random() < 0.5) and self.rng.random() < 0.97
            }
        if kind == "array":
            items = schema.get("items") or (schema.get("prefixItems") or [{"type": "string"}])[0]
            return [self.value(items) for _ in range(self.rng.randrange(4))]
        if kind in {"number", "integer"}:
            low, high = schema.get("minimum", 0), schema.get("maximum", 100)
            inside = self.rng.uniform(low, min(high, low + 200))
            return self.rng.choice(
                [*NUMBERS, *[round(inside, 3) if kind == "number" else int(inside)] * 25]
            )
        if kind == "boolean":
            return self.rng.choice([True, False])
        if schema.get("format") == "date":
            return self.rng.choice(["2026-07-14", "2026-07-14", "0001-01-01", "9999-12-31", "x"])
        if schema.get("format") == "date-time":
            return self.rng.choice(
                ["2026-07-14T11:00:00Z", "0001-01-01T00:00:00+14:00", "9999-12-31T23:59:59-12:00"]
            )
        return self.rng.choice(
            [*self.ids[-30:], self.word(), "pollack", "mackerel", "cod", "lionfish", "metric"]
        )


def _sendable(pairs: list[tuple[str, str]]) -> list[tuple[str, str]]:
    return [(name, value.encode("utf-8", "replace").decode()) for name, value in pairs]


def _clean(path: str) -> str:
    return "".join(
        c if c.isprintable() and c not in " #" and ord(c) < 0xD800 else "_" for c in path
    )[:6000]

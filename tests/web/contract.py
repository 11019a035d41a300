"""The API against its own document: requests drawn from it, with real ids among the made-up ones.

No answer may be of the 500s, but for a device that says 503; every answer has a status, a type and a
body that the document names; and after what was accepted every page still stands.
"""

import json
from collections import Counter
from random import Random
from typing import Any

import httpx
import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from schemathesis import GenerationMode
from schemathesis.checks import not_a_server_error
from schemathesis.core.failures import FailureGroup
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from tests.web.client import HOST, Client

CHECKS = [
    not_a_server_error,
    status_code_conformance,
    content_type_conformance,
    response_schema_conformance,
]
PAGES_OF_TRIP = ("deck", "table", "plan", "pack", "freezer", "ice", "waste", "yieldbook")
PAGES = ("/", "/trips", "/rules", "/season", "/season/fish", "/freezer/next", "/settings", "/boat")
MAX_IDS = 60


class Contract:
    """A day's worth of real things, and requests about them."""

    def __init__(self, client: Client, number: int) -> None:
        self.client, self.number = client, number
        self.rng = Random(number)
        self.asked = 0
        self.statuses: Counter[int] = Counter()
        self.bad: list[str] = []
        self.known: dict[str, list[str]] = {}
        document = client.get("/api/openapi.json").json()
        schema = schemathesis.openapi.from_dict(document)
        self.operations = [result.ok() for result in schema.get_all_operations()]
        self._begin()

    def run(self, examples: int) -> list[str]:
        """So many requests of each kind to each operation; what was not as it should be."""
        for operation in self.operations:
            for mode in (GenerationMode.POSITIVE, GenerationMode.NEGATIVE):
                try:
                    strategy = operation.as_strategy(generation_mode=mode)
                    self._draw(strategy, examples)
                except Exception as error:  # nothing of that operation can be wrong
                    if type(error).__name__ not in {"Unsatisfiable", "SkipTest"}:
                        raise
        return self.bad

    def _draw(self, strategy: Any, examples: int) -> None:
        @seed(self.number)
        @settings(
            max_examples=examples,
            deadline=None,
            database=None,
            phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        )
        @given(case=strategy)
        def ask(case: Any) -> None:
            self._ask(case)

        ask()

    def _ask(self, case: Any) -> None:
        self.asked += 1
        self._make_real(case)
        sent = case.as_transport_kwargs(base_url=HOST)
        try:
            answer = self.client.request(sent.pop("method"), sent.pop("url"), **sent)
        except (UnicodeError, httpx.InvalidURL):  # what cannot be sent at all
            self.statuses[0] += 1
            return
        self.statuses[answer.status_code] += 1
        if answer.status_code == 503 and "device" in answer.text:
            return
        try:
            case.validate_response(answer, checks=CHECKS)
        except FailureGroup as error:
            told = f"{case.method} {case.path} {str(case.path_parameters)[:100]} {str(case.body)[:300]}"
            self.bad += [f"{told}: {str(one)[:600]}" for one in error.exceptions]
        if answer.status_code == 201:
            self._learn(answer.json())
            self._stands(f"{case.method} {case.path} {str(case.body)[:300]}")

    def _make_real(self, case: Any) -> None:
        headers = dict(case.headers or {})
        if case.method.upper() != "GET" and self.rng.random() < 0.95:
            headers["Idempotency-Key"] = f"contract-{self.number}-{self.asked:07d}"
        case.headers = headers
        for name in list(case.path_parameters or {}):
            if self.known.get(name) and self.rng.random() < 0.8:
                case.path_parameters[name] = self.rng.choice(self.known[name])
        case.body = self._real(case.body, "")

    def _real(self, value: Any, name: str) -> Any:
        if isinstance(value, dict):
            return {key: self._real(inside, key) for key, inside in value.items()}
        if isinstance(value, list):
            return [self._real(inside, name.removesuffix("s")) for inside in value]
        if isinstance(value, str) and self.known.get(name) and self.rng.random() < 0.7:
            return self.rng.choice(self.known[name])
        return value

    def _stands(self, after: str) -> None:
        """Some of the pages, so that over a run each is asked for often."""
        trip = self.rng.choice(self.known["trip_id"])
        fish = self.rng.choice(self.known["fish_id"])
        every = [f"/trips/{trip}/{name}" for name in PAGES_OF_TRIP]
        every += [f"/fish/{fish}", f"/fish/{fish}/card", *PAGES]
        for path in self.rng.sample(every, 2):
            answer = self.client.get(path, follow_redirects=True)
            if answer.status_code not in {200, 404}:
                self.bad.append(f"{path} is {answer.status_code} after {after}")

    def _learn(self, done: dict[str, Any]) -> None:
        kinds = {"fish": "fish_id", "new trip": "trip_id", "new place": "place_id", "weighing": "weighing_id",
                 "bag": "bag_id", "new card": "card_id", "new board": "board_id"}  # fmt: skip
        if name := kinds.get(str(done.get("kind"))):
            self.known[name] = [*self.known.get(name, []), str(done["id"])][-MAX_IDS:]
        if done.get("id"):
            self.known["id"] = [*self.known.get("id", []), str(done["id"])][-MAX_IDS:]
            self.known["kind"] = [*self.known.get("kind", []), str(done["kind"])][-MAX_IDS:]

    def _post(self, path: str, **body: Any) -> dict[str, Any]:
        self.asked += 1
        headers = {"Idempotency-Key": f"contract-{self.number}-{self.asked:07d}"}
        answer = self.client.post(f"/api/v1{path}", json=body, headers=headers)
        if answer.status_code != 201:
            raise RuntimeError(f"{path}: {answer.text[:500]}")
        done: dict[str, Any] = answer.json()
        self._learn(done)
        return done

    def _begin(self) -> None:
        """A trip with two parties, fish of some kinds, pieces, bags, a place and a card."""
        trip = self._post("/trips", name="Marram Lass", kind="boat", harbour="Skarrow Quay",
                          on_date="2026-07-14", people=["Ines"], parties=["Tolland", "Marsh"], sea_c=14,
                          ice_kg=60)["id"]  # fmt: skip
        place = self._post("/places", name="Chest")["id"]
        view = self.client.get(f"/api/v1/trips/{trip}").json()
        self.known |= {
            "party_id": [p["id"] for p in view["parties"]],
            "caught_by": [p["id"] for p in view["people"]],
            "species": ["pollack", "mackerel", "plaice", "cod"],
            "piece": ["gut", "fillet", "head", "frame"], "side": ["A", "B", ""],
            "place_id": [place], "place": [place], "key": ["pollack", "plaice", "mackerel"],
        }  # fmt: skip
        for kind, cm in (("pollack", 68), ("mackerel", 34), ("plaice", 41), ("pollack", 60)):
            fish = self._post(f"/trips/{trip}/fish", species=kind, length_cm=cm)["id"]
            piece = self._post(f"/fish/{fish}/weighings", piece="gut", weight_kg=0.05)
            self.known.setdefault("weighing_id", []).append(piece["id"])
        plan = self.client.get(f"/api/v1/trips/{trip}/bag-plan").json()
        self.known["code"] = [str(json.dumps(plan))[:6], "7K2-9QF"]

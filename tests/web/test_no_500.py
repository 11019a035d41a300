"""Nothing that can be sent is answered with a 500: what once was, one by one, and a seeded stream."""

import os
import signal

from lepidos.web.shell.security import MAX_BYTES
from tests.amount import much
from tests.web.client import HOST, WebTest
from tests.web.fuzz import Fuzz

REQUESTS = int(os.environ.get("LEPIDOS_REQUESTS", much(2_000, 500)))


class StreamTest(WebTest):
    def test_a_seeded_stream_of_requests_meets_no_500(self) -> None:
        fuzz = Fuzz(self.client, 20)
        self.assertEqual(fuzz.run(REQUESTS), [])
        # a stream that was refused at the door every time would prove nothing
        self.assertGreater(fuzz.statuses.get(201, 0) + fuzz.statuses.get(303, 0), REQUESTS // 20)
        self.assertGreater(fuzz.statuses.get(422, 0), REQUESTS // 50)


class OneByOneTest(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.fish = self.land(self.trip)

    def api(self, method: str, path: str, body: object) -> int:
        return self.client.request(
            method, f"/api/v1{path}", json=body, headers={"idempotency-key": self.key()}
        ).status_code

    def test_a_way_back_that_is_no_address_leads_home(self) -> None:
        for path in ("/units", "/theme", "/scale/tare"):
            answer = self.form(path, back="//[")
            self.assertEqual((answer.status_code, answer.headers["location"]), (303, "/"), path)

    def test_an_origin_that_is_no_address_is_another_site(self) -> None:
        answer = self.client.post(
            "/trips", data={"key": self.key()}, headers={"origin": "http://["}
        )
        self.assertEqual(answer.status_code, 403)
        self.assertIn("content-security-policy", answer.headers)

    def test_a_wait_of_a_hundred_digits_counts_as_the_longest(self) -> None:
        answer = self.form(
            f"/live{self.trip}/fish", species="cod", length="70", waited_ms="9" * 100
        )
        self.assertEqual(answer.status_code, 200)

    def test_a_section_asked_for_with_four_hundred_digits_is_the_usual_one(self) -> None:
        self.assertEqual(self.client.get(f"/guide/cod?at={'9' * 400}").status_code, 200)

    def test_a_season_that_no_calendar_has_is_refused(self) -> None:
        card = {
            "species": "cod",
            "area": "Skarrow",
            "source": "invented",
            "checked_on": "2026-07-01",
        }
        for day in ([76430, 296], [10**30, 1], [2, 30]):
            season = {"season_from": day, "season_to": [1, 1]}
            self.assertEqual(self.api("POST", "/rules", card | season), 422, day)
        self.assertEqual(self.api("POST", "/rules", card | {"per_boat": 10**30}), 422)

    def test_a_place_of_the_same_name_in_other_letters_is_refused(self) -> None:
        self.assertEqual(self.api("POST", "/places", {"name": "Ölkeller"}), 201)
        for name in ("Ölkeller", "ölkeller", "ÖLKELLER"):
            self.assertEqual(self.api("POST", "/places", {"name": name}), 422, name)

    def test_a_guide_key_of_five_thousand_letters_is_not_here(self) -> None:
        for path in (
            "/guide/{}",
            "/guide/text/species/{}.toml",
            "/guide/own/write?from={}",
            "/which-fish/{}",
        ):
            answer = self.client.get(path.format("x" * 5000))
            self.assertIn(answer.status_code, {200, 404}, path)

    def test_a_body_that_is_too_large_is_said_to_be_also_when_it_comes_in_pieces(self) -> None:
        def drip():
            for _ in range(MAX_BYTES // 65536 + 2):
                yield b"x" * 65536

        for path, kind in (
            ("/trips", "application/x-www-form-urlencoded"),
            ("/api/v1/places", "application/json"),
        ):
            answer = self.client.post(
                path, content=drip(),
                headers={"origin": HOST, "content-type": kind, "idempotency-key": self.key()},
            )  # fmt: skip
            self.assertEqual(answer.status_code, 413, path)

    def test_a_killed_search_shuts_nothing(self) -> None:
        for k in range(8):
            self.land(self.trip, "cod", str(60 + k))
        executor = self.app.state.context.search._executor
        for pid in list(executor._processes or {}):
            os.kill(pid, signal.SIGKILL)
        for k in range(3):
            self.land(self.trip, "ling", str(80 + k))
            self.assertEqual(self.client.get(f"{self.trip}/deck").status_code, 200)

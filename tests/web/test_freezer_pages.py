"""The freezer over HTTP: places, logs, meals and the feed, also where somebody lies or is offline."""

import re
from datetime import UTC, datetime, timedelta

from tests.web.client import HOST, WebTest

START = datetime(2026, 7, 1, 12, 0, tzinfo=UTC)


class FreezerPagesTest(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.form(f"{self.trip}/places", name="chest")
        (place,) = self.client.get("/api/v1/places").json()
        self.place = place["id"]
        self.home = f"/freezer/places/{self.place}"

    def sealed(self) -> list[str]:
        """Bags of a cod, sealed by the plan and put into the chest."""
        fish = self.land(self.trip, "cod", "75")
        self.weigh(fish, "fillet.A", "1.1")
        while keys := re.findall(
            r'name="part"\s+value="([^"]+)"', self.client.get(f"{self.trip}/pack").text
        ):
            self.form(f"{self.trip}/bags", part=keys[0])
        page = self.client.get(f"{self.trip}/freezer").text
        codes = sorted(set(re.findall(r'data-code="([2-9A-Z]{6})"', page)))
        self.form(f"{self.trip}/putaway", codes=codes, place=self.place)
        return codes

    def send(self, text: str, name: str = "log.csv") -> str:
        """A file; where its confirmation is."""
        answer = self.client.post(
            f"{self.home}/log", files={"log": (name, text.encode())}, headers={"origin": HOST}
        )
        self.assertEqual(answer.status_code, 303, answer.text)
        return str(answer.headers["location"])

    def test_a_file_is_confirmed_and_taken_in_and_everything_follows(self) -> None:
        codes = self.sealed()
        lines = [f"{START + timedelta(minutes=10 * n):%Y-%m-%d %H:%M},-23.5" for n in range(2000)]
        where = self.send("t,temp\n" + "\n".join(lines), "<b>odd</b>.csv")
        page = self.client.get(where).text
        self.assertIn("the file does not tell", page)
        self.assertNotIn("<b>odd", page)
        token = where.partition("file=")[2]
        open_ = self.form(f"{self.home}/take", file=token, order="ymd", unit="", zone="UTC")
        self.assertEqual(open_.status_code, 422)
        self.assertIn("°C or °F", open_.text)
        done = self.form(f"{self.home}/take", file=token, order="ymd", unit="C", zone="UTC")
        self.assertEqual(done.status_code, 303)
        self.assertIn("2000 readings", self.client.get(done.headers["location"]).text)
        self.assertIn("−23.5 °C", self.client.get(f"{self.trip}/freezer").text)
        bag = self.client.get(f"/b/{codes[0]}").text
        self.assertIn("Raw:", bag)
        api = self.client.get(f"/api/v1/places/{self.place}").json()
        self.assertEqual(
            (api["measured_c"], api["bags"], api["logs"][0]["readings"]), (-23.5, len(codes), 2000)
        )

    def test_a_file_that_is_none_and_one_that_is_gone(self) -> None:
        for data, why in (
            (b"", "Choose the logger"),
            (b"hello", "is this a logger"),
            (b"PK\x03\x04\x14\0\x08\0zip", "no text"),
        ):
            with self.subTest(data=data):
                answer = self.client.post(
                    f"{self.home}/log", files={"log": ("x.csv", data)}, headers={"origin": HOST}
                )
                self.assertEqual(answer.status_code, 422)
                self.assertIn(why, answer.text)
        gone = self.client.get(f"{self.home}/log?file=gone")
        self.assertEqual((gone.status_code, gone.headers["location"]), (303, self.home))
        self.assertEqual(self.client.get("/freezer/places/nowhere").status_code, 404)
        silent = self.form(f"{self.home}/logger")
        self.assertEqual(silent.status_code, 422)
        self.assertIn("does not answer", silent.text)

    def test_the_stand_in_logger_is_driven_and_read(self) -> None:
        for fields, status in (
            ({"do": "set", "set_to": "cold"}, 422),
            ({"do": "set", "set_to": "99"}, 422),
            ({"do": "set", "set_to": "-24"}, 303),
            ({"do": "door"}, 303),
            ({"do": "cut"}, 303),
        ):
            with self.subTest(fields=fields):
                self.assertEqual(self.form("/devices/logger", **fields).status_code, status)
        self.assertEqual(self.form(f"{self.home}/logger").status_code, 303)
        self.assertIn("Warmest", self.client.get(self.home).text if self.sealed() else "")
        self.form("/devices/logger", do="off")
        self.assertEqual(self.form(f"{self.home}/logger").status_code, 422)

    def test_sensors_of_ones_own_send_readings(self) -> None:
        def rows(*at_c: tuple[int, float]) -> dict[str, object]:
            return {
                "sensor": "wifi",
                "readings": [
                    {"at": f"{START + timedelta(minutes=m):%Y-%m-%dT%H:%M:%SZ}", "celsius": c}
                    for m, c in at_c
                ],
            }

        path = f"/api/v1/places/{self.place}/readings"
        key = {"Idempotency-Key": "readings-1"}
        first = self.client.post(path, json=rows((0, -20), (5, -21)), headers=key)
        again = self.client.post(path, json=rows((0, -20), (5, -21)), headers=key)
        self.assertEqual((first.status_code, again.json()["id"]), (201, first.json()["id"]))
        for n, (bad, status) in enumerate((
            (rows((5, -20), (0, -21)), 422), (rows((0, -127)), 422), (rows(), 422),
            (rows((60 * 24 * 60, -20)), 422), ({"readings": [{"at": "2026-07-01T12:00:00", "celsius": -20}]}, 422),
        )):  # fmt: skip
            with self.subTest(n=n):
                answer = self.client.post(
                    path, json=bad, headers={"Idempotency-Key": f"readings-bad-{n}"}
                )
                self.assertEqual(answer.status_code, status)
        self.assertEqual(len(self.client.get(f"/api/v1/places/{self.place}").json()["logs"]), 1)

    def test_meals_counts_and_words_by_the_api(self) -> None:
        codes = self.sealed()
        found = self.client.get("/api/v1/find", params={"words": "cod fillet"}).json()
        self.assertEqual(found["total"], len(codes))
        (meal, *_) = self.client.get(
            "/api/v1/use-next", params={"people": 1, "on": "2026-07-17"}
        ).json()
        self.assertEqual(meal["short"], 0)
        body = {"on": "2026-07-17", "people": 1, "codes": meal["codes"]}
        planned = self.client.post(
            "/api/v1/meals", json=body, headers={"Idempotency-Key": "meal-0001"}
        )
        self.assertEqual(planned.status_code, 201)
        feed = self.client.get("/freezer/calendar.ics")
        self.assertIn("BEGIN:VEVENT", feed.text)
        self.assertTrue(feed.headers["content-type"].startswith("text/calendar"))
        counted = self.client.post(
            f"/api/v1/places/{self.place}/count", json={"codes": codes[1:]},
            headers={"Idempotency-Key": "count-0001"},
        )  # fmt: skip
        self.assertIn("1 missing", counted.json()["sentence"])
        self.assertIn("1 missing", self.client.get(f"{self.trip}/freezer").text)
        bag = self.client.get(f"/api/v1/bags/{codes[0]}").json()
        self.assertEqual((bag["raw_hold"]["state"], bag["raw_from"]), ("no log", None))
        like = self.client.post(
            f"/api/v1/places/{self.place}/like", json={"celsius": -24, "litres": 200},
            headers={"Idempotency-Key": "like-00001"},
        )  # fmt: skip
        self.assertEqual(like.status_code, 201)
        power = self.client.get(f"/api/v1/places/{self.place}").json()["hours_without_power_to_c"]
        self.assertGreater(power["-5"], 0)

    def test_what_cannot_be_is_answered_at_its_field(self) -> None:
        self.sealed()
        for query, why in (
            ("people=many", "whole number"),
            ("people=0", "1 to 60"),
            ("on=2020-01-01", "today on"),
            ("thaw=sun", "how to thaw"),
            ("on=never&month=9999-99", ""),
        ):
            with self.subTest(query=query):
                answer = self.client.get(f"/freezer/next?{query}")
                self.assertEqual(answer.status_code, 200)
                self.assertIn(why, answer.text)
        for fields in (
            {"house": "0", "a_week": "1"},
            {"house": "2", "a_week": "x"},
            {"house": "2", "a_week": ""},
        ):
            self.assertEqual(self.form("/freezer/house", **fields).status_code, 422)
        self.assertEqual(
            self.form(
                "/freezer/next", on="2026-07-17", people="2", thaw="sun", codes="ABC"
            ).status_code,
            422,
        )
        self.assertEqual(self.form("/settings/pack", pack="sock").status_code, 422)
        self.assertEqual(self.form(f"{self.trip}/hand", why="to eat").status_code, 422)
        self.assertEqual(self.form(f"{self.home}/count", more="222-222").status_code, 422)
        self.assertEqual(
            self.client.post(
                "/freezer/look", files={"photo": ("x", b"x")}, headers={"origin": HOST}
            ).json()["code"],
            "",
        )

    def test_every_page_of_an_empty_freezer_opens(self) -> None:
        for path in (
            "/freezer/next",
            "/freezer/find",
            "/freezer/find?q=cod",
            "/freezer/calendar.ics",
            self.home,
            f"{self.home}/count",
        ):
            with self.subTest(path=path):
                self.assertEqual(self.client.get(path).status_code, 200)


class SeasonPageTest(WebTest):
    def test_a_season_is_shown_sorted_chosen_and_downloaded(self) -> None:
        trip = self.start_trip()
        fish = self.land(trip, "cod", "75")
        self.weigh(fish, "fillet.A", "1.1")
        page = self.client.get("/season").text
        self.assertIn("Season 2026", page)
        self.assertIn("Nothing of it is in bags yet", page)
        for query in (
            "by=share",
            "by=odd",
            "year=1999",
            "year=x",
            "party=Marsh",
            "party=%27%22",
            "year=99999",
        ):
            with self.subTest(query=query):
                self.assertEqual(self.client.get(f"/season?{query}").status_code, 200)
        file = self.client.get("/season.csv")
        self.assertTrue(file.headers["content-type"].startswith("text/csv"))
        self.assertIn("cod,1,", file.text)


class KeepPageTest(WebTest):
    def test_how_many_to_keep_is_said_and_slips_are_told(self) -> None:
        usual = {"species": "pollack", "length": "60", "portions": "8", "serving": "200 g"}
        page = self.client.get("/season/keep", params=usual).text
        self.assertIn("enough 80 of 100 times", page)
        for more, why in (
            ({"species": "pollck"}, "pollack"),
            ({"length": "long"}, "as numbers"),
            ({"portions": "x"}, "1 to 1000"),
            ({"serving": "9"}, "between 20 g"),
            ({"length": "2000"}, "length"),
        ):
            with self.subTest(more=more):
                answer = self.client.get("/season/keep", params=usual | more)
                self.assertEqual(answer.status_code, 200)
                self.assertIn(why, answer.text)


class NobodyYetTest(WebTest):
    def test_without_any_trip_the_pages_open_too(self) -> None:
        for path in ("/freezer/next", "/freezer/find", "/freezer/calendar.ics", "/season"):
            with self.subTest(path=path):
                self.assertEqual(self.client.get(path).status_code, 200)

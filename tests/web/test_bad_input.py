"""Bad input over HTTP: an answer at the field, what was typed kept, nothing written."""

import re

from tests.web.client import HOST, WebTest


class LandingTest(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()

    def test_each_slip_is_answered_at_its_field_with_what_was_typed(self) -> None:
        cases = [
            ({"species": "mackerel", "length": "400"}, "length", "longest known is about 60 cm"),
            ({"length": "-4"}, "length", "cannot be negative"),
            ({"length": "0"}, "length", "Check the number"),
            ({"length": "nan"}, "length", "is not a length"),
            ({"length": ""}, "length", "Measure it, or weigh it"),
            ({"length": "68 kg"}, "length", "not in"),
            ({"length": "9" * 1_000_000}, "length", "too long"),
            ({"weight": "29.1"}, "weight", "decimal place"),
            ({"weight": "2.9 cm"}, "weight", "not in"),
            ({"species": "mermaid"}, "species", "No species called"),
            ({"species": ""}, "species", "Choose which fish"),
            ({"party": "nobody"}, "party", "not on this trip"),
            ({"landed_at": "yesterday"}, "landed_at", "date and a time"),
            ({"landed_at": "2026-07-14T23:00"}, "landed_at", "still to come"),
        ]
        for change, field, message in cases:
            with self.subTest(change=str(change)[:60]):
                answer = self.form(
                    f"{self.trip}/fish", **({"species": "pollack", "length": "68"} | change)
                )
                self.assertEqual(answer.status_code, 422)
                problem = re.search(rf'id="problem-{field}"[^>]*>([^<]+)<', answer.text)
                assert problem, answer.text[-1500:]
                self.assertIn(message, problem[1])
                typed = change.get("length", "68")
                if len(typed) < 100 and typed:
                    self.assertIn(f'value="{typed}"', answer.text)
        self.assertIn("Nothing on the slab", self.client.get(f"{self.trip}/deck").text)

    def test_a_million_characters_are_not_echoed(self) -> None:
        answer = self.form(f"{self.trip}/fish", species="x" * 1_000_000, length="68")
        self.assertEqual(answer.status_code, 422)
        self.assertLess(len(answer.content), 200_000)

    def test_a_duplicate_submit_lands_one_fish(self) -> None:
        for _ in range(3):
            self.form(f"{self.trip}/fish", key="the-same-key", species="cod", length="70")
        self.assertEqual(self.client.get(f"/api/v1{self.trip}").json()["gauges"]["fish_landed"], 1)

    def test_a_missing_key_is_refused_in_words(self) -> None:
        answer = self.client.post(
            f"{self.trip}/fish", data={"species": "cod", "length": "70"}, headers={"origin": HOST}
        )
        self.assertEqual(answer.status_code, 422)
        self.assertIn("no usable key", answer.text)

    def test_markup_in_names_is_shown_as_text(self) -> None:
        trip = self.start_trip(
            name="<script>alert(1)</script>", parties='"><img src=x onerror=alert(1)>'
        )
        page = self.client.get(f"{trip}/deck").text
        self.assertNotIn("<script>alert", page)
        self.assertNotIn("<img src=x", page)
        self.assertIn("&lt;script&gt;", page)

    def test_a_trip_with_wrong_fields_says_so_at_each(self) -> None:
        answer = self.form("/trips", name="", harbour="", kind="raft", on_date="soon")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("Give a date", answer.text)


class BenchTest(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.fish = self.land(self.trip, weight="2.91")

    def test_a_weight_that_cannot_be_is_refused_at_the_weight(self) -> None:
        answer = self.form(f"{self.fish}/weighings", slot="fillet.A", weight="99")
        self.assertEqual(answer.status_code, 422)
        self.assertRegex(answer.text, r'id="problem-weight"[^>]*>[^<]*more than 20 times the whole')

    def test_an_empty_scale_is_refused_in_words(self) -> None:
        self.client.cookies.set("weighs", "scale")
        answer = self.form(f"{self.fish}/weighings", slot="fillet.A")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("Nothing lies on the scale", answer.text)

    def test_two_grams_lie_there_and_one_is_the_scale_itself(self) -> None:
        for shown, status in (("0.001", 422), ("0.002", 303)):
            answer = self.form(
                f"{self.fish}/weighings", slot="trim", shown_kg=shown, mark=f"a.1.{shown[-1]}"
            )
            self.assertEqual(answer.status_code, status, shown)

    def test_two_browsers_seal_one_bag_once(self) -> None:
        self.weigh(self.fish, "fillet.A", "0.5")
        page = self.client.get(f"{self.trip}/pack").text
        form = page.split(f'action="{self.trip}/bags"')[1].split("</form>")[0]
        parts = re.findall(r'name="part" value="([^"]+)"', form)
        self.assertEqual(self.form(f"{self.trip}/bags", part=parts).status_code, 303)
        second = self.form(f"{self.trip}/bags", part=parts)
        self.assertEqual(second.status_code, 409)
        self.assertIn("went into another", second.text)

    def test_marks_that_cannot_be_are_answered_at_their_fields(self) -> None:
        self.weigh(self.fish, "fillet.A", "0.5")
        piece = self.piece(self.trip)
        for fields, message in (
            ({"serving": "-1"}, "cannot be negative"),
            ({"serving": "2000 cm"}, "not in"),
            ({"per_bag": "many"}, "whole number"),
            ({"length": "abc"}, "is not a length"),
            ({"each_kg": "xx"}, "is not a number"),
            ({"serving": "9999"}, "serving must be"),
            ({"length": "900"}, "length must be"),
            ({"each_kg": "nan"}, "is not a number"),
        ):
            with self.subTest(fields=fields):
                answer = self.form(f"{piece}/marks", **fields)
                self.assertEqual(answer.status_code, 422)
                self.assertIn(message, answer.text)
        self.assertNotIn("9.9", self.client.get(piece).text.split("<main")[1].split("</ul>")[0])

    def test_what_cannot_be_said_of_bags_is_answered_at_its_field(self) -> None:
        self.weigh(self.fish, "fillet.A", "0.5")
        for path, fields, message in (
            ("servings", {"serving": "1 g", "per_bag": "2"}, "between 20 g and 5 kg"),
            ("servings", {"serving": "200 g", "per_bag": "0"}, "from 1 to 12"),
            ("supplies", {"width": "20", "length": "30", "held": "x"}, "is not a number"),
            ("supplies", {"width": "1", "length": "30", "held": "5"}, "5 and 100 cm wide"),
            ("sharing", {"how": "shares", "share-none": "1"}, "Somebody must have a share"),
            ("bags", {}, "holds 1 to 60"),
            ("bags/lay", {"part": "nothing", "to": "own"}, "went into another"),
        ):
            with self.subTest(path=path, fields=fields):
                answer = self.form(f"{self.trip}/{path}", **fields)
                self.assertIn(answer.status_code, (409, 422))
                self.assertIn(message, answer.text)

    def test_undoing_what_something_rests_on_is_a_conflict_page(self) -> None:
        self.weigh(self.fish, "gut", "0.3")
        answer = self.form("/undo", kind="fish", id=self.fish.removeprefix("/fish/"), back="/")
        self.assertEqual(answer.status_code, 409)
        self.assertIn("undo those first", answer.text)


class FreezerTest(WebTest):
    def test_wrong_codes_photos_and_places_are_answered_at_their_fields(self) -> None:
        trip = self.start_trip()
        for code, status in (("hello", 422), ("222-223", 422), ("222-222", 404)):
            with self.subTest(code=code):
                answer = self.client.get(
                    "/find", params={"code": code, "trip": trip.split("/")[-1]}
                )
                self.assertEqual(answer.status_code, status)
        photo = self.client.post(
            "/freezer/scan", files={"photo": ("x.png", b"no picture")}, headers={"origin": HOST}
        )
        self.assertEqual(photo.status_code, 422)
        self.assertIn("not a picture", photo.text)
        self.assertEqual(self.form(f"{trip}/places", name="").status_code, 422)
        self.assertEqual(self.form(f"{trip}/putaway").status_code, 422)
        self.form(f"{trip}/places", name="chest")
        chest = re.search(
            r"/freezer/places/([0-9A-Z]{26})", self.client.get(f"{trip}/freezer").text
        )
        assert chest
        for celsius, litres, why in (
            ("", "100", "Say which temperature it holds"),
            ("cold", "100", "not a temperature"),
            ("-20", "many", "is not a number"),
            ("-300", "100", "A freezer is between"),
        ):
            with self.subTest(celsius=celsius, litres=litres):
                answer = self.form(
                    f"/freezer/places/{chest[1]}", celsius=celsius, litres=litres,
                    cooling="fan", place_id=chest[1],
                )  # fmt: skip
                self.assertEqual(answer.status_code, 422)
                self.assertIn(why, answer.text)
        missing = self.form("/freezer/places/nowhere", celsius="-20", cooling="fan")
        self.assertEqual(missing.status_code, 404)
        self.form(f"/freezer/places/{chest[1]}", celsius="-20", litres="", cooling="fan")
        fish = self.land(trip, "cod", "75")
        self.weigh(fish, "fillet.A", "1.1")
        self.weigh(fish, "fillet.B", "1.1")
        while keys := re.findall(
            r'name="part"\s+value="([^"]+)"', self.client.get(f"{trip}/pack").text
        ):
            self.form(f"{trip}/bags", part=keys[0])
        self.form(f"/freezer/places/{chest[1]}", celsius="-20", litres="1", cooling="fan")
        self.assertIn("and so on for", self.client.get(f"{trip}/freezer").text)
        self.form(f"/freezer/places/{chest[1]}", celsius="-20", litres="", cooling="fan")
        (place,) = self.client.get("/api/v1/places").json()
        self.assertEqual((place["celsius"], place["litres"], place["cooling"]), (-20, None, "fan"))
        self.assertEqual(self.client.get(f"{trip}/freezer?place=nowhere").status_code, 404)
        self.assertEqual(self.client.get(f"{trip}/freezer?page=99999999999").status_code, 200)

    def test_stand_ins_refuse_what_cannot_be(self) -> None:
        for load in ("", "99", "-1", "x"):
            with self.subTest(load=load):
                self.assertEqual(self.form("/devices/scale", do="load", load=load).status_code, 422)
        self.assertEqual(self.client.get("/devices/printer/7.pdf").status_code, 404)

    def test_a_file_that_is_no_text_or_too_large_is_refused(self) -> None:
        trip = self.start_trip()
        for data, message in (
            (b"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00", "no text"),
            (b"a" * 1_000_001, "larger than 1 MB"),
            (b"", "empty"),
        ):
            with self.subTest(message=message):
                answer = self.client.post(
                    f"{trip}/import", data={"key": self.key()}, files={"file": ("f.csv", data)},
                    headers={"origin": HOST},
                )  # fmt: skip
                self.assertEqual(answer.status_code, 422)
                self.assertIn(message, answer.text)

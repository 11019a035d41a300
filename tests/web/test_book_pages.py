"""The yield book's pages over HTTP: what they show, what they refuse and where, and odd addresses."""

import io
import json
import re

import openpyxl
import pypdf

from tests.web.client import WebTest


class BookPagesTest(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()

    def finished(self, kind: str = "pollack", cm: str = "62", kg: str = "2.2") -> str:
        answer = self.form(f"{self.trip}/fish", species=kind, length=cm, weight=kg, bled="on")
        self.assertEqual(answer.status_code, 303, answer.text[-800:])
        fish = f"/fish/{max(self.client.get('/api/v1' + self.trip + '/fish').json(), key=lambda f: f['id'])['id']}"
        for side in "AB":
            self.weigh(fish, f"fillet.{side}", "0.48")
        self.form(f"{fish}/close")
        return fish

    def text(self, path: str) -> str:
        answer = self.client.get(path)
        self.assertEqual(answer.status_code, 200, answer.text[:300])
        return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", answer.text))

    def test_every_fish_says_of_what_and_per_what(self) -> None:
        for _ in range(3):
            self.finished()
        page = self.text("/season/fish?species=pollack")
        self.assertIn("43.6 % fillets, skin on, of round weight", page)
        self.assertIn("3 finished fish", page)
        self.assertIn("No fish was weighed at both", self.text("/season/fish?over=boneless"))

    def test_odd_addresses_of_every_fish_show_something(self) -> None:
        self.finished()
        for query in (
            "year=0", "year=99999", "year=all&by=method.ribs", "by=nonsense", "over=skin_on&under=boneless",
            "order=<b>", "page=999", "page=-1", "species=unicorn", "party=%00", "by=method.", "cutter=" + "x" * 999,
        ):  # fmt: skip
            with self.subTest(query=query):
                self.assertNotIn("<b>", self.client.get(f"/season/fish?{query}").text)
                self.text(f"/season/fish?{query}")
        self.assertEqual(self.client.get("/season/fish.exe").status_code, 404)

    def test_the_files_are_what_they_say(self) -> None:
        self.finished()
        sheet = openpyxl.load_workbook(io.BytesIO(self.client.get("/season/fish.xlsx").content))
        self.assertEqual(sheet.active.max_row, 2)
        (one,) = json.loads(self.client.get("/season/fish.json").content)
        self.assertAlmostEqual(one["yield"], 0.96 / 2.2)
        pdf = self.client.get("/season.pdf")
        self.assertEqual(pdf.headers["content-type"], "application/pdf")
        self.assertIn("Season", pypdf.PdfReader(io.BytesIO(pdf.content)).pages[0].extract_text())

    def test_a_trial_is_begun_told_at_the_bench_and_called_off(self) -> None:
        page = self.form("/season/trials", way_x="over them", way_y="through", fish="5")
        self.assertEqual(page.status_code, 422)
        self.assertIn("6 to 200", page.text)
        self.assertIn('value="over them"', page.text)
        self.form("/season/trials", way_x="over <i>them</i>", way_y="through", fish="8")
        self.assertNotIn("<i>them", self.client.get("/season/trials").text)
        fish = self.land(self.trip, "pollack", "62", weight="2.2")
        self.form(f"{fish}/board")
        steps = 0
        while "Trial," not in (page := self.client.get(fish).text) and steps < 20:
            key = re.search(r'name="step"\s+value="([^"]+)"', page)
            self.form(f"{fish}/steps", step=key[1])
            steps += 1
        self.assertIn("through", page)
        where = re.search(
            r'action="(/season/trials/\w+/off)"', self.client.get("/season/trials").text
        )
        self.form(where[1])
        self.assertNotIn("Trial,", self.client.get(fish).text)

    def test_scraped_meat_is_refused_at_its_field_and_kept(self) -> None:
        fish = self.finished().rpartition("/")[2]
        page = self.form("/season/millimetres", fish=fish, side="A", zone="ribs", weight="lots")
        self.assertEqual(page.status_code, 422)
        self.assertIn("lots", page.text)
        self.form("/season/millimetres", fish=fish, side="A", zone="ribs", weight="24 g")
        self.assertIn("most is left over the ribs", self.text("/season/millimetres"))

    def test_a_blade_is_noted_for_somebody_who_cuts(self) -> None:
        self.form(f"{self.trip}/boards", cutter="Ines")
        page = self.form("/season/cutters/sharpened", cutter="nobody")
        self.assertEqual(page.status_code, 422)
        done = self.form("/season/cutters/sharpened", cutter="Ines", blade="the long one")
        self.assertIn("Ines takes up the long one", self.client.get(done.headers["location"]).text)

    def test_what_if_says_what_is_wrong_with_a_length(self) -> None:
        page = self.text("/season/what-if?species=pollack&length=62&cutter=Ines")
        self.assertIn("The guide alone", page)
        self.assertIn("Skin off", page)
        self.assertIn(
            "length must be 1 to 162.5 cm", self.text("/season/what-if?species=pollack&length=9999")
        )
        self.assertIn("species", self.text("/season/what-if?species=xyzzy&length=60").lower())

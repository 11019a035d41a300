"""The whole path by forms alone, as a browser without scripts would walk it."""

import io
import re

import pypdfium2

from tests.web.client import WebTest


class FishInHandTest(WebTest):
    def test_one_fish_from_an_empty_folder_to_its_first_step_by_a_form(self) -> None:
        page = self.client.get("/start").text
        self.assertIn('<option value="pollack">', page)
        wrong = self.form("/start", species="pollack", length="", state="whole")
        self.assertEqual(wrong.status_code, 422)
        self.assertRegex(wrong.text, r'id="problem-length"[^>]*>.+')
        wrong = self.form("/start", species="unicorn", length="40")
        self.assertRegex(wrong.text, r'id="problem-species"[^>]*>.*unicorn')
        self.assertEqual(self.client.get("/").headers["location"], "/start")
        done = self.form("/start", species="pollack", length="68", state="whole")
        fish = self.client.get(done.headers["location"]).text
        self.assertIn("Look once more", fish)
        self.assertNotIn("·\n", re.search(r'class="whose".*?</a>', fish, re.S)[0])  # type: ignore[index]
        self.assertIn("/deck", self.client.get("/").headers["location"])


class BonesTest(WebTest):
    def test_nobody_is_told_to_feel_a_squid_for_bones(self) -> None:
        trip = self.start_trip()
        for kind, length, slot, told in (
            ("pollack", "68", "fillet.A", True), ("european_squid", "35", "tube", False),
        ):  # fmt: skip
            fish = self.land(trip, kind, length)
            self.weigh(fish, slot, "0.11")
            keys = set(re.findall(r"\?bag=([^\"&]+)", self.client.get(f"{trip}/pack").text))
            pages = [self.client.get(f"{trip}/pack?bag={k}").text.split("<aside")[1] for k in keys]
            page = next(p for p in pages if kind.split("_")[-1] in p.split("</h2>")[0].lower())
            self.assertEqual("Feel along the fillet with a fingertip" in page, told)
            self.assertEqual("in someone's throat" in page or "someone&#39;s throat" in page, told)


class UnitsTest(WebTest):
    def test_units_are_the_languages_until_they_are_chosen(self) -> None:
        def units(language: str) -> str:
            page = self.client.get("/start", headers={"accept-language": language}).text
            return re.search(r'data-units="(\w+)"', page)[1]  # type: ignore[index]

        for language, found in (
            ("en-US,en;q=0.9", "imperial"), ("es-us", "imperial"), ("en-GB,en-US;q=0.5", "metric"),
            ("pt", "metric"), ("", "metric"), ("*;q=0.1", "metric"), ("-US-", "metric"),
        ):  # fmt: skip
            self.assertEqual(units(language), found, language)
        self.client.cookies.set("units", "metric")
        self.assertEqual(units("en-US"), "metric")


class PathTest(WebTest):
    def test_land_cut_weigh_pack_freeze_find_take_out(self) -> None:
        self.assertEqual(self.client.get("/").headers["location"], "/start")
        trip = self.start_trip()
        self.assertIn(trip, self.client.get("/").headers["location"])
        fish = self.land(trip, weight="2.91")
        self.form(f"{fish}/steps", step="look")
        for slot, kg in (("gut", "350 g"), ("belly.A", "0.088"), ("belly.B", "0.085"),
                         ("fillet.A", "0.56"), ("fillet.B", "0.54"), ("frame", "0.4")):  # fmt: skip
            self.weigh(fish, slot, kg)
        page = self.client.get(fish).text
        self.assertIn("43.7 %", page)
        self.assertIn("fillets, skin on, of round weight (measured)", re.sub(r"<[^>]+>", "", page))
        self.form(f"{fish}/close")
        self.assertIn("unaccounted for", self.client.get(fish).text)
        piece = next(
            p
            for p in re.findall(r"/pieces/[0-9A-Z]{26}", self.client.get(f"{trip}/pack").text)
            if "fillet A" in self.client.get(p).text
        )
        self.assertRegex(self.client.get(piece).text, r"cut at <strong>\d+\.\d cm")
        self.assertEqual(self.seal(trip).status_code, 303)
        printed = self.client.get("/devices/printer/0.pdf").content
        image = pypdfium2.PdfDocument(printed)[0].render(scale=3).to_pil()
        photo = io.BytesIO()
        image.save(photo, "PNG")
        self.form(f"{trip}/places", name="chest")
        freezer = self.client.get(f"{trip}/freezer").text
        code = re.findall(r'name="codes" value="([2-9A-Z]{6})"', freezer)[0]
        place = re.findall(r'name="place" value="([0-9A-Z]{26})"', freezer)[0]
        self.form(f"{trip}/putaway", codes=code, place=place)
        found = self.client.post(
            "/freezer/scan", files={"photo": ("label.png", photo.getvalue())},
            headers={"origin": "http://127.0.0.1"},
        )  # fmt: skip
        self.assertEqual(found.headers["location"], f"/b/{code}")
        typed = self.client.get("/find", params={"code": f"{code[:3]}-{code[3:].lower()}"})
        self.assertEqual(typed.headers["location"], f"/b/{code}")
        self.assertIn("In chest", self.client.get(f"/b/{code}").text)
        self.form(f"/b/{code}/out", why="to eat")
        bag = self.client.get(f"/b/{code}").text
        self.assertIn("Taken out", bag)
        self.assertIn("into chest", bag)
        self.assertIn(
            "1 finished",
            re.sub(r"\bfish\b", "", self.client.get(f"{trip}/deck").text).replace("  ", " "),
        )
        book = self.client.get(f"{trip}/yieldbook").text
        self.assertIn("43.7 %", book)
        self.assertTrue(self.client.get(f"{trip}/yieldbook.csv").text.startswith("trip_date,"))

    def test_units_are_switched_in_one_touch_and_come_back(self) -> None:
        trip = self.start_trip()
        self.land(trip, weight="2.91")
        self.form("/units", back=f"{trip}/deck")
        page = self.client.get(f"{trip}/deck").text
        self.assertIn("6 lb 6.6 oz", page)
        self.assertIn("26.8 in", page)
        self.land(trip, length="26.8", weight="6.4")
        self.form("/units", back="/")
        self.assertIn("2.90 kg", self.client.get(f"{trip}/deck").text)

    def test_a_form_is_read_in_the_units_it_was_filled_in(self) -> None:
        trip = self.start_trip()
        deck = self.client.get(f"{trip}/deck").text
        filled_in = re.findall(r'name="units" value="(\w+)"', deck)
        self.assertEqual(set(filled_in), {"metric"})
        self.form("/units", back="/")  # switched in another window, or while the entry waited
        self.land(trip, weight="2.91", units=filled_in[0])
        self.form("/units", back="/")
        self.assertIn("2.91 kg", self.client.get(f"{trip}/deck").text)

    def test_with_the_seas_temperature_the_cold_is_shown(self) -> None:
        wrong = self.form(
            "/trips", name="x", harbour="y", kind="boat", on_date="2026-07-14", sea_c="warm"
        )
        self.assertRegex(wrong.text, r'id="problem-sea_c"[^>]*>That is not a temperature')
        trip = self.start_trip(sea_c="14", air_c="64 F", ice_kg="40")
        fish = self.land(trip, iced="on")
        deck = self.client.get(f"{trip}/deck").text
        self.assertIn("14.0 °C", deck)
        self.assertRegex(deck, r"Ice left / needed.*>40 <small>/ 0\.5 kg")
        self.assertIn("How cold it is", self.client.get(f"{fish}/card").text)
        self.assertEqual(self.client.get(f"/api/v1{fish}").json()["cold"]["core_c"], 14.0)

    def test_night_theme_is_kept(self) -> None:
        self.form("/theme", back="/trips/new")
        self.assertIn('data-bs-theme="dark"', self.client.get("/trips/new").text)

    def test_a_switch_never_leads_to_another_site(self) -> None:
        for back in (
            "https://evil.example/",
            "//evil.example/",
            "/\\evil.example",
            "javascript:alert(1)",
        ):
            with self.subTest(back=back):
                answer = self.form("/units", back=back)
                self.assertRegex(answer.headers["location"], r"^/(?![/\\])|^/$")

    def test_what_was_done_can_be_undone_from_the_next_page(self) -> None:
        trip = self.start_trip()
        answer = self.form(f"{trip}/fish", species="cod", length="70")
        page = self.client.get(answer.headers["location"]).text
        self.assertIn("C1 landed", page)
        row = re.search(
            r'name="kind" value="fish">\s*<input type="hidden" name="id" value="(\w+)"', page
        )
        assert row
        undone = self.form("/undo", kind="fish", id=row[1], back=f"{trip}/deck")
        self.assertIn("landing undone", self.client.get(undone.headers["location"]).text)
        again = self.client.get(answer.headers["location"]).text
        self.assertNotIn('name="kind" value="fish"', again)

    def test_import_by_file_then_accept(self) -> None:
        trip = self.start_trip()
        text = "code,species,length,length_type,weight\nA1,cod,70,total,3.6\nA2,cd,70,total,\n"
        checked = self.client.post(
            f"{trip}/import", data={"key": self.key()}, files={"file": ("fish.csv", text)},
            headers={"origin": "http://127.0.0.1"},
        )  # fmt: skip
        self.assertEqual(checked.status_code, 200)
        self.assertIn("did you mean cod", checked.text)
        self.assertIn("Nothing on the slab", self.client.get(f"{trip}/deck").text)
        accepted = self.form(f"{trip}/import", text=text, accept="1")
        self.assertEqual(accepted.status_code, 303)
        self.assertIn(
            "1 fish landed from the file; 1 left out",
            self.client.get(accepted.headers["location"]).text,
        )

    def test_every_page_answers(self) -> None:
        trip = self.start_trip()
        fish = self.land(trip)
        self.weigh(fish, "fillet.A", "0.5")
        for path in (
            f"{trip}/deck", f"{trip}/table", f"{trip}/pack", f"{trip}/freezer", f"{trip}/yieldbook",
            f"{trip}/import", fish, f"{fish}?side=B", self.piece(trip), "/guide", "/devices", "/health",
            "/trips", "/trips?page=9", "/trips/new", "/api/docs", "/favicon.ico",
            *(f"/guide/{key}" for key in self.ctx.guide.species),
        ):  # fmt: skip
            for units in ("metric", "imperial"):
                with self.subTest(path=path, units=units):
                    answer = self.client.get(path, headers={"cookie": f"units={units}"})
                    self.assertEqual(answer.status_code, 200)
                    self.assertNotIn("{{", answer.text)

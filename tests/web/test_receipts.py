"""Receipts, labels and sheets over HTTP: what comes out, and what a private address does not show."""

import io
import re

from PIL import Image
from pypdf import PdfReader

from lepidos.exchange import qr
from tests.web.client import WebTest


class ReceiptPagesTest(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        for party in ("Tolland", "Marsh"):
            page = self.client.get(f"{self.trip}/deck").text
            who = re.findall(
                rf'name="party" id="[^"]*" value="(\w+)"[^>]*>\s*<label[^>]*>\s*{party}', page
            )[0]
            self.weigh(self.land(self.trip, "cod", "75", party=who), "fillet.A", "0.61")
        while f'action="{self.trip}/bags"' in self.client.get(f"{self.trip}/pack").text:
            self.assertEqual(self.seal(self.trip).status_code, 303)
        self.form(f"{self.trip}/costs", cost="The <b>boat</b>", amount="90,01", shared_by="equal")
        self.sheets = re.findall(
            rf'href="({self.trip}/shares/\w+)"', self.client.get(f"{self.trip}/pack").text
        )

    def test_a_private_address_shows_one_party_and_nothing_of_the_app(self) -> None:
        self.form(f"{self.sheets[0]}/link")
        path = re.findall(r'href="(/r/[\w-]{22})"', self.client.get(self.sheets[0]).text)[0]
        answer = self.client.get(path)
        self.assertEqual(answer.status_code, 200)
        self.assertIn("Tolland", answer.text)
        self.assertIn("45.01 EUR", answer.text)
        self.assertIn("The &lt;b&gt;boat", answer.text)
        for hidden in ("Marsh", "/trips/", "/b/", "/fish/", 'class="rail"', "/undo"):
            self.assertNotIn(hidden, answer.text)
        self.assertEqual(answer.headers["cache-control"], "no-store")
        pdf = PdfReader(io.BytesIO(self.client.get(f"{path}/receipt.pdf").content))
        text = pdf.pages[0].extract_text()
        self.assertEqual(len(pdf.pages), 1)
        self.assertIn("To pay: 45.01 EUR", text)
        self.assertNotIn("Marsh", text)
        link = re.findall(
            r'value="receipt link">\s*<input[^>]*name="id" value="(\w+)"',
            self.client.get(self.sheets[0]).text,
        )[0]
        self.form("/undo", kind="receipt link", id=link, back=self.sheets[0])
        self.assertEqual(self.client.get(path).status_code, 404)

    def test_the_sheets_of_both_parties_add_up(self) -> None:
        found = [
            re.findall(r"<strong>([\d.]+) EUR</strong>[:.]", self.client.get(s).text)[0]
            for s in self.sheets
        ]
        self.assertEqual(sorted(found), ["45.00", "45.01"])

    def test_labels_come_as_pictures_in_the_size_that_was_chosen(self) -> None:
        self.form("/settings/label", size="62x29")
        bag = re.findall(r'"/b/([0-9A-Z]{6})"', self.client.get(f"{self.trip}/pack").text)[0]
        row = re.findall(r"/bags/(\w+)/label.pdf", self.client.get(f"/b/{bag}").text)[0]
        png = self.client.get(f"/bags/{row}/label.png")
        self.assertEqual(png.headers["content-type"], "image/png")
        self.assertEqual(qr.read_photo(png.content), bag)
        with Image.open(io.BytesIO(png.content)) as picture:
            self.assertAlmostEqual(picture.width / picture.height, 62 / 29, delta=0.02)
        self.assertIn(
            "image/svg", self.client.get(f"/bags/{row}/label.svg").headers["content-type"]
        )
        self.assertEqual(self.client.get(f"/bags/{row}/label.gif").status_code, 404)
        for size in ("5x5", "x", "300x300"):
            self.assertEqual(self.form("/settings/label", size=size).status_code, 422)

    def test_what_may_be_left_out_of_a_label_is_and_the_rest_stands(self) -> None:
        bag = re.findall(r'"/b/([0-9A-Z]{6})"', self.client.get(f"{self.trip}/pack").text)[0]
        row = re.findall(r"/bags/(\w+)/label.pdf", self.client.get(f"/b/{bag}").text)[0]

        def text() -> str:
            pdf = self.client.get(f"/bags/{row}/label.pdf").content
            return " ".join(PdfReader(io.BytesIO(pdf)).pages[0].extract_text().split())

        self.assertIn("Caught", text())
        self.form("/settings/lines", lines=["details"])
        shown = text()
        for gone in ("Caught", "Tolland", "Marsh"):
            self.assertNotIn(gone, shown)
        for kept in ("skin on", "Best by", "Contains fish."):
            self.assertIn(kept, shown)
        self.assertEqual(self.form("/settings/lines", lines=["cautions"]).status_code, 422)

    def test_sheets_begin_at_the_place_that_was_said(self) -> None:
        fields = {"paper": "letter", "across": "2", "down": "5", "first": "10"}
        answer = self.form(f"{self.trip}/labels.pdf", **fields)
        pages = PdfReader(io.BytesIO(answer.content)).pages
        self.assertGreaterEqual(len(pages), 2)
        self.assertAlmostEqual(float(pages[0].mediabox.width), 612, delta=1)
        for wrong in ({"paper": "a9"}, {"first": "11"}, {"left": "900"}, {"down": "x"}):
            with self.subTest(wrong=wrong):
                self.assertEqual(
                    self.form(f"{self.trip}/labels.pdf", **(fields | wrong)).status_code, 422
                )

    def test_a_ruler_strip_is_as_long_as_the_piece(self) -> None:
        fish = self.land(self.trip, "cod", "75")
        self.weigh(fish, "fillet.A", "0.8")
        piece = self.piece(self.trip)
        self.form(f"{piece}/marks", way="hand", cuts="0.1 0.2", length="41 cm")
        pdf = PdfReader(io.BytesIO(self.client.get(f"{piece}/ruler.pdf").content))
        self.assertAlmostEqual(float(pdf.pages[0].mediabox.width) / 72 * 25.4, 410 + 16, delta=1)
        self.assertIn("10.0 cm", pdf.pages[0].extract_text())

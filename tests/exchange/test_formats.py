"""What goes out reads back: labels by a PDF reader and a QR decoder, tables by csv."""

import csv
import io
import re
import unittest
import warnings
import xml.etree.ElementTree as ET
from datetime import date

import pypdfium2
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from pypdf import PdfReader

from lepidos.core.errors import BadInput, OutOfRange
from lepidos.core.fish.anatomy import Body
from lepidos.core.fish.fins import tail_drawing
from lepidos.core.fish.species import Mark
from lepidos.core.pack.labels import label_content
from lepidos.exchange import qr, svg
from lepidos.exchange.labelpdf import Sheet, label_png, label_svg, labels_pdf, sheet_pdf
from lepidos.exchange.table_csv import MAX_ROWS, read_csv, safe_cell, write_csv
from lepidos.guide.library import load_guide
from tests.app import NOON

GUIDE = load_guide()


def label(**changes: object):
    values = {
        "species": "pollack", "cut": "fillet", "skin": "on", "servings": 2, "weight": "458 g",
        "caught": date(2026, 7, 14), "packed": date(2026, 7, 14), "best": date(2027, 3, 14),
        "owner": "Tolland", "code": "K7M2QD", "cautions": ("Slit the bag, thaw in the fridge.",),
    }  # fmt: skip
    return label_content(**(values | changes))


def photo_of(pdf: bytes, scale: float = 3.0) -> bytes:
    image = pypdfium2.PdfDocument(pdf)[0].render(scale=scale).to_pil()
    out = io.BytesIO()
    image.save(out, "JPEG", quality=80)
    return out.getvalue()


class LabelTest(unittest.TestCase):
    def test_all_that_must_stand_on_it_stands_on_it(self) -> None:
        reader = PdfReader(io.BytesIO(labels_pdf([label()], NOON)))
        self.assertEqual(len(reader.pages), 1)
        text = reader.pages[0].extract_text()
        for part in (
            "Pollack fillet", "skin on", "2 servings", "458 g", "Caught 14 Jul 2026",
            "packed 14 Jul 2026", "Best by 14 Mar 2027", "Tolland", "Slit the bag", "K7M-2QD",
        ):  # fmt: skip
            self.assertIn(part, text)

    def test_the_qr_code_reads_back_from_a_picture_of_the_page(self) -> None:
        for link in ("", "http://marram-lass.local:8000"):
            pdf = labels_pdf([label(link_base=link)], NOON)
            with self.subTest(link=link):
                self.assertEqual(qr.read_photo(photo_of(pdf)), label(link_base=link).link)

    def test_a_tilted_dim_photo_still_reads(self) -> None:
        with Image.open(io.BytesIO(photo_of(labels_pdf([label()], NOON)))) as page:
            dim = (
                page.convert("L").rotate(11, expand=True, fillcolor=90).point(lambda v: 40 + v // 2)
            )
        out = io.BytesIO()
        dim.save(out, "PNG")
        self.assertEqual(qr.read_photo(out.getvalue()), "K7M2QD")

    def test_a_photo_of_many_pixels_is_read_small_and_a_bomb_is_refused(self) -> None:
        code = Image.open(io.BytesIO(label_png(label(), NOON, (62, 29)))).convert("RGB")
        large = Image.new("RGB", (8000, 6000), "white")
        large.paste(code.resize((4000, 4000 * code.height // code.width)), (2000, 2000))
        out = io.BytesIO()
        large.save(out, "JPEG", quality=60)
        self.assertEqual(qr.read_photo(out.getvalue()), "K7M2QD")
        for kind, words in (("PNG", "too large"), ("BMP", "not a picture in JPEG, PNG or WebP")):
            bomb = io.BytesIO()
            Image.new("1", (6000, 6000)).save(bomb, kind)
            with self.subTest(kind=kind), self.assertRaisesRegex(BadInput, words):
                qr.read_photo(bomb.getvalue())

    def test_every_size_reads_back_and_nothing_runs_over_its_edge(self) -> None:
        """By another library than made it: text by pypdf, its boxes by pdfium, the code by zxing."""
        long = label(
            species="Sea trout of the wide bay", owner="Party with a very long name indeed",
            cautions=("Cook through or hold frozen: parasites.", "Keep cold: histamine fish.",
                      "Slit the bag before thawing in the refrigerator."),
        )  # fmt: skip
        for size in ((100, 62), (62, 100), (62, 29), (50, 30), (29, 90), (40, 20), (20, 60)):
            with self.subTest(size=size):
                pdf = labels_pdf([long], NOON, size)
                page = pypdfium2.PdfDocument(pdf)[0]
                wide, high = page.get_size()
                text = page.get_textpage()
                for n in range(text.count_rects()):
                    left, bottom, right, top = text.get_rect(n)
                    self.assertGreaterEqual(min(left, bottom), -0.5)
                    self.assertLessEqual(right, wide + 0.5)
                    self.assertLessEqual(top, high + 0.5)
                shown = PdfReader(io.BytesIO(pdf)).pages[0].extract_text()
                shown = " ".join(shown.split())
                for must in ("Best by", "Cook through", "histamine", "Slit the bag", "K7M-2QD"):
                    self.assertIn(must, shown)
                self.assertEqual(qr.read_photo(photo_of(pdf)), "K7M2QD")

    def test_names_of_other_scripts_are_set_in_a_font_that_has_them(self) -> None:
        with warnings.catch_warnings(), self.assertNoLogs("fpdf", "WARNING"):
            warnings.simplefilter("error")
            for name, shown in (
                ("Łódź Żeglarze", "Łódź Żeglarze"), ("Ελένη", "Ελένη"), ("Борис", "Борис"),
                ("Zoë 🐟", "Zoë □"), ("\u05e9\u05dc\u05d5\u05dd", "\u05e9\u05dc\u05d5\u05dd"),
            ):  # fmt: skip
                for size in ((100, 62), (40, 20)):
                    with self.subTest(name=name, size=size):
                        pdf = labels_pdf([label(owner=name, cautions=())], NOON, size)
                        self.assertIn(shown, PdfReader(io.BytesIO(pdf)).pages[0].extract_text())

    def test_pictures_say_the_same(self) -> None:
        self.assertEqual(qr.read_photo(label_png(label(), NOON, (62, 29))), "K7M2QD")
        drawn = ET.fromstring(label_svg(label(owner="A & <b>"), NOON, (62, 29)))
        texts = [e.text for e in drawn.iter("{http://www.w3.org/2000/svg}text")]
        self.assertIn("A & <b>", texts)
        self.assertIn("K7M-2QD", texts)

    def test_sheets_begin_where_labels_are_left(self) -> None:
        sheet = Sheet(210, 297, 2, 7, 7, 15, 2.5)
        pages = PdfReader(io.BytesIO(sheet_pdf([label()] * 15, NOON, sheet, 14))).pages
        counts = [page.extract_text().count("K7M-2QD") for page in pages]
        self.assertEqual(counts, [1, 14])
        with self.assertRaises(OutOfRange):
            sheet_pdf([label()], NOON, sheet, 15)

    def test_same_labels_same_bytes(self) -> None:
        self.assertEqual(labels_pdf([label()], NOON), labels_pdf([label()], NOON))

    def test_names_are_set_as_text_and_never_as_markup(self) -> None:
        rude = label(owner="**bold** <b>x</b> \x00\n[link](http://x)")
        text = PdfReader(io.BytesIO(labels_pdf([rude], NOON))).pages[0].extract_text()
        self.assertIn("**bold** <b>x</b>", text)
        self.assertNotIn("/Annots", PdfReader(io.BytesIO(labels_pdf([rude], NOON))).pages[0])

    def test_long_text_stays_left_of_the_qr_code(self) -> None:
        wide = label(species="W" * 60, owner="M" * 90, cautions=("Word " * 30,) * 3)
        self.assertEqual(qr.read_photo(photo_of(labels_pdf([wide], NOON))), "K7M2QD")

    def test_what_is_no_picture_or_has_no_code_is_told_so(self) -> None:
        blank = io.BytesIO()
        Image.new("L", (200, 200), 255).save(blank, "PNG")
        for data, message in (
            (b"", "not a picture"),
            (b"GIF89a junk", "not a picture"),
            (blank.getvalue(), "No QR"),
        ):
            with self.subTest(message=message), self.assertRaisesRegex(BadInput, message):
                qr.read_photo(data)

    def test_a_decompression_bomb_is_not_unpacked(self) -> None:
        bomb = io.BytesIO()
        Image.new("1", (9000, 9000)).save(bomb, "PNG")
        with self.assertRaisesRegex(BadInput, "too large"):
            qr.read_photo(bomb.getvalue())


class CsvTest(unittest.TestCase):
    @given(st.text(max_size=60))
    def test_no_text_cell_starts_like_a_formula(self, text: str) -> None:
        cell = safe_cell(text)
        self.assertFalse(cell.lstrip().startswith(("=", "+", "-", "@")))
        self.assertTrue(cell.endswith(text))

    def test_numbers_stay_numbers(self) -> None:
        self.assertEqual(safe_cell(-0.25), "-0.25")
        self.assertEqual(safe_cell(None), "")

    @given(
        st.lists(
            st.text(
                st.characters(blacklist_characters="\x00\r\n", blacklist_categories=("Cs",)),
                max_size=20,
            ),
            min_size=2,
            max_size=4,
        )
    )
    def test_what_is_written_reads_back(self, cells: list[str]) -> None:
        text = write_csv([f"c{k}" for k in range(len(cells))], [cells])
        (row,) = list(csv.reader(io.StringIO(text)))[1:]
        self.assertEqual(row, [safe_cell(c) for c in cells])

    def test_reads_commas_semicolons_and_tabs_with_the_line_of_each_row(self) -> None:
        for sign in (",", ";", "\t"):
            text = f"\ufeffSpecies{sign}Length\r\npollack{sign}68\r\n\r\ncod{sign}71\r\n"
            header, rows = read_csv(text)
            self.assertEqual(header, ["species", "length"])
            self.assertEqual([line for line, _ in rows], [2, 4])
            self.assertEqual(rows[1][1]["species"], "cod")

    def test_refuses_what_is_no_table(self) -> None:
        many = "species,length\n" + "cod,70\n" * (MAX_ROWS + 1)
        for text, message in (
            ("", "empty"),
            ("  \n", "empty"),
            ("a\x00b", "not a text"),
            ("x,x\n1,2", "same name"),
            (many, "More than"),
            ('a,b\n"' + "x" * 200_000, "cannot be read"),
        ):
            with self.subTest(message=message), self.assertRaisesRegex(BadInput, message):
                read_csv(text)


class DrawingTest(unittest.TestCase):
    def test_every_fish_is_well_formed_small_and_inside_its_window(self) -> None:
        for key, species in GUIDE.species.items():
            with self.subTest(species=key):
                body = GUIDE.bodies[key]
                group = svg.fish_group(species, body)
                ET.fromstring(f"<g>{group}</g>")
                self.assertLess(len(group), 40_000)
                window = svg.frame(body)
                self.assertGreater(window.width, 1000)
                for x, y in body.outline():
                    self.assertTrue(window.left <= x * svg.UNIT <= window.left + window.width)
                    self.assertTrue(window.top <= -y * svg.UNIT <= window.top + window.height)

    def test_a_right_eyed_flatfish_faces_right(self) -> None:
        self.assertIn("scale(-1 1)", svg.flip(GUIDE.one("plaice")))
        self.assertEqual(svg.flip(GUIDE.one("turbot")), "")

    def test_turned_over_it_faces_the_other_way_in_a_window_that_holds_it(self) -> None:
        for key, toward in (("plaice", 0.0), ("turbot", 1.0)):
            one, body = GUIDE.one(key), GUIDE.bodies[key]
            turned = svg.is_turned(one, "blind")
            self.assertNotEqual(turned, svg.is_turned(one))
            window = svg.frame(body, turned)
            # the mouth is where it faces, the tail's edge where it does not
            tail = max(x for x, _ in tail_drawing(body).outline)
            xs = [svg.UNIT * (1 - x if turned else x) for x in (0.0, tail)]
            self.assertEqual(xs[0], svg.UNIT * toward)
            for x in xs:
                self.assertTrue(window.left <= x <= window.left + window.width, (key, x))

    def test_the_blind_side_has_no_eye_no_colour_and_no_mark(self) -> None:
        for key in ("plaice", "turbot", "sole"):
            group = svg.fish_group(GUIDE.one(key), GUIDE.bodies[key], look="blind")
            self.assertNotIn("eye", group)
            self.assertNotIn("mark", group)
            self.assertIn('class="skin skin-white"', group)

    def test_what_death_takes_is_gone_and_what_it_pales_is_pale(self) -> None:
        """Mahi-mahi: gold goes to grey, blue dots go; plaice: orange pales (guide; memory)."""

        def dead(key: str) -> str:
            return svg.fish_group(GUIDE.one(key), GUIDE.bodies[key], look="dead")

        self.assertIn(
            "skin-gold", svg.fish_group(GUIDE.one("mahi_mahi"), GUIDE.bodies["mahi_mahi"])
        )
        self.assertIn('class="skin skin-grey"', dead("mahi_mahi"))
        self.assertNotIn("mark-blue", dead("mahi_mahi"))
        self.assertIn('class="mark mark-orange pale"', dead("plaice"))
        self.assertIn('class="mark mark-dark"', dead("plaice"))  # the knobs stay
        self.assertIn('class="skin skin-red pale"', dead("red_snapper"))
        alive, later = (
            Mark(kind="blotch", colour="black", size=0.01, at=((1.5, 0.0),), dead=how)
            for how in ("goes", "shows")
        )
        for mark, look in ((alive, "alive"), (later, "dead")):
            one = GUIDE.one("ling")
            shape = one.shape.model_copy(update={"marks": (mark,)})
            body = Body.of(shape)
            for now in ("alive", "dead"):
                group = svg.fish_group(one.model_copy(update={"shape": shape}), body, look=now)
                self.assertEqual("mark-black" in group, now == look, (mark.dead, now))

    def test_a_line_runs_along_the_fish_as_wide_as_it_is(self) -> None:
        drawn = svg.fish_group(GUIDE.one("striped_bass"), GUIDE.bodies["striped_bass"])
        lines = re.findall(r'mark-dark-line" d="M(\d+) [^"]*?(\d+) -?\d+" stroke-width="7"', drawn)
        # Morone saxatilis: seven or eight dark lines from gill cover to tail (field guides, memory)
        self.assertEqual(len(lines), 7)
        for start, end in lines:
            self.assertLess(int(start), 300)
            self.assertGreater(int(end), 800)

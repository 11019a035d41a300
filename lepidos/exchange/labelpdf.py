"""Bag labels as PDF, on a roll or on sheets, and as SVG and PNG."""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cache
from html import escape
from pathlib import Path

import pypdfium2
from fontTools.ttLib import TTFont
from fpdf import FPDF
from fpdf.bidi import BidiParagraph

from lepidos.core.errors import require
from lepidos.core.pack.labels import LabelContent
from lepidos.exchange import qr, svg
from lepidos.exchange.labellayout import LabelLayout, lay_out

FONTS = Path(__file__).parent / "fonts"
WIDE = "dejavu-sans.ttf"  # Latin of all Europe, Greek, Cyrillic, Hebrew, Arabic, arrows
_BOX = "\u25a1"
_FILES = {"head": "barlow-condensed-600.ttf", "text": "atkinson-hyperlegible-next-400.ttf"}
WIDTH_MM, HEIGHT_MM = 100.0, 62.0
POINT_MM = 25.4 / 72
DOTS_PER_MM = 12  # of a PNG: that of common label printers (300 dpi)


@dataclass(frozen=True)
class Sheet:
    """Sheets of labels: the paper [mm], how many across and down, margins and gaps [mm]."""

    width_mm: float
    height_mm: float
    across: int
    down: int
    left_mm: float
    top_mm: float
    gap_x_mm: float = 0.0
    gap_y_mm: float = 0.0

    @property
    def label_mm(self) -> tuple[float, float]:
        """Width and height of one label."""
        wide = self.width_mm - 2 * self.left_mm - (self.across - 1) * self.gap_x_mm
        high = self.height_mm - 2 * self.top_mm - (self.down - 1) * self.gap_y_mm
        return wide / self.across, high / self.down


PAPERS = {"a4": (210.0, 297.0), "letter": (215.9, 279.4)}


def _document(made_at: datetime, size: tuple[float, float]) -> FPDF:
    pdf = FPDF(orientation="P", unit="mm", format=size)
    pdf.set_creation_date(made_at)
    pdf.set_title("Lepidos bag labels")
    pdf.set_auto_page_break(False)
    pdf.add_font("head", "", FONTS / _FILES["head"])
    pdf.add_font("text", "", FONTS / _FILES["text"])
    pdf.add_font("text", "B", FONTS / "atkinson-hyperlegible-next-700.ttf")
    pdf.add_font("wide", "", FONTS / WIDE)
    return pdf


@cache
def _signs(file: str) -> frozenset[int]:
    return frozenset(TTFont(FONTS / file).getBestCmap())


def set_in(text: str, font: str) -> tuple[str, str]:
    """The text as it is to be drawn, from left to right, and the font that has its characters.

    A sign that no font here has becomes a box: a name with an emoji in it is still a name.
    """
    own = _signs(
        "barlow-condensed-600.ttf" if font == "head" else "atkinson-hyperlegible-next-400.ttf"
    )
    if {ord(sign) for sign in text} <= own:
        return text, font
    known = _signs(WIDE)
    clean = "".join(sign if ord(sign) in known else _BOX for sign in text)
    return BidiParagraph(clean).get_reordered_string(), "wide"


def labels_pdf(
    labels: Sequence[LabelContent],
    made_at: datetime,
    size: tuple[float, float] = (WIDTH_MM, HEIGHT_MM),
) -> bytes:
    """All labels of a job in one document, a page each. Text is set as text, never as markup.

    Args: made_at: stamped in, so that the bytes can be replayed; size: of a label [mm].
    """
    pdf = _document(made_at, size)
    for label in labels:
        pdf.add_page()
        _draw(pdf, label, 0.0, 0.0, size)
    return bytes(pdf.output())


def sheet_pdf(
    labels: Sequence[LabelContent], made_at: datetime, sheet: Sheet, first: int = 1
) -> bytes:
    """Labels on sheets, row by row, from the place `first` of the first sheet (1 is upper left).

    Raises: OutOfRange for a place that is not on the sheet, or labels that are too small.
    """
    places = sheet.across * sheet.down
    require("labels on a sheet", places, 1, 200, "")
    require("first place", first, 1, places, "")
    pdf = _document(made_at, (sheet.width_mm, sheet.height_mm))
    wide, high = sheet.label_mm
    for number, label in enumerate(labels, first - 1):
        at = number % places
        if at == 0 or number == first - 1:
            pdf.add_page()
        x = sheet.left_mm + (at % sheet.across) * (wide + sheet.gap_x_mm)
        y = sheet.top_mm + (at // sheet.across) * (high + sheet.gap_y_mm)
        _draw(pdf, label, x, y, (wide, high))
    return bytes(pdf.output())


def label_svg(label: LabelContent, made_at: datetime, size: tuple[float, float]) -> str:
    """One label as a picture of lines and text, in millimetres."""
    layout = _layout(_document(made_at, size), label, size)
    rows = qr.matrix(label.link)
    scale = layout.qr_mm / len(rows)
    texts = "".join(
        f'<text x="{p.x_mm:.2f}" y="{p.y_mm:.2f}" font-size="{p.points * POINT_MM:.2f}" '
        f'font-weight="{"700" if p.style == "B" else "600" if p.font == "head" else "400"}" '
        f'font-family="{_FAMILIES[p.font]}">{escape(p.text)}</text>'
        for p in layout.lines
    )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{size[0]:g}mm" height="{size[1]:g}mm" '
        f'viewBox="0 0 {size[0]:g} {size[1]:g}"><rect width="100%" height="100%" fill="#fff"/>'
        f'{texts}<path transform="translate({layout.qr_x_mm:.2f} {layout.qr_y_mm:.2f}) '
        f'scale({scale:.4f})" d="{svg.qr_path(rows)}"/></svg>'
    )


_FAMILIES = {
    "wide": "DejaVu Sans, sans-serif",
    "head": "Barlow Condensed, sans-serif",
    "text": "Atkinson Hyperlegible Next, sans-serif",
}


def label_png(label: LabelContent, made_at: datetime, size: tuple[float, float]) -> bytes:
    """One label as dots, 12 to the millimetre."""
    page = pypdfium2.PdfDocument(labels_pdf([label], made_at, size))[0]
    out = io.BytesIO()
    page.render(scale=DOTS_PER_MM * POINT_MM).to_pil().convert("L").save(out, "PNG")
    return out.getvalue()


def _layout(pdf: FPDF, label: LabelContent, size: tuple[float, float]) -> LabelLayout:
    def measure(text: str, font: str, style: str, points: float) -> float:
        pdf.set_font(font, style, points)
        return float(pdf.get_string_width(text))

    return lay_out(label, *size, measure, set_in)


def _draw(pdf: FPDF, label: LabelContent, x: float, y: float, size: tuple[float, float]) -> None:
    layout = _layout(pdf, label, size)
    for line in layout.lines:
        pdf.set_font(line.font, line.style, line.points)
        pdf.text(x + line.x_mm, y + line.y_mm, line.text)
    rows = qr.matrix(label.link)
    module = layout.qr_mm / len(rows)
    left, top = x + layout.qr_x_mm, y + layout.qr_y_mm
    pdf.set_fill_color(0, 0, 0)
    for j, row in enumerate(rows):
        start = None
        for i, dark in enumerate([*row, False]):
            if dark and start is None:
                start = i
            elif not dark and start is not None:
                # a run at once, with a hair of overlap: no white seams, and small files
                pdf.rect(
                    left + start * module, top + j * module,
                    (i - start) * module, module * 1.02, style="F",
                )  # fmt: skip
                start = None

"""Bag labels as PDF, one page a label, at the size of common freezer labels."""

from collections.abc import Sequence
from datetime import datetime
from pathlib import Path

from fpdf import FPDF

from lepidos.core.pack.labels import LabelContent
from lepidos.exchange import qr

FONTS = Path(__file__).parent / "fonts"
WIDTH_MM, HEIGHT_MM = 100.0, 62.0
_EDGE = 5.0
_QR_MM = 27.0


def labels_pdf(labels: Sequence[LabelContent], made_at: datetime) -> bytes:
    """All labels of a job in one document. `made_at` is stamped in, so the bytes can be replayed.

    Text is set as text and never read as markup.
    """
    pdf = FPDF(orientation="L", unit="mm", format=(HEIGHT_MM, WIDTH_MM))
    pdf.set_creation_date(made_at)
    pdf.set_title("Lepidos bag labels")
    pdf.set_auto_page_break(False)
    pdf.add_font("head", "", FONTS / "barlow-condensed-600.ttf")
    pdf.add_font("text", "", FONTS / "atkinson-hyperlegible-next-400.ttf")
    pdf.add_font("text", "B", FONTS / "atkinson-hyperlegible-next-700.ttf")
    for label in labels:
        _page(pdf, label)
    return bytes(pdf.output())


def _page(pdf: FPDF, label: LabelContent) -> None:
    pdf.add_page()
    left_width = WIDTH_MM - 3 * _EDGE - _QR_MM
    pdf.set_xy(_EDGE, 4)
    _fit(pdf, label.title[:1].upper() + label.title[1:], "head", "", 21, 12, left_width, 9)
    _fit(pdf, label.details, "text", "B", 11.5, 8, left_width, 6)
    _fit(pdf, label.dates, "text", "", 9.5, 7, left_width, 5)
    _fit(pdf, label.best_by, "head", "", 18, 12, left_width, 8.5)
    if label.owner:
        _fit(pdf, label.owner, "text", "", 11, 8, left_width, 6)
    # many cautions are set smaller, so that none falls off the label
    size = 8.5 if len(label.cautions) <= 3 else 7.0
    pdf.set_font("text", "B", size)
    for caution in label.cautions:
        pdf.set_x(_EDGE)
        pdf.multi_cell(left_width, size * 0.48, caution, new_x="LMARGIN", new_y="NEXT", align="L")
    _draw_qr(pdf, label.link, WIDTH_MM - _EDGE - _QR_MM, _EDGE)
    pdf.set_xy(WIDTH_MM - _EDGE - _QR_MM, _EDGE + _QR_MM + 1.5)
    pdf.set_font("head", "", 19)
    pdf.cell(_QR_MM, 8, label.code, align="C")


def _fit(
    pdf: FPDF,
    text: str,
    font: str,
    style: str,
    size: float,
    least: float,
    width: float,
    height: float,
) -> None:
    # a long name is set smaller rather than cut off or run into the QR code
    pdf.set_font(font, style, size)
    while pdf.get_string_width(text) > width - 2 and size > least:
        size -= 0.5
        pdf.set_font(font, style, size)
    while pdf.get_string_width(text) > width - 2 and len(text) > 4:
        text = text[:-2].rstrip() + "…"
    pdf.set_x(_EDGE)
    pdf.cell(width, height, text, new_x="LMARGIN", new_y="NEXT")


def _draw_qr(pdf: FPDF, text: str, x: float, y: float) -> None:
    rows = qr.matrix(text)
    module = _QR_MM / len(rows)
    pdf.set_fill_color(0, 0, 0)
    for j, row in enumerate(rows):
        for i, dark in enumerate(row):
            if dark:
                # a hair of overlap, so that no white seams show between modules
                pdf.rect(x + i * module, y + j * module, module * 1.02, module * 1.02, style="F")

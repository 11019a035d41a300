"""A ruler strip at true length with the marks of one piece: to print and lay beside it."""

from collections.abc import Sequence
from datetime import datetime

from fpdf import FPDF

from lepidos.exchange.labelpdf import FONTS

STRIP_MM = 26.0
_EDGE = 8.0


def ruler_pdf(
    title: str, length_m: float, marks: Sequence[tuple[float, str]], made_at: datetime
) -> bytes:
    """One page as long as the piece and its edges, to be printed at 100 %.

    Args: marks: where to cut [m from the head end], each with its text.
    """
    wide = max(60.0, length_m * 1000 + 2 * _EDGE)
    pdf = FPDF(orientation="L", unit="mm", format=(STRIP_MM, wide))
    pdf.set_creation_date(made_at)
    pdf.set_title("Lepidos ruler strip")
    pdf.set_auto_page_break(False)
    pdf.add_font("text", "", FONTS / "atkinson-hyperlegible-next-400.ttf")
    pdf.add_font("head", "", FONTS / "barlow-condensed-600.ttf")
    pdf.add_page()
    foot = STRIP_MM - 4
    pdf.set_line_width(0.3)
    pdf.line(_EDGE, foot, _EDGE + length_m * 1000, foot)
    for mm in range(int(length_m * 1000) + 1):
        if mm % 5 == 0:
            pdf.line(_EDGE + mm, foot, _EDGE + mm, foot - (3 if mm % 10 == 0 else 1.8))
    pdf.set_font("head", "", 13)
    pdf.set_line_width(0.8)
    for at_m, text in marks:
        x = _EDGE + at_m * 1000
        pdf.line(x, 8, x, foot)
        pdf.set_xy(x + 0.8, 8)
        pdf.cell(20, 5, text)
    pdf.set_font("text", "", 8)
    pdf.set_xy(2, 1.5)
    pdf.cell(wide - 4, 4, f"{title}: head end here. Print at 100 %; long strokes are 1 cm apart.")
    return bytes(pdf.output())

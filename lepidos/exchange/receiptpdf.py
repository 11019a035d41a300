"""A party's receipt as PDF: one page as long as it fits, in smaller type before a second one."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from fpdf import FPDF

from lepidos.exchange.labelpdf import FONTS, WIDE, set_in

WIDTH_MM, HEIGHT_MM, EDGE_MM = 210.0, 297.0, 14.0
_SIZES = (10.5, 9.5, 8.5, 7.5)  # points of plain text, tried until it fits on one page
_LINE = 0.5  # height of a line [mm] for each point


@dataclass(frozen=True)
class ReceiptBlock:
    """A table with a heading: its columns' names, its rows, and each column's part of the width."""

    title: str
    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    parts: tuple[float, ...]


@dataclass(frozen=True)
class ReceiptText:
    """All that stands on a receipt, as text."""

    title: str
    line: str
    blocks: tuple[ReceiptBlock, ...]
    totals: tuple[str, ...]
    cautions: tuple[str, ...]


def receipt_pdf(text: ReceiptText, made_at: datetime, name: str = "Lepidos receipt") -> bytes:
    """The receipt, or a report of its kind; `name` is the document's own.

    `made_at` is stamped in, so the bytes can be replayed. Text is never markup.
    """
    for size in _SIZES:
        pdf = _document(text, made_at, size, name)
        if pdf.page == 1:
            break
    return bytes(pdf.output())


def _document(text: ReceiptText, made_at: datetime, size: float, name: str) -> FPDF:
    pdf = FPDF(unit="mm", format=(WIDTH_MM, HEIGHT_MM))
    pdf.set_creation_date(made_at)
    pdf.set_title(name)
    pdf.set_auto_page_break(True, EDGE_MM)
    pdf.set_margins(EDGE_MM, EDGE_MM)
    pdf.add_font("head", "", FONTS / "barlow-condensed-600.ttf")
    pdf.add_font("text", "", FONTS / "atkinson-hyperlegible-next-400.ttf")
    pdf.add_font("text", "B", FONTS / "atkinson-hyperlegible-next-700.ttf")
    pdf.add_font("wide", "", FONTS / WIDE)
    pdf.add_page()
    title = _font(pdf, text.title, "head", "", 28)
    pdf.multi_cell(0, 12, title, new_x="LMARGIN", new_y="NEXT")
    line = _font(pdf, text.line, "text", "", 11)
    pdf.multi_cell(0, 6, line, new_x="LMARGIN", new_y="NEXT")
    for block in text.blocks:
        _table(pdf, block, size)
    pdf.ln(3)
    pdf.set_font("text", "B", size + 1)
    for line in text.totals:
        pdf.multi_cell(0, (size + 1) * _LINE, line, new_x="LMARGIN", new_y="NEXT")
    pdf.ln(2)
    pdf.set_font("text", "", size - 0.5)
    for caution in text.cautions:
        pdf.multi_cell(0, size * _LINE, caution, new_x="LMARGIN", new_y="NEXT")
    return pdf


def _font(pdf: FPDF, text: str, font: str, style: str, size: float) -> str:
    """Choose a font that has a text's characters; the text as it is drawn in it."""
    drawn, chosen = set_in(text, font)
    pdf.set_font(chosen, style if chosen == font else "", size)
    return drawn


def _table(pdf: FPDF, block: ReceiptBlock, size: float) -> None:
    pdf.ln(3)
    pdf.set_font("head", "", size + 5)
    pdf.cell(0, (size + 5) * _LINE, block.title, new_x="LMARGIN", new_y="NEXT")
    room = WIDTH_MM - 2 * EDGE_MM
    rows: Sequence[tuple[str, ...]] = (block.columns, *block.rows)
    for number, row in enumerate(rows):
        for said, part in zip(row, block.parts, strict=True):
            text = _font(pdf, said, "text", "B" if number == 0 else "", size)
            width = room * part
            while pdf.get_string_width(text) > width - 2 and len(text) > 4:
                text = text[:-2].rstrip() + "…"
            pdf.cell(width, size * _LINE + 0.6, text, border="B")
        pdf.ln()

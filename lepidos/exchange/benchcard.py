"""Bench cards as PDF: one page a species, to be read from a metre away."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from fpdf import FPDF

from lepidos.core.fish.anatomy import Body, Polygon, zone_polygon
from lepidos.core.fish.bodyplan import BodyPlan
from lepidos.exchange.labelpdf import FONTS

WIDTH_MM, HEIGHT_MM, EDGE_MM = 210.0, 297.0, 12.0
LARGEST_PT, SMALLEST_PT = 17.0, 11.5  # of a step's title: 12 pt is read from about a metre
DRAWING_MM = 54.0


@dataclass(frozen=True)
class BenchCard:
    """What stands on a page. `steps` are (title, tool); `pieces` (name, grams)."""

    title: str
    line: str
    body: Body
    plan: BodyPlan
    zones: tuple[str, ...]
    faces_right: bool
    steps: tuple[tuple[str, str], ...]
    cautions: tuple[str, ...]
    pieces: tuple[tuple[str, str], ...]


def bench_cards_pdf(cards: Sequence[BenchCard], made_at: datetime) -> bytes:
    """All cards in one document. `made_at` is stamped in, so the bytes can be replayed."""
    pdf = FPDF(unit="mm", format="A4")
    pdf.set_creation_date(made_at)
    pdf.set_title("Lepidos bench cards")
    pdf.set_auto_page_break(False)
    pdf.add_font("head", "", FONTS / "barlow-condensed-600.ttf")
    pdf.add_font("text", "", FONTS / "atkinson-hyperlegible-next-400.ttf")
    pdf.add_font("text", "B", FONTS / "atkinson-hyperlegible-next-700.ttf")
    for card in cards:
        _page(pdf, card)
    return bytes(pdf.output())


def _page(pdf: FPDF, card: BenchCard) -> None:
    pdf.add_page()
    pdf.set_margins(EDGE_MM, EDGE_MM)
    pdf.set_xy(EDGE_MM, 9)
    pdf.set_font("head", "", 34)
    pdf.cell(0, 13, card.title[:1].upper() + card.title[1:], new_x="LMARGIN", new_y="NEXT")
    pdf.set_font("text", "", 13)
    pdf.cell(0, 7, card.line, new_x="LMARGIN", new_y="NEXT")
    _draw(pdf, card, pdf.get_y() + 2)
    top = pdf.get_y() + DRAWING_MM + 4
    pdf.set_y(top)
    foot = 10 + 5.2 * len(card.cautions) + 6.5 * ((len(card.pieces) + 2) // 3)
    room = HEIGHT_MM - EDGE_MM - top - foot
    size = max(SMALLEST_PT, min(LARGEST_PT, room / max(1, len(card.steps)) / 0.47))
    high = size * 0.47
    for number, (title, tool) in enumerate(card.steps, 1):
        pdf.set_font("head", "", size)
        pdf.cell(10, high, str(number))
        pdf.cell(138, high, _cut(pdf, title, 136))
        pdf.set_font("text", "", size * 0.62)
        pdf.cell(0, high, _cut(pdf, tool, 36), new_x="LMARGIN", new_y="NEXT")
    pdf.ln(2)
    pdf.set_font("text", "B", 11)
    for index, (name, grams) in enumerate(card.pieces):
        last = index % 3 == 2 or index == len(card.pieces) - 1
        pdf.cell(62, 6.5, f"{name}: {grams}", new_x="LMARGIN" if last else "RIGHT",
                 new_y="NEXT" if last else "TOP")  # fmt: skip
    pdf.set_font("text", "", 9.5)
    for caution in card.cautions:
        pdf.multi_cell(0, 4.4, caution, new_x="LMARGIN", new_y="NEXT")


def _cut(pdf: FPDF, text: str, room_mm: float) -> str:
    """The text, or as much of it as there is room for."""
    if pdf.get_string_width(text) <= room_mm:
        return text
    while text and pdf.get_string_width(f"{text}…") > room_mm:
        text = text[:-1].rstrip()
    return f"{text}…"


def _draw(pdf: FPDF, card: BenchCard, top: float) -> None:
    fins = [card.body.fin(f, 6).outline for f in card.body.shape.fins]
    shapes: list[Polygon] = [*fins, card.body.tail().outline, card.body.outline()]
    ys = [y for shape in shapes for _, y in shape]
    scale = min((WIDTH_MM - 2 * EDGE_MM), DRAWING_MM / (max(ys) - min(ys)))
    middle = top + DRAWING_MM / 2 + (max(ys) + min(ys)) / 2 * scale
    left = (WIDTH_MM - scale) / 2

    def placed(shape: Polygon) -> list[tuple[float, float]]:
        flip = card.faces_right
        return [(left + (1 - x if flip else x) * scale, middle - y * scale) for x, y in shape]

    pdf.set_draw_color(20, 41, 47)
    pdf.set_line_width(0.4)
    for shape, shade in [(s, 235) for s in shapes[:-1]] + [(shapes[-1], 214)]:
        pdf.set_fill_color(shade)
        pdf.polygon(placed(shape), style="DF")
    pdf.set_line_width(0.5)
    pdf.set_dash_pattern(2, 1.4)
    for key in card.zones:
        pdf.polygon(placed(zone_polygon(card.body, card.plan, key)), style="D")
    pdf.set_dash_pattern()
    pdf.set_font("head", "", 12)
    for key in card.zones:
        zone = card.plan.zone(key)
        ((x, y),) = placed((card.body.point(*zone.caption),))
        pdf.set_xy(x - 25, y - 3)
        pdf.cell(50, 6, zone.name.partition(":")[0], align="C")
    for x, y, r in card.body.shape.eyes:
        ((cx, cy),) = placed(((x, y),))
        pdf.set_fill_color(20)
        pdf.circle(cx, cy, r * scale * 0.6, style="F")
    pdf.set_xy(EDGE_MM, top)

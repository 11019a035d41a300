"""Bench cards as PDF: one page a species, to be read from a metre away."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

from fpdf import FPDF

from lepidos.core.fish.anatomy import Body, Polygon, zone_polygon
from lepidos.core.fish.bodyplan import BodyPlan
from lepidos.core.fish.fins import fin_drawing, tail_drawing
from lepidos.exchange.labelpdf import FONTS

WIDTH_MM, HEIGHT_MM, EDGE_MM = 210.0, 297.0, 12.0
MAX_PT = 17.0  # of a step's title: 12 pt is read from about a metre
MM_PER_PT = 0.47  # of a line that is read at a glance
DRAWING_MM = 42.0
SMALL_MM = 26.0  # wide, of the picture of a step
FOOT_PT = (11.0, 10.0, 9.5, 9.0, 8.5, 8.0, 7.5, 7.0)
MIN_STEP_MM = 6.2  # high: 13 pt
TITLE_MM, TOOL_MM = 117.0, 31.0
LEADING = 0.45  # millimetres a point


@dataclass(frozen=True)
class BenchCard:
    """What stands on a page. `steps` are (title, tool, the blade's ways); `pieces` (name, grams).

    `first_aid` are a title and what to do, for what this fish can do to a hand.
    """

    title: str
    line: str
    body: Body
    plan: BodyPlan
    zones: tuple[str, ...]
    faces_right: bool
    steps: tuple[tuple[str, str, tuple[Polygon, ...]], ...]
    cautions: tuple[str, ...]
    pieces: tuple[tuple[str, str], ...]
    first_aid: tuple[tuple[str, str], ...] = ()


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
    top = pdf.get_y() + DRAWING_MM + 3
    pdf.set_y(top)
    pieces_mm = 6.0 * ((len(card.pieces) + 2) // 3) + 2
    room = HEIGHT_MM - EDGE_MM - top - pieces_mm
    steps_mm = MIN_STEP_MM * len(card.steps)
    sizes = (pt for pt in FOOT_PT if _foot_mm(pdf, card, pt) + steps_mm <= room)
    foot_pt = next(sizes, FOOT_PT[-1])
    room -= _foot_mm(pdf, card, foot_pt)
    high = min(MAX_PT * MM_PER_PT, room / max(1, len(card.steps)))
    size = high / MM_PER_PT
    for number, (title, tool, paths) in enumerate(card.steps, 1):
        y = pdf.get_y()
        pdf.set_font("head", "", size)
        pdf.cell(9, high, str(number))
        _fitted(pdf, "head", size, title, TITLE_MM)
        pdf.cell(TITLE_MM + 1, high, title)
        _fitted(pdf, "text", max(7.0, size * 0.55), tool, TOOL_MM)
        pdf.cell(0, high, tool, new_x="LMARGIN", new_y="NEXT")
        if paths:
            _small(pdf, card, paths, WIDTH_MM - EDGE_MM - SMALL_MM, y, high)
        pdf.set_y(y + high)
    pdf.ln(2)
    pdf.set_font("text", "B", 10.5)
    for index, (name, grams) in enumerate(card.pieces):
        last = index % 3 == 2 or index == len(card.pieces) - 1
        pdf.cell(62, 6.0, f"{name}: {grams}", new_x="LMARGIN" if last else "RIGHT",
                 new_y="NEXT" if last else "TOP")  # fmt: skip
    for text, style in _foot(card):
        pdf.set_font("text", style, foot_pt)
        pdf.multi_cell(0, foot_pt * LEADING, text, new_x="LMARGIN", new_y="NEXT")


def _foot(card: BenchCard) -> list[tuple[str, str]]:
    """The lines of the foot, each with its style: cautions, then first aid."""
    found = [(caution, "") for caution in card.cautions]
    for title, text in card.first_aid:
        found += [(f"First aid, {title[:1].lower()}{title[1:]}", "B"), (text, "")]
    return found


def _foot_mm(pdf: FPDF, card: BenchCard, pt: float) -> float:
    """How high the foot is at a size."""
    total = 0.0
    for text, style in _foot(card):
        pdf.set_font("text", style, pt)
        total += pdf.multi_cell(0, pt * LEADING, text, dry_run=True, output="HEIGHT")
    return total


def _small(
    pdf: FPDF, card: BenchCard, paths: Sequence[Polygon], left: float, top: float, high: float
) -> None:
    """The blade's ways of a step on a small outline of the fish."""
    if not paths:
        return
    outline = [*card.body.outline()]
    shapes = [outline, [*tail_drawing(card.body).outline]]
    ys = [y for shape in shapes for _, y in shape]
    scale = min(SMALL_MM, (high - 0.8) / (max(ys) - min(ys)))
    start = left + (SMALL_MM - scale) / 2
    middle = top + high / 2 + (max(ys) + min(ys)) / 2 * scale

    def placed(points: Iterable[tuple[float, float]]) -> list[tuple[float, float]]:
        flip = card.faces_right
        return [(start + (1 - x if flip else x) * scale, middle - y * scale) for x, y in points]

    pdf.set_line_width(0.15)
    pdf.set_draw_color(90)
    pdf.set_fill_color(232)
    for shape in shapes:
        pdf.polygon(placed(shape), style="DF")
    pdf.set_draw_color(200, 68, 27)
    pdf.set_line_width(0.6)
    pdf.set_fill_color(200, 68, 27)
    for path in paths:
        points = placed(path)
        pdf.polyline(points)
        x, y = points[-1]
        pdf.circle(x, y, 0.7, style="F")  # where the blade comes out
    pdf.set_draw_color(20, 41, 47)


def _fitted(pdf: FPDF, font: str, size: float, text: str, room_mm: float) -> None:
    """Take up a font: a long text is smaller rather than cut off."""
    pdf.set_font(font, "", size)
    wide = pdf.get_string_width(text)
    if wide > room_mm:
        pdf.set_font(font, "", size * room_mm / wide)


def _draw(pdf: FPDF, card: BenchCard, top: float) -> None:
    fins = [fin_drawing(card.body, f, 6).outline for f in card.body.shape.fins]
    shapes: list[Polygon] = [*fins, tail_drawing(card.body).outline, card.body.outline()]
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

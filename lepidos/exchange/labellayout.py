"""Where everything on a bag's label stands, whatever its size: as large as fits, nothing cut off.

What matters most stays: code, name, best-by and cautions; dates, owner and details go first when a
label is too small for all of it.
"""

from collections.abc import Callable
from dataclasses import dataclass

from lepidos.core.errors import require
from lepidos.core.pack.labels import LabelContent

MIN_MM, MAX_MM = 20.0, 210.0
MIN_PT = 4.5  # smaller text cannot be read on thermal paper (common practice, no source)
LINE = 0.42  # height of a line [mm] for each point of its font
_SHRINK = 0.94
_A_LITTLE = 0.75
_USUAL = 62.0  # height of the label that the sizes below are made for [mm]

# font, style, points on the usual label, and how soon it is left out: 0 never
TITLE, BEST, CAUTION, DETAILS, OWNER, DATES = (
    ("head", "", 21.0, 0),
    ("head", "", 18.0, 0),
    ("text", "B", 8.5, 0),
    ("text", "B", 11.5, 1),
    ("text", "", 11.0, 2),
    ("text", "", 9.5, 3),
)

Measure = Callable[[str, str, str, float], float]
SetIn = Callable[[str, str], tuple[str, str]]


@dataclass(frozen=True)
class Placed:
    """A line of text: left and foot [mm] from the label's upper left corner, font, size [pt]."""

    text: str
    x_mm: float
    y_mm: float
    font: str
    style: str
    points: float


@dataclass(frozen=True)
class LabelLayout:
    """All of a label; the QR code's upper left corner and side [mm]."""

    width_mm: float
    height_mm: float
    lines: tuple[Placed, ...]
    qr_x_mm: float
    qr_y_mm: float
    qr_mm: float
    left_out: int


@dataclass(frozen=True)
class _Line:
    text: str
    font: str
    style: str
    points: float
    soon: int


def lay_out(
    label: LabelContent,
    width_mm: float,
    height_mm: float,
    measure: Measure,
    set_in: SetIn = lambda text, font: (text, font),
) -> LabelLayout:
    """Lay a label out.

    Args:
        width_mm, height_mm: 20 to 210 each.
        measure: a text's width [mm], by text, font, style and points.
        set_in: the text as it is drawn, and the font that has all its characters.
    Raises: OutOfRange.
    """
    require("label width", width_mm, MIN_MM, MAX_MM, "mm")
    require("label height", height_mm, MIN_MM, MAX_MM, "mm")
    edge = min(5.0, 0.06 * min(width_mm, height_mm) + 0.6)
    wide = width_mm > 1.15 * height_mm
    side = min(27.0, (0.5 if wide else 0.42) * height_mm, 0.42 * width_mm)
    code_pt = min(19.0, side * 0.7)
    while measure(label.code, "head", "", code_pt) > side and code_pt > MIN_PT:
        code_pt -= 0.25
    qr_x, qr_y = width_mm - edge - side, edge
    if wide:
        x, y, text_mm, foot = edge, edge, width_mm - 3 * edge - side, height_mm - edge
    else:
        qr_x = (width_mm - side) / 2
        x, y = edge, edge + side + code_pt * LINE + edge / 2
        text_mm, foot = width_mm - 2 * edge, height_mm - edge
    lines, left_out = _fitted(
        _lines(label, set_in), text_mm, foot - y, measure, min(1.0, height_mm / _USUAL)
    )
    placed = []
    for line in lines:
        y += line.points * LINE
        placed.append(
            Placed(line.text, x, y - line.points * 0.09, line.font, line.style, line.points)
        )
    code_x = qr_x + (side - measure(label.code, "head", "", code_pt)) / 2
    code_y = qr_y + side + code_pt * LINE * 0.95
    placed.append(Placed(label.code, code_x, code_y, "head", "", code_pt))
    return LabelLayout(width_mm, height_mm, tuple(placed), qr_x, qr_y, side, left_out)


def _lines(label: LabelContent, set_in: SetIn) -> list[_Line]:
    title = label.title[:1].upper() + label.title[1:]
    found = [_Line(title, *TITLE), _Line(label.details, *DETAILS), _Line(label.dates, *DATES)]
    found.append(_Line(label.best_by, *BEST))
    if label.owner:
        found.append(_Line(label.owner, *OWNER))
    found += [_Line(caution, *CAUTION) for caution in label.cautions]
    return [_in_font(line, set_in) for line in found if line.text]


def _in_font(line: _Line, set_in: SetIn) -> _Line:
    text, font = set_in(line.text, line.font)
    style = line.style if font == line.font else ""
    return _Line(text, font, style, line.points, line.soon)


def _fitted(
    lines: list[_Line], width: float, height: float, measure: Measure, start: float
) -> tuple[list[_Line], int]:
    """Lines that fit, broken and set smaller as need be, and how many were left out."""
    left_out = 0
    while True:
        scale = start
        while True:
            set_so = [part for line in lines for part in _broken(line, scale, width, measure)]
            if sum(part.points * LINE for part in set_so) <= height:
                return set_so, left_out
            if scale * CAUTION[2] <= MIN_PT:
                break
            scale = max(MIN_PT / CAUTION[2], scale * _SHRINK)
        soonest = max(lines, key=lambda line: line.soon)
        if soonest.soon == 0:
            # never dropped: everything is set as small as it must be
            return _squeezed(set_so, height), left_out
        lines = [line for line in lines if line is not soonest]
        left_out += 1


def _squeezed(lines: list[_Line], height: float) -> list[_Line]:
    need = sum(line.points * LINE for line in lines)
    factor = min(1.0, height / need)
    return [_Line(x.text, x.font, x.style, x.points * factor, x.soon) for x in lines]


def _broken(line: _Line, scale: float, width: float, measure: Measure) -> list[_Line]:
    """A heading on one line, set smaller until it fits; plain text over as many as it needs.

    All but cautions are first set a little smaller.
    """
    points = max(MIN_PT, line.points * scale)
    least = MIN_PT if line.font != "text" else points * (1.0 if line.soon == 0 else _A_LITTLE)
    least = max(MIN_PT, least)
    text = line.text
    while measure(text, line.font, line.style, points) > width and points > least:
        points = max(least, points * _SHRINK)
    if line.font == "text":
        rows = _words(line, points, width, measure)
        return [_Line(row, line.font, line.style, points, line.soon) for row in rows]
    while measure(text, line.font, line.style, points) > width and len(text) > 4:
        text = text[:-2].rstrip() + "…"
    return [_Line(text, line.font, line.style, points, line.soon)]


def _words(line: _Line, points: float, width: float, measure: Measure) -> list[str]:
    def fits(text: str) -> bool:
        return measure(text, line.font, line.style, points) <= width

    rows = [""]
    for word in line.text.split():
        longer = f"{rows[-1]} {word}".strip()
        if fits(longer):
            rows[-1] = longer
            continue
        if rows[-1]:
            rows.append("")
        for sign in word:  # a word longer than the label is broken where it must be
            if rows[-1] and not fits(rows[-1] + sign):
                rows.append("")
            rows[-1] += sign
    return rows

"""The labels' size, lines and language, and how bags are closed: chosen once by a crew."""

from dataclasses import dataclass
from datetime import datetime

from lepidos.core.errors import Refused
from lepidos.core.pack import labels
from lepidos.exchange.labellayout import MAX_MM, MIN_MM
from lepidos.exchange.labelpdf import HEIGHT_MM, WIDTH_MM
from lepidos.guide import label_words
from lepidos.guide.freezing import usual_freezing
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.store.base import settings
from lepidos.store.base.earlier import Act

VACUUM = "vacuum"
# Common rolls (from memory): width by height [mm].
USUAL = ((100, 62), (62, 100), (62, 29), (90, 29), (57, 32), (50, 30), (40, 60), (40, 20))


@dataclass(frozen=True)
class ChooseLabel:
    """An order: labels are this wide and high [mm]."""

    width_mm: float
    height_mm: float


def choose_label(ctx: AppContext, key: str, order: ChooseLabel) -> Receipt:
    """Keep it. Raises Refused with the field."""

    def do(at: datetime) -> Receipt:
        problems = {
            field: f"A label is between {MIN_MM:g} and {MAX_MM:g} mm"
            for field, mm in (("width_mm", order.width_mm), ("height_mm", order.height_mm))
            if not MIN_MM <= mm <= MAX_MM
        }
        if problems:
            raise Refused(problems)
        text = f"{order.width_mm:g} {order.height_mm:g}"
        act = Act(ctx.ids, at)
        settings.put(ctx.ids, at, settings.LABEL, text, act)
        return Receipt("change", act.id, f"Labels: {order.width_mm:g} × {order.height_mm:g} mm")

    return run_idempotent(ctx, key, "settings.label", order, do)


def label_size() -> tuple[float, float]:
    """Width and height [mm]. In an open transaction."""
    chosen = settings.value(settings.LABEL)
    if not chosen:
        return WIDTH_MM, HEIGHT_MM
    width, height = map(float, chosen.split())
    return width, height


# What may be left out of a label, by its field; name, best-by, code and cautions always stand.
LINES = {"details": "skin, servings and weight", "dates": "caught and packed", "owner": "whose"}


@dataclass(frozen=True)
class ChooseLines:
    """An order: labels have these of `LINES`, and not the others."""

    lines: tuple[str, ...]


def choose_lines(ctx: AppContext, key: str, order: ChooseLines) -> Receipt:
    """Keep it. Raises Refused."""

    def do(at: datetime) -> Receipt:
        if set(order.lines) - set(LINES):
            raise Refused({"lines": "Choose among what may be left out"})
        without = [line for line in LINES if line not in order.lines]
        act = Act(ctx.ids, at)
        settings.put(ctx.ids, at, settings.LABEL_WITHOUT, " ".join(without), act)
        said = ", ".join(LINES[line] for line in without)
        return Receipt("change", act.id, f"Labels without {said}" if said else "Labels with all")

    return run_idempotent(ctx, key, "settings.lines", order, do)


# How a label writes dates, with an example.
DATE_ORDERS: dict[labels.DateOrder, str] = {
    "dmy": "14 Jul 2026",
    "mdy": "Jul 14, 2026",
    "ymd": "2026-07-14",
}


@dataclass(frozen=True)
class ChooseLanguage:
    """An order: labels are in this language, by its code, with dates in this order."""

    language: str
    dates: str


def choose_language(ctx: AppContext, key: str, order: ChooseLanguage) -> Receipt:
    """Keep it. Raises Refused with the field."""

    def do(at: datetime) -> Receipt:
        names = languages()
        if order.language not in names:
            raise Refused({"language": "Choose a language that labels can be in"})
        if order.dates not in DATE_ORDERS:
            raise Refused({"dates": "Choose how dates are written"})
        act = Act(ctx.ids, at)
        settings.put(ctx.ids, at, settings.LABEL_DATES, order.dates, act)
        settings.put(ctx.ids, at, settings.LABEL_LANGUAGE, order.language, act)
        return Receipt("change", act.id, f"Labels in {names[order.language]}")

    return run_idempotent(ctx, key, "settings.language", order, do)


def languages() -> dict[str, str]:
    """Languages that labels can be in, by code, with their own names."""
    others = {code: one.name for code, one in label_words.label_languages().items()}
    return {label_words.ENGLISH: "English"} | others


def label_language() -> tuple[str, labels.DateOrder]:
    """The language's code, and the order of dates. In an open transaction."""
    language = settings.value(settings.LABEL_LANGUAGE) or label_words.ENGLISH
    said = settings.value(settings.LABEL_DATES)
    order: labels.DateOrder = next((one for one in DATE_ORDERS if one == said), "dmy")
    return (language if language in languages() else label_words.ENGLISH), order


def language_now(ctx: AppContext) -> tuple[str, labels.DateOrder]:
    """`label_language`, for a page."""
    with ctx.store.reading():
        return label_language()


def lines_left_out() -> tuple[str, ...]:
    """Fields of a label that the crew leaves empty. In an open transaction."""
    said = (settings.value(settings.LABEL_WITHOUT) or "").split()
    return tuple(line for line in said if line in LINES)


def left_out_now(ctx: AppContext) -> tuple[str, ...]:
    """`lines_left_out`, for a page."""
    with ctx.store.reading():
        return lines_left_out()


def label_now(ctx: AppContext) -> tuple[float, float]:
    """`label_size`, for a page."""
    with ctx.store.reading():
        return label_size()


@dataclass(frozen=True)
class ChoosePack:
    """An order: bags are closed like this, one of the guide's ways."""

    pack: str


def choose_pack(ctx: AppContext, key: str, order: ChoosePack) -> Receipt:
    """Keep it, for bags sealed from now on. Raises Refused."""

    def do(at: datetime) -> Receipt:
        if order.pack not in usual_freezing().packs:
            raise Refused({"pack": "Choose how bags are closed"})
        act = Act(ctx.ids, at)
        settings.put(ctx.ids, at, settings.PACK, order.pack, act)
        return Receipt("change", act.id, f"Bags: {usual_freezing().packs[order.pack].name}")

    return run_idempotent(ctx, key, "settings.pack", order, do)


def closed_how() -> str:
    """How bags are closed, in an open transaction."""
    chosen = settings.value(settings.PACK)
    return chosen if chosen in usual_freezing().packs else VACUUM


def pack_now(ctx: AppContext) -> str:
    """`closed_how`, for a page."""
    with ctx.store.reading():
        return closed_how()

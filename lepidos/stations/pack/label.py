"""The label of a bag: what it says, as a page, and on its way to the printer."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Literal
from zoneinfo import ZoneInfo

from lepidos.core.errors import Refused
from lepidos.core.pack import labels
from lepidos.core.units import System, format_mass
from lepidos.devices.printer import PrintJob
from lepidos.devices.scale import DeviceError
from lepidos.exchange.labelpdf import Sheet, label_png, label_svg, labels_pdf, sheet_pdf
from lepidos.guide.label_words import label_languages
from lepidos.guide.packing import usual_packing
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.wishes import meant_for
from lepidos.stations.pack.paper import label_language, label_size, lines_left_out
from lepidos.stations.pack.party_wishes import not_for
from lepidos.stations.table.findings import Seen, follows, seen_on, still_for
from lepidos.store.pack import bags, packing, portions
from lepidos.store.pack.labels import OnLabel, on_label
from lepidos.store.records import Bag
from lepidos.store.trips import trips


def label_of(ctx: AppContext, bag_id: str, system: System = "metric") -> labels.LabelContent:
    """The label of a bag. Raises Unknown."""
    with ctx.store.reading():
        return compose_label(ctx, bags.get(bag_id), system)


@dataclass(frozen=True)
class _Said:
    """What the guide says of a bag, in the language of its label."""

    cut: str
    purpose: str
    cautions: tuple[str, ...]
    contains: str
    not_for: str
    raw_from: str
    words: labels.LabelWords
    scientific: str


def _said(ctx: AppContext, bag: Bag, language: str, cautions: list[str], purpose: str) -> _Said:
    """`cautions` are keys of the guide's. What people wrote stays in the language they wrote."""
    species, piece = ctx.guide.known_or_named(bag.species), ctx.guide.piece(bag.piece)
    # allergens have to be named in many places; what else must be is for local rules to say
    contains = usual_packing().allergens.get(species.body_plan, "fish")
    other = label_languages().get(language)
    shown = [key for key in cautions if ctx.guide.cautions[key].label]
    if other is None:
        return _Said(
            f"{piece.name}, tail" if bag.tail else piece.name,
            meant_for(ctx, purpose),
            tuple(ctx.guide.cautions[key].label for key in shown),
            f"Contains {contains}.",
            "Not for",
            "Raw from",
            labels.ENGLISH,
            "",
        )
    name = other.pieces.get(bag.piece, piece.name)
    english = meant_for(ctx, purpose)
    return _Said(
        f"{name}, {other.tail}" if bag.tail else name,
        other.purposes.get(purpose, english) if english else "",
        tuple(other.cautions.get(key, ctx.guide.cautions[key].label) for key in shown),
        f"{other.contains} {other.allergens.get(contains, contains)}.",
        other.not_for,
        other.raw_from,
        other.words,
        species.scientific,
    )


def compose_label(ctx: AppContext, bag: Bag, system: System) -> labels.LabelContent:
    """The label of a bag, from an open file."""
    found = on_label(bag)
    language, date_order = label_language()
    species, piece = ctx.guide.known_or_named(bag.species), ctx.guide.piece(bag.piece)
    # what was seen on the fish in it comes first: it says most of this bag
    sights = _seen_in(ctx, found.fish_ids)
    purpose = still_for(ctx, bag.purpose, sights)
    raw_from = found.now.raw_from if purpose == "raw" else None
    keys = [*species.cautions, "thaw"]
    known = ctx.guide.methods.purposes.get(purpose)
    if known and known.caution:
        keys.insert(0, known.caution)
    if raw_from:
        keys = [key for key in keys if key != "raw"]
    said = _said(ctx, bag, language, keys, purpose)
    refused = not_for(found.guests, species)
    proved = []
    if raw_from:
        day = raw_from.astimezone(ZoneInfo(found.timezone)).date()
        proved = [f"{said.raw_from} {said.words.date(day, date_order)}."]
    content = labels.label_content(
        species=species.name,
        cut=said.cut,
        skin="" if piece.bare else bag.skin,
        servings=bag.servings,
        weight=format_mass(bag.kg, system),
        measured=bag.measured,
        caught=bag.caught_on,
        packed=bag.packed_on,
        best=found.now.best_by,
        owner=f"{found.party}: {found.note}" if found.note else found.party,
        code=bag.code,
        cautions=[
            # among the cautions, which are never left out of a small label
            *([f"{said.not_for} {', '.join(refused)}."] if refused else []),
            *proved,
            *(f"{guest.guest}: {guest.note}." for guest in found.guests if guest.note),
            *follows(sights).labels,
            *said.cautions,
            said.contains,
            *_for_transport(found),
        ],
        purpose=said.purpose,
        scientific=said.scientific,
        link_base=ctx.link_base,
        words=said.words,
        order=date_order,
    )
    out = lines_left_out()
    return replace(
        content,
        details="" if "details" in out else content.details,
        dates="" if "dates" in out else content.dates,
        owner="" if "owner" in out else content.owner,
    )


def _for_transport(found: OnLabel) -> list[str]:
    """What rule cards ask of fish on the way home: how many pieces of how many, and their skin."""
    asked = []
    for row in found.cards:
        if not (row.skin_patch or row.keep_carcass):
            continue
        pieces = labels.count(found.pieces, "piece")
        said = [f"{row.area}: {pieces} of {len(found.fish_ids)} fish"]
        if row.skin_patch:
            on = found.bag.skin == "on"
            said.append("skin on" if on else "its card asks for a patch of skin")
        if row.keep_carcass:
            said.append("its card asks to keep the carcass")
        asked.append("; ".join(said) + ".")
    return asked


def _seen_in(ctx: AppContext, fish_ids: Iterable[str]) -> list[Seen]:
    """What was seen on the fish that are in a bag."""
    return [seen for fish_id in fish_ids for seen in seen_on(ctx, fish_id)]


def bag_meant_for(ctx: AppContext, bag: Bag) -> str:
    """What a bag is for, in words, after all that was seen on its fish; "" for the freezer."""
    if not meant_for(ctx, bag.purpose):
        return ""
    with ctx.store.reading():
        inside = dict.fromkeys(fish.id for _, _, fish in portions.of_bag(bag.id))
        return meant_for(ctx, still_for(ctx, bag.purpose, _seen_in(ctx, inside)))


def label_pdf(ctx: AppContext, bag_id: str, system: System = "metric") -> bytes:
    """The label as a PDF. Raises Unknown."""
    content, bag, size = _for_printer(ctx, bag_id, system)
    return labels_pdf([content], bag.sealed_at, size)


def label_picture(
    ctx: AppContext, bag_id: str, kind: Literal["png", "svg"], system: System = "metric"
) -> bytes:
    """The label as a picture. Raises Unknown."""
    content, bag, size = _for_printer(ctx, bag_id, system)
    if kind == "png":
        return label_png(content, bag.sealed_at, size)
    return label_svg(content, bag.sealed_at, size).encode()


def sealed_labels(
    ctx: AppContext, trip_id: str, system: System, sheet: Sheet, first: int = 1
) -> bytes:
    """Labels of a trip's bags that are sealed or in the freezer, on sheets, in order of sealing.

    Raises: Unknown; Refused when there are none, OutOfRange for a sheet that cannot be.
    """
    with ctx.store.reading():
        trips.get(trip_id)
        rows = [bag for bag, _ in bags.of_trip(trip_id, ("sealed", "in"))]
        contents = [compose_label(ctx, bag, system) for bag in rows]
    if not rows:
        raise Refused({"sheet": "No bag is sealed yet"})
    return sheet_pdf(contents, rows[-1].sealed_at, sheet, first)


def _for_printer(
    ctx: AppContext, bag_id: str, system: System
) -> tuple[labels.LabelContent, Bag, tuple[float, float]]:
    with ctx.store.reading():
        bag = bags.get(bag_id)
        return compose_label(ctx, bag, system), bag, label_size()


def print_label(ctx: AppContext, bag_id: str, system: System = "metric") -> None:
    """Print a bag's label now. Raises PrinterOffline, Unknown."""
    pdf = label_pdf(ctx, bag_id, system)
    with ctx.store.reading():
        code = labels.show_code(bags.get(bag_id).code)
    ctx.printer.print(PrintJob(f"label {code}", pdf, ctx.clock()))
    with ctx.store.writing():
        packing.note_print(ctx.ids, ctx.clock(), bag_id)
    ctx.labels.printed(bag_id)


def send_label(ctx: AppContext, bag_id: str, system: System = "metric") -> str:
    """Send a sealed bag's label on its way; "" or the sentence that says why it cannot go.

    The bag stays sealed either way. What fails on the way is in `ctx.labels.unprinted`.
    """
    try:
        ctx.printer.check()
        with ctx.store.reading():
            code = labels.show_code(bags.get(bag_id).code)
        ctx.labels.put(bag_id, code, lambda: print_label(ctx, bag_id, system))
    except DeviceError as error:
        return str(error)
    return ""

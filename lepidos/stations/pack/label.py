"""The label of a bag: what it says, as a page, and on its way to the printer."""

from lepidos.core.pack import labels
from lepidos.core.units import System, format_mass
from lepidos.devices.printer import PrintJob
from lepidos.devices.scale import DeviceError
from lepidos.exchange.labelpdf import labels_pdf
from lepidos.stations.base.context import AppContext
from lepidos.stations.base.wishes import meant_for
from lepidos.stations.table.findings import Seen, follows, seen_on, still_for
from lepidos.store import bags
from lepidos.store.records import Bag


def label_of(ctx: AppContext, bag_id: str, system: System = "metric") -> labels.LabelContent:
    """The label of a bag. Raises Unknown."""
    with ctx.store.reading():
        return compose_label(ctx, bags.get(bag_id), system)


def compose_label(ctx: AppContext, bag: Bag, system: System) -> labels.LabelContent:
    """The label of a bag, from an open file."""
    species, piece = ctx.guide.known_or_named(bag.species), ctx.guide.piece(bag.piece)
    owner = bags.party_names({bag.party_id}).get(bag.party_id, "") if bag.party_id else ""
    keys = [*(c for c in species.cautions), "thaw"]
    # what was seen on the fish in it comes first: it says most of this bag
    sights = _seen_in(ctx, bag)
    purpose = still_for(ctx, bag.purpose, sights)
    known = ctx.guide.methods.purposes.get(purpose)
    if known and known.caution:
        keys.insert(0, known.caution)
    cautions = [*follows(sights).labels, *(ctx.guide.cautions[key].label for key in keys)]
    return labels.label_content(
        species=species.name,
        cut=f"{piece.name}, tail" if bag.tail else piece.name,
        skin=bag.skin,
        servings=bag.servings,
        weight=("" if bag.measured else "about ") + format_mass(bag.kg, system),
        caught=bag.caught_on,
        packed=bag.packed_on,
        best=bag.best_by,
        owner=owner,
        code=bag.code,
        cautions=[c for c in cautions if c],
        purpose=meant_for(ctx, purpose),
        link_base=ctx.link_base,
    )


def _seen_in(ctx: AppContext, bag: Bag) -> list[Seen]:
    """What was seen on the fish that are in a bag."""
    fish = dict.fromkeys(f.id for _, _, f in bags.portions_of_bag(bag.id))
    return [s for fish_id in fish for s in seen_on(ctx, fish_id)]


def bag_meant_for(ctx: AppContext, bag: Bag) -> str:
    """What a bag is for, in words, after all that was seen on its fish; "" for the freezer."""
    if not meant_for(ctx, bag.purpose):
        return ""
    with ctx.store.reading():
        return meant_for(ctx, still_for(ctx, bag.purpose, _seen_in(ctx, bag)))


def label_pdf(ctx: AppContext, bag_id: str, system: System = "metric") -> bytes:
    """The label as a PDF. Raises Unknown."""
    with ctx.store.reading():
        bag = bags.get(bag_id)
        content = compose_label(ctx, bag, system)
    return labels_pdf([content], bag.sealed_at)


def print_label(ctx: AppContext, bag_id: str, system: System = "metric") -> None:
    """Print a bag's label now. Raises PrinterOffline, Unknown."""
    pdf = label_pdf(ctx, bag_id, system)
    with ctx.store.reading():
        code = labels.show_code(bags.get(bag_id).code)
    ctx.printer.print(PrintJob(f"label {code}", pdf, ctx.clock()))
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

"""Receipts: a party's sheet for the crew, the same behind a private address, costs and currency."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.pack.labels import count, short_date, show_code
from lepidos.core.units import System, format_length, format_mass
from lepidos.exchange.receiptpdf import ReceiptBlock, ReceiptText, receipt_pdf
from lepidos.stations.pack import receipts
from lepidos.stations.pack.receipts import PartyReceipt, money
from lepidos.store.records import Bag
from lepidos.web.pack.pack import receipt_words, show_pack, show_share
from lepidos.web.settings.settings import show_settings
from lepidos.web.shell.forms import system_of
from lepidos.web.shell.orders import by_form
from lepidos.web.shell.render import context_of, page

router = APIRouter(include_in_schema=False)

NOT_TO_BE_FOUND = {"cache-control": "no-store", "x-robots-tag": "noindex"}


@router.get("/r/{token}")
def private_receipt(request: Request, token: str) -> Response:
    """One party's receipt, and nothing else of the app. Raises Unknown for a withdrawn address."""
    ctx = context_of(request)
    found = receipts.receipt_by_token(ctx, token[:60])
    shown = page(
        request,
        "pack/receipt.html",
        here="receipt",
        token=token,
        **receipt_words(ctx, found),
    )
    shown.headers.update(NOT_TO_BE_FOUND)
    return shown


@router.get("/r/{token}/receipt.pdf")
def private_pdf(request: Request, token: str) -> Response:
    """The same as PDF."""
    found = receipts.receipt_by_token(context_of(request), token[:60])
    return pdf_of(request, found, NOT_TO_BE_FOUND)


@router.get("/trips/{trip_id}/shares/{party_id}/receipt.pdf")
def receipt(request: Request, trip_id: str, party_id: str) -> Response:
    """A party's receipt as PDF."""
    return pdf_of(request, receipts.view_receipt(context_of(request), trip_id, party_id), {})


@router.get("/trips/{trip_id}/receipt")
def show_receipt(request: Request, trip_id: str) -> Response:
    """The receipt of a trip without parties."""
    return show_share(request, trip_id, "")


@router.get("/trips/{trip_id}/receipt.pdf")
def whole_receipt(request: Request, trip_id: str) -> Response:
    """The same as PDF."""
    return receipt(request, trip_id, "")


by_form(
    router,
    "/trips/{trip_id}/costs",
    receipts.add_cost,
    show_pack,
    "/trips/{trip_id}/pack",
    name="cost",
)


by_form(
    router,
    "/trips/{trip_id}/shares/{party_id}/link",
    receipts.make_link,
    show_share,
    "/trips/{trip_id}/shares/{party_id}",
)


by_form(
    router,
    "/settings/currency",
    receipts.choose_currency,
    show_settings,
    "/settings",
    code="currency",
)


def pdf_of(request: Request, found: PartyReceipt, headers: dict[str, str]) -> Response:
    """A receipt as PDF."""
    made_at = found.bags[-1].sealed_at if found.bags else found.view.trip.started_at
    pdf = receipt_pdf(_text(request, found, system_of(request)), made_at)
    return Response(
        pdf,
        media_type="application/pdf",
        headers={"content-disposition": "inline; filename=receipt.pdf"} | headers,
    )


def _text(request: Request, found: PartyReceipt, system: System) -> ReceiptText:
    """A receipt's words, in the reader's units."""
    guide = context_of(request).guide

    def what(bag: Bag) -> str:
        piece = guide.piece(bag.piece).name + (", tail" if bag.tail else "")
        return f"{guide.known_or_named(bag.species).name} {piece}, skin {bag.skin}"

    def mass(kg: float, about: bool) -> str:
        return ("about " if about else "") + format_mass(kg, system)

    fish = ReceiptBlock(
        "Fish",
        ("Fish", "Kind", "Length", "Weight", "Fillets"),
        tuple(
            (
                str(f.fish.code),
                f.kind,
                format_length(f.now.length_m, system),
                mass(f.weight.kg, not f.weight.measured),
                f"{f.fillet_part * 100:.1f} %" if f.fillet_part is not None else "not cut yet",
            )
            for f in found.fish
        ),
        (0.12, 0.3, 0.18, 0.22, 0.18),
    )
    bags = ReceiptBlock(
        "Bags",
        ("Bag", "What", "Servings", "Weight", "Best by"),
        tuple(
            (
                show_code(b.code),
                what(b),
                f"{b.servings:g}",
                mass(b.kg, not b.measured),
                short_date(b.best_by),
            )
            for b in found.bags
        ),
        (0.14, 0.38, 0.12, 0.18, 0.18),
    )
    costs = ReceiptBlock(
        "To pay",
        ("What", "Shared", "All", "Yours"),
        tuple(
            (
                line.cost.name,
                receipts.SHARED_BY[line.cost.shared_by],
                money(line.cost.coins, found.currency),
                money(line.coins, found.currency),
            )
            for line in found.costs
        ),
        (0.34, 0.3, 0.18, 0.18),
    )
    totals = [f"{count(len(found.bags), 'bag')}, {format_mass(found.kg, system)}"]
    if found.costs:
        totals.append(f"To pay: {money(found.coins, found.currency)}")
        if found.per_serving is not None and found.per_kg is not None:
            totals.append(
                f"{money(found.per_serving, found.currency)} a serving, "
                f"{money(found.per_kg, found.currency)} a kilogram in bags"
            )
    said = [guide.cautions[key] for key in ("thaw", "raw")]
    kinds = {guide.known_or_named(b.species).key: b.species for b in found.bags}
    own = [c for k in kinds.values() for c in guide.known_or_named(k).cautions]
    said += [guide.cautions[key] for key in dict.fromkeys(own) if guide.cautions[key].label]
    trip = found.view.trip
    return ReceiptText(
        found.name,
        " · ".join(filter(None, (trip.name, trip.harbour, short_date(trip.on_date)))),
        tuple(block for block in (fish, bags, costs) if block.rows),
        tuple(totals),
        tuple(dict.fromkeys(f"{c.text} {c.decides}".strip() for c in said)),
    )

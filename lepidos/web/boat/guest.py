"""What a guest's device shows: the fish, bags, costs and wishes of its own party."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.core.errors import Unknown
from lepidos.guide.packing import usual_packing
from lepidos.stations.pack import party_wishes, receipts
from lepidos.stations.pack.receipts import PartyReceipt
from lepidos.web.pack.pack import receipt_words
from lepidos.web.pack.receipt import pdf_of
from lepidos.web.shell.access import guest_of
from lepidos.web.shell.forms import Form
from lepidos.web.shell.render import after, context_of, page, shows_again

router = APIRouter(include_in_schema=False)


@router.get("/guest")
def show_guest(request: Request) -> Response:
    """The party's sheet, and what it wishes. Raises Unknown on a device that is no guest's."""
    ctx, found = context_of(request), _receipt(request)
    return page(
        request,
        "boat/guest.html",
        here="guest",
        token="",
        wish=party_wishes.wish_now(ctx, found.view.trip.id, found.party_id),
        classes=usual_packing().advisory,
        kinds=sorted(
            {ctx.guide.known_or_named(f.fish.species) for f in found.fish}, key=lambda s: s.name
        ),
        **receipt_words(ctx, found),
    )


@router.get("/guest/receipt.pdf")
def guest_pdf(request: Request) -> Response:
    """The same as PDF."""
    return pdf_of(request, _receipt(request), {})


@router.post("/guest/wish")
@shows_again(show_guest)
def guest_wish(request: Request, form: Form) -> Response:
    """What the party wishes of its bags."""
    found = _receipt(request)
    order = party_wishes.WishOnLabels(
        found.view.trip.id,
        found.party_id,
        form.text("note", 1000),
        tuple(sorted(form.all("without"))),
    )
    form.done()
    party_wishes.wish_of_party(context_of(request), form.text("key"), order)
    return after(form.text("key"), "/guest")


def _receipt(request: Request) -> PartyReceipt:
    party_id = guest_of(request)
    if not party_id:
        raise Unknown("guest's page", "on this device")
    return receipts.receipt_of_party(context_of(request), party_id)

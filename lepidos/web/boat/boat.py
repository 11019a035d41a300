"""Who is aboard: devices are let in by a code, let out again, and what each did is shown."""

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from lepidos.core.errors import Refused, Unknown
from lepidos.stations.boat import devices
from lepidos.stations.boat.codes import Codes
from lepidos.web.drawings.qr import label_qr
from lepidos.web.shell.access import COOKIE, is_secure
from lepidos.web.shell.addresses import shared_at
from lepidos.web.shell.current import current_view
from lepidos.web.shell.forms import Form
from lepidos.web.shell.orders import by_form
from lepidos.web.shell.preferences import here
from lepidos.web.shell.render import context_of, page, shows_again
from lepidos.web.shell.serve import certificates_of

router = APIRouter(include_in_schema=False)

ROLES = ("crew", "bench", "guest")


def codes_of(request: Request) -> Codes:
    """The codes that are good now."""
    codes: Codes = request.app.state.codes
    return codes


@router.get("/boat")
def show_boat(request: Request) -> Response:
    """Devices that are in, codes that are good, and what was done last, by which device."""
    ctx, settings = context_of(request), request.app.state.settings
    view = current_view(request)
    base = (shared_at(settings) or [str(request.base_url).rstrip("/")])[0]
    offers = [
        (one, label_qr(f"{base}/join?code={one.code}"))
        for one in codes_of(request).good(ctx.clock())
    ]
    return page(
        request,
        "boat/boat.html",
        view,
        here="boat",
        aboard=devices.view_aboard(ctx),
        offers=offers,
        address=base,
        closed=settings.is_shared and not settings.open_to_all,
        shared=settings.is_shared,
        secret=settings.share,
        fingerprint=certificates_of(settings).fingerprint if settings.share else "",
    )


@router.post("/boat/codes")
@shows_again(show_boat)
def offer_code(request: Request, form: Form) -> Response:
    """A code for one device. Not kept in the log: what counts is who came in by it."""
    ctx, view = context_of(request), current_view(request)
    role, party = form.text("role"), form.text("party")
    form.done()
    if role not in ROLES:
        raise Refused({"role": "Say what the device is for"})
    if role == "guest" and party not in {p.id for p in (view.parties if view else ())}:
        raise Refused({"party": "Say whose guest it is; parties are named with the trip"})
    codes_of(request).offer(role, party if role == "guest" else None, ctx.clock())
    return RedirectResponse("/boat", 303)


@router.post("/boat/codes/{code}/back")
def take_code_back(request: Request, code: str, form: Form) -> Response:
    """The code lets nobody in any more."""
    form.done()
    codes_of(request).take_back(code)
    return RedirectResponse("/boat", 303)


by_form(router, "/boat/devices/{device_id}/out", devices.withdraw, show_boat, "/boat")


@router.get("/trust")
def show_trust(request: Request) -> Response:
    """How a phone trusts this boat once. Raises Unknown when nothing is shared over TLS."""
    settings = request.app.state.settings
    if not settings.share:
        raise Unknown("certificate", "of this boat")
    return page(request, "boat/trust.html", fingerprint=certificates_of(settings).fingerprint)


@router.get("/authority.crt")
def authority(request: Request) -> Response:
    """The certificate to be trusted. Raises Unknown as `show_trust`."""
    settings = request.app.state.settings
    if not settings.share:
        raise Unknown("certificate", "of this boat")
    pem = certificates_of(settings).authority.read_bytes()
    name = {"content-disposition": "attachment; filename=lepidos-boat.crt"}
    return Response(pem, media_type="application/x-x509-ca-cert", headers=name)


@router.get("/join")
def show_join(request: Request) -> Response:
    """All that a stranger sees: where the code goes."""
    asked = request.query_params
    code = asked.get("code", "")[:20]
    shared = request.app.state.settings.share
    return page(
        request, "boat/join.html", code=code, shared=shared, to=here(asked.get("to", "/")[:200])
    )


@router.post("/join")
@shows_again(show_join)
def join(request: Request, form: Form) -> Response:
    """A right code makes the device what it was offered; it holds a token from now on."""
    ctx = context_of(request)
    name, code, to = form.text("name"), form.text("code"), here(form.text("to", 600) or "/")
    form.done()
    if not name:
        raise Refused({"name": "Say whose device it is"})
    client = request.client.host if request.client else ""
    offer = codes_of(request).use(code, client, ctx.clock())
    token = devices.join(ctx, form.text("key"), offer, name)
    answer = RedirectResponse("/guest" if offer.role == "guest" else to, 303)
    answer.set_cookie(
        COOKIE,
        token,
        max_age=int(devices.LASTS[offer.role].total_seconds()),
        httponly=True,
        samesite="strict",
        secure=is_secure(request),
    )
    return answer

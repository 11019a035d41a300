"""Pack: the bag plan, the next bag, and what people say of both."""

from typing import Any
from urllib.parse import quote

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from lepidos.core.errors import Refused
from lepidos.core.fish.species import Species
from lepidos.core.units import IN_M, OZ_KG, System
from lepidos.guide.packing import usual_packing
from lepidos.stations.base.context import AppContext, what_was_done
from lepidos.stations.pack import (
    bagging,
    by_hand,
    columns,
    label,
    party_wishes,
    receipts,
    seal,
    sharing,
)
from lepidos.stations.pack.planned import PackTable
from lepidos.stations.pack.receipts import PartyReceipt
from lepidos.stations.pack.seal_checks import seal_checks
from lepidos.web.drawings import bag as bag_drawing
from lepidos.web.drawings import qr
from lepidos.web.pack.lines import Lines
from lepidos.web.shell.forms import Form, FormData, system_of
from lepidos.web.shell.orders import by_form, read_order
from lepidos.web.shell.preferences import YEAR_S
from lepidos.web.shell.render import after, context_of, page, shows_again

router = APIRouter(include_in_schema=False)


def servings_of(system: System) -> tuple[float, ...]:
    """Round servings to choose from [kg], in the crew's own units."""
    usual = usual_packing()
    if system == "imperial":
        return tuple(oz * OZ_KG for oz in usual.servings_oz)
    return usual.servings_kg


@router.get("/trips/{trip_id}/pack")
def show_pack(request: Request, trip_id: str) -> Response:
    """The table in bags, the next one largest."""
    ctx, asked = context_of(request), request.query_params
    found = bagging.view_pack(ctx, trip_id, asked.get("bag", "")[:80], asked.get("for", "")[:40])
    moving = asked.get("move", "")[:80]
    at_hand = found.next_bag
    moved = next((r for r in at_hand.rows if r.part.key == moving), None) if at_hand else None
    sealed_label = None
    if last := asked.get("done"):
        done = what_was_done(ctx, last)
        if done and done.subject_kind == "bag" and done.subject_id:
            sealed_label = label.label_of(ctx, done.subject_id, system_of(request))
    by = asked.get("by", "") or request.cookies.get("columns", "")
    by = by if by in columns.BY else columns.PARTY
    lines = Lines(request, found, by)
    answer = page(
        request,
        "pack/pack.html",
        found.view,
        by=by,
        columns_in=columns.BY,
        columns=columns.columns_by(ctx, found, by),
        here="pack",
        found=found,
        moved=moved,
        draw=bag_drawing.bag,
        planned_bag=lines.planned_bag,
        piece_line=lines.piece_line,
        ways=sharing.WAYS,
        shares=sharing.shares_of(found.rule, found.view),
        servings=servings_of(system_of(request)),
        per_bag=usual_packing().per_bag,
        signed=_signed,
        may_go=moved is not None
        and any(b.bag.kin == moved.part.kin and b is not at_hand for b in found.planned),
        same_kin=lambda bag: moved is not None and bag.bag.kin == moved.part.kin,
        bones=at_hand
        and at_hand.piece.counts_as == "fillet"
        and not ctx.guide.plan_of(at_hand.species).boneless,
        checks=seal_checks(ctx, at_hand) if at_hand else (),
        sealed_label=sealed_label,
        label_qr=qr.label_qr,
        labels=by_hand.labels_now(ctx),
        classes={key: ctx.guide.cautions[key].text for key in usual_packing().advisory},
        kinds=_kinds(found),
        **_costs(ctx, found),
        printer_says=asked.get("printer", "")[:200],
        known=ctx.guide.known_or_named,
        piece_of=ctx.guide.piece,
    )
    if asked.get("by", "") in columns.BY:
        answer.set_cookie("columns", by, max_age=YEAR_S, samesite="strict", httponly=True)
    return answer


@router.post("/trips/{trip_id}/bags")
@shows_again(show_pack)
def seal_bag(request: Request, trip_id: str, form: Form) -> Response:
    """Seal the bag at hand and print its label; the next one comes."""
    ctx, key = context_of(request), form.text("key")
    order = read_order(
        form,
        seal.SealBag,
        trip_id=trip_id,
        width_m=_metres(form.text("width_m")),
        length_m=_metres(form.text("length_m")),
        from_roll=form.text("roll") == "yes",
        as_planned=False,
        of_piece=None,
    )
    done = seal.seal_bag(ctx, key, order)
    said = "" if done.repeated else label.send_label(ctx, done.subject_id, form.system)
    # the next bag is of the same party, as long as it has any
    back = f"/trips/{trip_id}/pack?for={quote(order.party_id)}"
    return after(key, back + ("&printer=off" if said else ""))


def _into(_: Request, form: FormData) -> tuple[str, ...]:
    """The parts of the bag that a piece goes into; none: its own, or the one that the plan has."""
    to = form.text("to", 6000)
    return () if to in {"own", "free"} else tuple(to.split())


def _shares(_: Request, form: FormData) -> tuple[tuple[str, int], ...]:
    """How many shares each party takes."""
    names = [name for name in form.values if name.startswith("share-")]
    most = sharing.MAX_SHARE
    return tuple((name.removeprefix("share-"), form.whole(name, 0, 0, most)) for name in names)


def _held(_: Request, form: FormData) -> float:
    """How many bags the box holds, or metres the roll: in feet where lengths are."""
    held = form.number("held") or 0.0
    on_roll = not form.length_m("length", needed=False)
    return held * 12 * IN_M if form.system == "imperial" and on_roll else held


by_form(
    router,
    "/trips/{trip_id}/bags/lay",
    by_hand.lay_together,
    show_pack,
    "/trips/{trip_id}/pack",
    into=_into,
    free=lambda _, form: form.text("to", 6000) == "free",
)


by_form(
    router,
    "/trips/{trip_id}/bags/give",
    by_hand.give_bag,
    show_pack,
    "/trips/{trip_id}/pack",
    party_id="to",
)


by_form(
    router,
    "/trips/{trip_id}/servings",
    by_hand.set_rule,
    show_pack,
    "/trips/{trip_id}/pack",
    tail_apart=lambda _, form: form.text("tail") != "in",
)


@router.post("/trips/{trip_id}/wish")
@shows_again(show_pack)
def wish_of_party(request: Request, trip_id: str, form: Form) -> Response:
    """A note on a party's labels, and what it or one of its guests does not take."""
    order = party_wishes.WishOnLabels(
        trip_id,
        form.text("party"),
        form.text("note", 1000),
        tuple(sorted(form.all("without"))),
        form.text("guest", 1000),
    )
    if "guest" in form.values and not order.guest:
        raise Refused({"guest": "Say who that is: a name as it stands on the label"})
    form.done()
    party_wishes.wish_of_party(context_of(request), form.text("key"), order)
    return after(form.text("key"), f"/trips/{trip_id}/pack")


by_form(
    router,
    "/trips/{trip_id}/sharing",
    sharing.share_out,
    show_pack,
    "/trips/{trip_id}/pack",
    shares=_shares,
)


@router.post("/trips/{trip_id}/sharing/stop")
def stop_looking(request: Request, trip_id: str) -> Response:
    """Keep the split as it is; nothing is written."""
    context_of(request).splits.stop()
    return RedirectResponse(f"/trips/{trip_id}/pack", 303)


by_form(
    router,
    "/trips/{trip_id}/supplies",
    by_hand.count_supply,
    show_pack,
    "/trips/{trip_id}/pack",
    held=_held,
)


by_form(
    router,
    "/trips/{trip_id}/labels",
    by_hand.count_labels,
    show_pack,
    "/trips/{trip_id}/pack",
    held="labels",
)


@router.get("/trips/{trip_id}/shares/{party_id}")
def show_share(request: Request, trip_id: str, party_id: str) -> Response:
    """One party's sheet: its bags, what they weigh, and why it got them."""
    found = bagging.view_pack(context_of(request), trip_id)
    column = next((c for c in found.columns if c.party_id == party_id), None)
    if column is None:
        return RedirectResponse(f"/trips/{trip_id}/pack", 303)
    ctx = context_of(request)
    receipt = receipts.view_receipt(ctx, trip_id, party_id)
    return page(
        request,
        "pack/share.html",
        found.view,
        here="pack",
        found=found,
        column=column,
        due=found.share_of(party_id),
        signed=_signed,
        label_qr=qr.label_qr,
        **receipt_words(ctx, receipt),
        ways=sharing.WAYS,
    )


def _kinds(found: PackTable) -> list[Species]:
    """The kinds of fish that lie there, by name."""
    return sorted({r.species.key: r.species for r in found.pieces}.values(), key=lambda s: s.name)


def _costs(ctx: AppContext, found: PackTable) -> dict[str, Any]:
    """What this trip cost so far, and how money is written."""
    costs, code = receipts.costs_of(ctx, found.view.trip.id)
    return {
        "costs": costs,
        "shared_by": receipts.SHARED_BY,
        "currency": code,
        "money": lambda coins: receipts.money(coins, code),
    }


def receipt_words(ctx: AppContext, receipt: PartyReceipt) -> dict[str, Any]:
    """What a receipt's template needs, on the crew's sheet and behind a private address."""
    kinds = [ctx.guide.known_or_named(b.species) for b in receipt.bags]
    said = {ctx.guide.cautions[key].text for key in ("thaw", "raw")}
    own = dict.fromkeys(key for kind in kinds for key in kind.cautions)
    return {
        "receipt": receipt,
        "receipt_cautions": [
            key
            for key in own
            if ctx.guide.cautions[key].label and ctx.guide.cautions[key].text not in said
        ],
        "money": lambda coins: receipts.money(coins, receipt.currency),
        "shared_by": receipts.SHARED_BY,
        "known": ctx.guide.known_or_named,
        "piece_of": ctx.guide.piece,
    }


def _signed(part: float) -> str:
    """A deviation in per cent, and nothing less than nothing where it is none."""
    return f"{round(part * 100, 1) + 0.0:+.1f}"


def _metres(text: str) -> float:
    """A size that the page itself gave; what is none counts as not said."""
    try:
        value = float(text)
    except ValueError:
        return 0.0
    return value if 0 <= value <= 1 else 0.0

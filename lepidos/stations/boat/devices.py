"""Letting a device in, letting it out, and which one did what."""

import hashlib
import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta

from lepidos.core.errors import Refused
from lepidos.core.pack.labels import one_line
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.boat.codes import Offer
from lepidos.store.base import entries
from lepidos.store.boat import devices
from lepidos.store.records import Device, Entry, Party
from lepidos.store.trips import trips

# Until it is asked for a code again (practice).
LASTS = {"crew": timedelta(days=180), "bench": timedelta(days=180), "guest": timedelta(days=14)}
MAX_NAME_LENGTH = 40
LATEST_ENTRIES = 60


@dataclass(frozen=True)
class JoinDevice:
    """An order to let a device in as an offer says. `token` is the SHA-256 of what it gets."""

    name: str
    role: str
    party_id: str | None
    token: str


@dataclass(frozen=True)
class WithdrawDevice:
    """An order to let a device out."""

    device_id: str


@dataclass(frozen=True)
class Aboard:
    """The devices that are in, those that are out again, and what was done last and by which."""

    inside: tuple[Device, ...]
    outside: tuple[Device, ...]
    parties: dict[str, Party]
    latest: tuple[Entry, ...]


def digest_of_token(token: str) -> str:
    """What the file keeps of a token: its SHA-256. A copy of the file lets nobody in."""
    return hashlib.sha256(token.encode()).hexdigest()


def join(ctx: AppContext, key: str, offer: Offer, name: str) -> str:
    """Let a device in; the token that it shows from now on, 256 bits from the system's chance.

    Raises Refused.
    """
    plain = one_line(name, MAX_NAME_LENGTH)
    if not plain:
        raise Refused({"name": "Say whose device it is"})
    token = secrets.token_urlsafe(32)
    order = JoinDevice(plain, offer.role, offer.party_id, digest_of_token(token))

    def do(at: datetime) -> Receipt:
        row = devices.add(
            ctx.ids,
            at,
            name=order.name,
            role=order.role,
            party=order.party_id,
            token=order.token,
            until=at + LASTS[order.role],
        )
        return Receipt("device", row.id, f"{order.name}: let in as {_as(order)}")

    run_idempotent(ctx, key, "boat.join", order, do)
    return token


def withdraw(ctx: AppContext, key: str, order: WithdrawDevice) -> Receipt:
    """From now on the device is a stranger. Raises Unknown."""

    def do(at: datetime) -> Receipt:
        device = devices.get(order.device_id)
        if device.withdrawn_at is None:
            devices.withdraw(device, at)
        return Receipt("device out", device.id, f"{device.name}: let out")

    return run_idempotent(ctx, key, "boat.withdraw", order, do)


def who_holds(ctx: AppContext, token: str) -> Device | None:
    """The device that shows a token, when it is in."""
    digest = digest_of_token(token)

    def look() -> Device | None:
        with ctx.store.reading():
            return devices.by_token(digest)

    found = ctx.memo.get(("device", digest, ctx.changes.mark), look, most=200)
    if found is None or found.withdrawn_at is not None or found.until <= ctx.clock():
        return None
    return found


def view_aboard(ctx: AppContext) -> Aboard:
    """All devices, and the latest entries."""
    with ctx.store.reading():
        now, known = ctx.clock(), devices.every()
        inside = tuple(d for d in known if d.withdrawn_at is None and d.until > now)
        outside = tuple(d for d in known if d not in inside)
        parties = {d.party_id: trips.party(d.party_id) for d in known if d.party_id}
        return Aboard(inside, outside, parties, tuple(entries.newest(LATEST_ENTRIES)))


def _as(order: JoinDevice) -> str:
    if order.party_id:
        return f"guest of {trips.party(order.party_id).name}"
    return order.role

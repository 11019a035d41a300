"""Which device may ask for what, when the app can be reached from beyond its own machine.

The machine itself is crew. Any other device is a stranger until it was let in, see `stations/boat`,
and shows its token as a cookie, or a script as `Authorization: Bearer`.
"""

import math
import re
import tomllib
from collections.abc import Iterable
from contextlib import suppress
from functools import cache
from http.cookies import CookieError, SimpleCookie
from pathlib import Path
from typing import Any
from urllib.parse import quote

from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import Request
from starlette.responses import RedirectResponse
from starlette.routing import compile_path
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from lepidos.stations.base import acting
from lepidos.stations.boat.devices import who_holds
from lepidos.stations.pack import party_wishes
from lepidos.stations.undo.undo import UndoRow, done_by
from lepidos.store.file.file_problems import FileProblem
from lepidos.store.records import Device
from lepidos.web.shell.rates import OPEN_STREAMS, Rates
from lepidos.web.shell.security import Refuse
from lepidos.web.shell.streams import WhileIn

TABLE = Path(__file__).parents[1] / "access.toml"
COOKIE = "device"
ROLES = ("stranger", "guest", "bench", "crew")
SHIPPED = ("/static/",)
_HERE = {"127.0.0.1", "::1"}
_FORWARDED = ("forwarded", "x-forwarded-for", "x-real-ip")


@cache
def _table() -> dict[str, Any]:
    return tomllib.loads(TABLE.read_text("utf-8"))


@cache
def least_roles() -> dict[str, str]:
    """The least role for each "METHOD /path" of `access.toml`. Raises ValueError for two of one."""
    found: dict[str, str] = {}
    for role, routes in _table().items():
        if role == "undo":
            continue
        for route in routes:
            if route in found or role not in ROLES:
                raise ValueError(f"{route} of {role}")
            found[route] = role
    return found


class Routes:
    """The app's routes in the order in which it looks for one."""

    def __init__(self, routes: Iterable[tuple[str, str]]) -> None:
        self.known = tuple((method, path, compile_path(path)[0]) for method, path in routes)

    def least_role(self, method: str, path: str) -> str:
        """Who may ask; the crew for what there is not, so that a stranger learns nothing."""
        if path.startswith(SHIPPED):
            return "stranger"
        wanted = "GET" if method == "HEAD" else method
        for known, template, pattern in self.known:
            if known == wanted and pattern.match(path):
                return least_roles().get(f"{known} {template}", "crew")
        return "crew"


def may(role: str, least: str) -> bool:
    """Whether a role is enough."""
    return ROLES.index(role) >= ROLES.index(least)


class Access:
    """Says who is asking, and lets in who may ask.

    `closed`: strangers stay outside. `rates`: how much a device may ask for; None for an app that
    only its own machine can reach.
    """

    def __init__(
        self,
        app: ASGIApp,
        routes: Routes,
        closed: bool,
        refuse: Refuse,
        rates: Rates | None = None,
    ) -> None:
        self._app, self._routes, self._closed, self._refuse = app, routes, closed, refuse
        self._rates = rates

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """ASGI entry."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        role, device = "crew", None
        if self._closed and not _is_here(scope):
            device = _device(scope)
            role = device.role if device else "stranger"
        if device and scope.get("client"):
            scope["app"].state.connections.know(*scope["client"])
        scope.setdefault("state", {}).update(role=role, device=device)
        if self._rates is None or _is_here(scope) or scope["path"].startswith(SHIPPED):
            await self._let_in(scope, receive, send, (role, device))
        else:
            await self._within(self._rates, scope, receive, send, (role, device))

    async def _within(
        self,
        rates: Rates,
        scope: Scope,
        receive: Receive,
        send: Send,
        asking: tuple[str, Device | None],
    ) -> None:
        role, device = asking
        who = str(device.id if device else (scope.get("client") or ("", 0))[0])
        if (wait_s := rates.wait_s(who, role)) > 0:
            said = "This device asks for too much at once. It goes on by itself in a moment."
            await self._refuse(scope, receive, _with_wait(send, wait_s), 429, said)
        elif scope["path"] not in OPEN_STREAMS:
            await self._let_in(scope, receive, send, (role, device))
        elif not rates.open_stream(who, role):
            said = "This device has too many pages open at once. Close some."
            await self._refuse(scope, receive, _with_wait(send, 5), 429, said)
        else:
            try:
                await self._let_in(scope, receive, send, (role, device))
            finally:
                rates.close_stream(who)

    async def _let_in(
        self, scope: Scope, receive: Receive, send: Send, asking: tuple[str, Device | None]
    ) -> None:
        role, device = asking
        if not may(role, self._routes.least_role(scope["method"], scope["path"])):
            await self._turn_away(scope, receive, send, role)
            return
        named = acting.device_name.set(device.name if device else "")
        app = self._app
        if device and scope["path"] in OPEN_STREAMS:
            app = WhileIn(app, lambda: _device(scope) is not None)
        try:
            await app(scope, receive, send)
        finally:
            acting.device_name.reset(named)

    async def _turn_away(self, scope: Scope, receive: Receive, send: Send, role: str) -> None:
        path = scope["path"]
        script = path.startswith(("/api/", "/live/"))
        if role == "stranger" and scope["method"] == "GET" and not script:
            answer = RedirectResponse(f"/join?to={quote(path[:200])}", status_code=303)
            await answer(scope, receive, send)
        elif role == "stranger":
            said = "This device was not let in. Open the app on it and ask the crew for a code."
            await self._refuse(scope, receive, send, 401, said)
        else:
            said = f"This device is in as {role}. That is for the crew to do."
            await self._refuse(scope, receive, send, 403, said)


def _with_wait(send: Send, seconds: float) -> Send:
    """An answer that says when to ask again: a phone's queue keeps what it has until then."""

    async def sending(message: Message) -> None:
        if message["type"] == "http.response.start":
            MutableHeaders(scope=message)["retry-after"] = str(math.ceil(seconds))
        await send(message)

    return sending


def _is_here(scope: Scope) -> bool:
    """Whether the machine itself is asking. What a proxy passes on comes from elsewhere."""
    address = (scope.get("client") or ("", 0))[0]
    headers = Headers(scope=scope)
    return address in _HERE and not any(name in headers for name in _FORWARDED)


def _device(scope: Scope) -> Device | None:
    token = _token(Headers(scope=scope))
    if not token:
        return None
    with suppress(FileProblem):  # who cannot be looked up is a stranger
        return who_holds(scope["app"].state.context, token)
    return None


def _token(headers: Headers) -> str:
    if found := re.fullmatch(r"Bearer ([\w-]{20,100})", headers.get("authorization", "")):
        return found[1]
    with suppress(CookieError):
        cookies = SimpleCookie(headers.get("cookie", ""))
        return cookies[COOKIE].value[:100] if COOKIE in cookies else ""
    return ""


def may_undo(request: Request, order: UndoRow) -> bool:
    """Whether who asks could have done what is to be undone, see `access.toml`."""
    role, who = role_of(request), getattr(request.state, "device", None)
    if role == "crew":
        return True
    ctx, table = request.app.state.context, _table()["undo"]
    done = done_by(ctx, order)
    if role == "bench":
        return bool(done.action in table["bench"] if done else order.kind in table["parts"])
    if role != "guest" or done is None or who is None or done.action not in table["own"]:
        return False
    return bool(
        done.device == who.name and party_wishes.party_of_wish(ctx, order.id) == who.party_id
    )


def is_secure(request: Request) -> bool:
    """Whether the page came over TLS."""
    return request.url.scheme == "https"


def role_of(request: Request) -> str:
    """Of the device that is asking."""
    return str(getattr(request.state, "role", "crew"))


def guest_of(request: Request) -> str:
    """The party of a guest's device; "" for others."""
    device: Device | None = getattr(request.state, "device", None)
    return (device.party_id or "") if device and device.role == "guest" else ""

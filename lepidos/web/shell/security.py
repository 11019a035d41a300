"""Who may call, what a page may load, and how much may be sent."""

import asyncio
import re
import time
from collections.abc import Awaitable, Callable, Iterable
from urllib.parse import urlsplit

import structlog
from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import ClientDisconnect
from starlette.types import ASGIApp, Message, Receive, Scope, Send

log = structlog.get_logger()

ASK_OWN_EVERY_S = 5.0
LOCAL_HOSTS = ("127.0.0.1", "localhost", "[::1]")
MAX_BYTES = 8 * 1024 * 1024  # a phone's photo of a label
MAX_LOG_BYTES = 64 * 1024 * 1024  # years of a logger's readings, a minute each
MAX_BUNDLE_BYTES = 1024 * 1024 * 1024  # many years of a charter boat
_LOG = re.compile(r"/freezer/places/\w+/log")
_BUNDLE = "/bundle/read"

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
    "font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; "
    "frame-ancestors 'none'; manifest-src 'self'"
)
# The API's documentation page draws with inline styles; nothing else on it is loosened.
DOCS_POLICY = POLICY.replace("style-src 'self'", "style-src 'self' 'unsafe-inline'")
DOCS_PATH = "/api/docs"

HEADERS = {
    "x-content-type-options": "nosniff",
    "x-frame-options": "DENY",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
    "permissions-policy": "camera=(self), microphone=(), geolocation=(), "
    "screen-wake-lock=(self), serial=(self)",
}
# What only a page, a frame or a worker is held to: of thirty scripts and sheets of a page each
# would bring half a kilobyte along, which nobody reads.
OF_A_PAGE = ("x-frame-options", "permissions-policy", "cross-origin-opener-policy")
PARTS = ("text/javascript", "text/css", "font/")
WORKER = "/worker.js"
_CHANGES = {"POST", "PUT", "PATCH", "DELETE"}

Refuse = Callable[[Scope, Receive, Send, int, str], Awaitable[None]]


BODY_S, LARGE_BODY_S = 30.0, 900.0  # a body takes no longer to come in, on however bad a network


class TooLarge(Exception):
    """More bytes came in than may."""


class TooSlow(Exception):
    """The body did not come in within its time."""


# scripts have the content's hash in their path; a font is never changed under its name
LASTING = ("/static/js-", "/static/vendor/fonts/")


class Guard:
    """Checks every request before any of our code sees it, and stamps every answer."""

    def __init__(
        self,
        app: ASGIApp,
        hosts: tuple[str, ...],
        refuse: Refuse,
        own: Callable[[], Iterable[str]] = tuple,
    ) -> None:
        self._app = app
        self._hosts = {h.lower() for h in (*LOCAL_HOSTS, *hosts)}
        self._refuse = refuse
        # what the machine itself is called, which changes with its networks
        self._own, self._own_hosts, self._asked_at = own, frozenset[str](), 0.0

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """ASGI entry."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        stamped = _stamp(scope, send)
        most = _most_bytes(scope["path"])
        if problem := self._problem(scope["method"], headers, most):
            await self._refuse(scope, receive, stamped, *problem)
            return
        started = False
        body = _Limited(receive, most, BODY_S if most == MAX_BYTES else LARGE_BODY_S)

        async def watched(message: Message) -> None:
            nonlocal started
            if (body.too_large or body.too_slow) and not started:
                return  # the framework's own answer to a body that broke off
            started = started or message["type"] == "http.response.start"
            await stamped(message)

        try:
            await self._app(scope, body, watched)
            if (problem := body.problem()) and not started:
                await self._refuse(scope, receive, stamped, *problem)
        except (TooLarge, TooSlow):
            if (problem := body.problem()) and not started:
                await self._refuse(scope, receive, stamped, *problem)
        except ClientDisconnect:
            log.info("left", path=scope["path"])  # nobody is there to be answered
        except Exception as error:
            # caught here and not by the framework, so that this page is stamped like any other
            log.error("broken", path=scope["path"], exc_info=error)
            if started:
                raise
            await self._refuse(scope, receive, stamped, *_BROKEN)

    def _is_ours(self, host: str) -> bool:
        if host not in self._hosts and host not in self._own_hosts:
            if time.monotonic() - self._asked_at < ASK_OWN_EVERY_S:
                return False
            self._own_hosts, self._asked_at = frozenset(self._own()), time.monotonic()
        return host in self._hosts or host in self._own_hosts

    def _problem(self, method: str, headers: Headers, most: int) -> tuple[int, str] | None:
        host = headers.get("host", "").lower()
        if not self._is_ours(_name(host)):
            return 400, (
                "This address is not one Lepidos answers to. Add it to LEPIDOS_ALLOWED_HOSTS "
                "if it is yours."
            )
        if method in _CHANGES and not _same_origin(headers, host):
            return 403, "This was sent from another site, so nothing was changed."
        length = headers.get("content-length", "0")
        if length.isdecimal() and int(length) > most:
            return _too_large(most)
        return None


_BROKEN = (500, "Nothing was half-saved. Go back and try again; the log has the details.")


def _most_bytes(path: str) -> int:
    """How much may be sent to a path."""
    if path == _BUNDLE:
        return MAX_BUNDLE_BYTES
    return MAX_LOG_BYTES if _LOG.fullmatch(path) else MAX_BYTES


def _too_large(most: int) -> tuple[int, str]:
    return 413, f"That is more than {most // 2**20} MB. Nothing was changed."


def _name(host: str) -> str:
    return host[: host.rfind(":")] if host.rpartition(":")[2].isdecimal() else host


def _same_origin(headers: Headers, host: str) -> bool:
    """Browsers say where a form was: by Sec-Fetch-Site, by Origin, or at least by Referer.

    A script of the user's own (curl, the command line) says nothing and has no cookie to steal.
    """
    site = headers.get("sec-fetch-site")
    if site is not None and site not in {"same-origin", "none"}:
        return False
    origin = headers.get("origin") or headers.get("referer")
    if origin is None:
        return site is not None or "cookie" not in headers
    try:
        return urlsplit(origin).netloc.lower() == host
    except ValueError:
        return False


class _Limited:
    """Receives a body up to `most` bytes, also one whose length was not said beforehand, in time.

    After the body it only waits for the client to leave, for as long as a stream is open.
    """

    def __init__(self, receive: Receive, most: int, seconds: float) -> None:
        self._receive, self._most = receive, most
        self._until = time.monotonic() + seconds
        self._seen, self._whole = 0, False
        self.too_large = self.too_slow = False

    async def __call__(self) -> Message:
        left = None if self._whole else max(0.0, self._until - time.monotonic())
        try:
            message = await asyncio.wait_for(self._receive(), left)
        except TimeoutError:
            self.too_slow = True
            raise TooSlow from None
        self._whole = self._whole or not message.get("more_body", False)
        self._seen += len(message.get("body", b""))
        if self._seen > self._most:
            self.too_large = True
            raise TooLarge
        return message

    def problem(self) -> tuple[int, str] | None:
        """What to answer when the body broke off; None when it did not."""
        if self.too_slow:
            return 408, "That took too long to arrive. Nothing was changed; send it again."
        return _too_large(self._most) if self.too_large else None


def _stamp(scope: Scope, send: Send) -> Send:
    path = scope["path"]
    policy = DOCS_POLICY if path == DOCS_PATH else POLICY

    async def stamped(message: Message) -> None:
        if message["type"] == "http.response.start":
            headers = MutableHeaders(scope=message)
            is_part = headers.get("content-type", "").startswith(PARTS)
            for name, value in HEADERS.items():
                if not (is_part and name in OF_A_PAGE):
                    headers[name] = value
            if not is_part or path == WORKER:
                headers["content-security-policy"] = policy
            if path.startswith("/static/"):
                # the address carries the content's hash, see render.static_url and script_url
                fresh = path.startswith(LASTING) or b"v=" in scope.get("query_string", b"")
                headers["cache-control"] = (
                    "public, max-age=31536000, immutable" if fresh else "no-cache"
                )
            else:
                headers.setdefault("cache-control", "no-store")
        await send(message)

    return stamped

"""Guards of every answer: headers that forbid foreign and inline code, a check of Host, Origin and access key, and the last words
where something failed that nobody foresaw.

The page is for this machine: a foreign Host header (DNS rebinding) or a foreign Origin (cross-site request) is refused.
"""

from __future__ import annotations

import logging
import re
import secrets
from collections import Counter
from collections.abc import Sequence
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from uhrwerk.web.access import MISSING, Access
from uhrwerk.web.errors import refusal
from uhrwerk.web.pages import SHIPPED

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; connect-src 'self'; "
    "base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)
HEADERS = {
    "content-security-policy": POLICY,
    "x-content-type-options": "nosniff",
    "x-frame-options": "DENY",
    "referrer-policy": "no-referrer",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
    "permissions-policy": "camera=(), microphone=(), geolocation=()",
}
log = logging.getLogger("uhrwerk")

LARGEST_BODY = 4_000_000
#: of a file that is opened
LARGEST_FILE = 64_000_000
#: calls of one address that are under way at once, at most
MOST_CALLS = 150
#: what is served to anybody: the files that ship with Uhrwerk, in which there is no data
OPEN = f"{SHIPPED}/"


class Guard:
    """ASGI middleware. `hosts` are the names under which this server may be addressed, without port; `large` the paths of calls
    that take a file; without `access` anybody on this machine may call."""

    def __init__(
        self, app: ASGIApp, hosts: frozenset[str], large: Sequence[re.Pattern[str]], access: Access | None
    ) -> None:
        self.app, self.hosts, self.large, self.access = app, hosts, large, access
        self._under_way: Counter[str] = Counter()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)

        begun, number = False, secrets.token_hex(4)

        async def guarded(message: Message) -> None:
            nonlocal begun
            begun = True
            if message["type"] == "http.response.start":
                out = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    out.setdefault(name, value)
                out.setdefault("cache-control", "no-store")
                out["x-request-id"] = number
            await send(message)

        client = (scope.get("client") or ("",))[0]
        refused = self._refused(scope, headers, client)
        if refused is not None and scope["type"] == "websocket":
            await send({"type": "websocket.close", "code": 1008, "reason": refused[1]})
            return
        if self.access is not None and (refused is None or refused[0] == 401):
            welcome = self.access.welcome(scope)
            if welcome is not None:
                await welcome(scope, receive, guarded)
                return
        if refused is not None:
            await refusal(Request(scope), *refused)(scope, receive, guarded)
            return
        self._under_way[client] += 1
        try:
            await self.app(scope, receive, guarded)
        except Exception:
            log.exception("%s %s (%s)", scope.get("method", scope["type"]), scope.get("path"), number)
            if begun or scope["type"] == "websocket":
                raise
            words = f"This failed inside Uhrwerk; its log tells more under {number}."
            await refusal(Request(scope), 500, words)(scope, receive, guarded)
        finally:
            self._under_way[client] -= 1

    def _refused(self, scope: Scope, headers: Headers, client: str) -> tuple[int, str] | None:
        """The status and the words with which a call is refused before anything is done."""
        wrong = self._wrong(scope, headers)
        if wrong is not None:
            return 403, wrong
        if self.access is not None and not scope["path"].startswith(OPEN) and not self.access.granted(scope, headers):
            return 401, MISSING
        if self._under_way[client] >= MOST_CALLS:
            return 503, f"{MOST_CALLS} calls of yours are under way; wait for one of them."
        return None

    def _wrong(self, scope: Scope, headers: Headers) -> str | None:
        host, origin = headers.get("host", ""), headers.get("origin")
        if _name(f"//{host}") not in self.hosts:
            return "This server does not answer under that name."
        if origin is not None and origin not in (f"http://{host}", f"https://{host}"):
            return "Requests from other sites are refused."
        if headers.get("sec-fetch-site") in ("cross-site", "same-site") and scope.get("method") not in ("GET", "HEAD"):
            return "Requests from other sites are refused."
        length = headers.get("content-length", "0")
        if (
            "transfer-encoding" in headers
            or not length.isdecimal()
            or len(length) > 12
            or int(length) > self._largest(scope)
        ):
            return "That is too large, or does not say how large it is."
        return None

    def _largest(self, scope: Scope) -> int:
        """Bytes of the body of a call at most."""
        path = scope.get("path", "")
        return LARGEST_FILE if any(pattern.match(path) for pattern in self.large) else LARGEST_BODY


def _name(address: str) -> str:
    """The host's name in an address; nothing where that cannot be read."""
    try:
        return urlsplit(address).hostname or ""
    except ValueError:
        return ""

"""Guards of every answer: headers that forbid foreign and inline code, and a check of Host and Origin.

The page is for this machine: a foreign Host header (DNS rebinding) or a foreign Origin (cross-site request) is refused.
"""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

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
LARGEST_BODY = 4_000_000
#: of a file that is opened
LARGEST_FILE = 64_000_000


class Guard:
    """ASGI middleware. `hosts` are the names under which this server may be addressed, without port."""

    def __init__(self, app: ASGIApp, hosts: frozenset[str]) -> None:
        self.app, self.hosts = app, hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)

        async def guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                out = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    out.setdefault(name, value)
                out.setdefault("cache-control", "no-store")
            await send(message)

        wrong = self._wrong(scope, headers)
        if wrong is not None and scope["type"] == "websocket":
            await send({"type": "websocket.close", "code": 1008, "reason": wrong})
            return
        if wrong is not None:
            await JSONResponse({"error": wrong, "fields": []}, status_code=403)(scope, receive, guarded)
            return
        await self.app(scope, receive, guarded)

    def _wrong(self, scope: Scope, headers: Headers) -> str | None:
        host = headers.get("host", "")
        if (urlsplit(f"//{host}").hostname or "") not in self.hosts:
            return "This server does not answer under that name."
        origin = headers.get("origin")
        if origin is not None and (urlsplit(origin).netloc != host or urlsplit(origin).scheme not in ("http", "https")):
            return "Requests from other sites are refused."
        if headers.get("sec-fetch-site") in ("cross-site", "same-site") and scope.get("method") not in ("GET", "HEAD"):
            return "Requests from other sites are refused."
        length = headers.get("content-length", "0")
        if "transfer-encoding" in headers or not length.isdigit() or int(length) > _largest(scope):
            return "That is too large, or does not say how large it is."
        return None


def _largest(scope: Scope) -> int:
    """Bytes of the body of a call at most."""
    path = scope.get("path", "")
    return LARGEST_FILE if path.startswith("/api/files/") or "/take/" in path else LARGEST_BODY

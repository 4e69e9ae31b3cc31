"""The access key: whoever has it may use this server, nobody else.

It is part of the address that is printed at the start; the browser keeps it in a cookie of the server's port (cookies are shared by
all ports of a machine). A script sends it as RFC 6750 has it: `Authorization: Bearer KEY`.
"""

from __future__ import annotations

import secrets
from http.cookies import CookieError, SimpleCookie
from urllib.parse import parse_qsl, quote, urlencode

from starlette.datastructures import Headers
from starlette.responses import RedirectResponse, Response
from starlette.types import Scope

#: how it is named in an address
NAME = "key"
MISSING = (
    "This server asks for its key: open the address that Uhrwerk printed when it was started. Other tabs go on then."
)


class Access:
    """The key of one server."""

    def __init__(self, key: str) -> None:
        self._key = key.encode()

    def granted(self, scope: Scope, headers: Headers) -> bool:
        """Whether a call bears the key."""
        kind, _, given = headers.get("authorization", "").partition(" ")
        return self._is(given) if kind.lower() == "bearer" else self._is(_cookies(headers).get(cookie(scope), ""))

    def welcome(self, scope: Scope) -> Response | None:
        """The answer to an address with the key in it: the same without it, and the cookie. None of any other."""
        query = parse_qsl(scope.get("query_string", b"").decode("latin-1"), keep_blank_values=True)
        if scope["type"] != "http" or scope["method"] != "GET" or not any(self._is(v) for n, v in query if n == NAME):
            return None
        rest = urlencode([(n, v) for n, v in query if n != NAME])
        path = "/" + quote(scope["path"]).lstrip("/")  # never another host's
        answer = RedirectResponse(path + (f"?{rest}" if rest else ""), status_code=303)
        answer.set_cookie(cookie(scope), self._key.decode(), httponly=True, samesite="lax")
        return answer

    def _is(self, given: str) -> bool:
        return secrets.compare_digest(given.encode("utf-8", "replace"), self._key)


def new_key() -> str:
    return secrets.token_urlsafe(24)


def cookie(scope: Scope) -> str:
    """The name of a server's cookie."""
    return f"uhrwerk_{(scope.get('server') or ('', 0))[1]}"


def _cookies(headers: Headers) -> dict[str, str]:
    try:
        return {name: morsel.value for name, morsel in SimpleCookie(headers.get("cookie", "")).items()}
    except CookieError:
        return {}

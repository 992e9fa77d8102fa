"""What every request passes: where it came from, how large it is, and the headers of every answer."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from anabasis.design.files import LIMIT_BYTES
from anabasis.errors import AnabasisError, NotAllowed, TooLarge
from anabasis.server.access import SAFE
from anabasis.server.problems import answer
from anabasis.server.turns import asking

POLICY = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self' 'unsafe-inline'",  # the drawing library sets styles by attribute
        "img-src 'self' data: blob:",
        "font-src 'self'",
        "connect-src 'self'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)
PICTURE_POLICY = "default-src 'none'; style-src 'unsafe-inline'"
"""Of books and pictures, which hold names as people wrote them: they run nothing and fetch nothing."""
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), geolocation=(), microphone=()",
}


PAGE = "x-page"
"""The header by which a page names itself, with a random name: only who knows it can ask after its work, or stop it."""


class Guard:
    """Refuses changes that a page elsewhere sends, and bodies that are too large; adds the security headers."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, or answer it."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        asking.set(Headers(scope=scope).get(PAGE, "")[:64])

        async def sent(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    headers.setdefault(name, value)
                if scope["path"].startswith("/api/"):
                    headers.setdefault("Cache-Control", "no-store")
            await send(message)

        refused = _refusal(scope["method"], Headers(scope=scope))
        if refused is not None:
            await answer(refused)(scope, receive, sent)
        else:
            await self.app(scope, receive, sent)


def _refusal(method: str, headers: Headers) -> AnabasisError | None:
    if method not in SAFE:
        origin = headers.get("origin")
        elsewhere = origin is not None and urlsplit(origin).netloc != headers.get("host")
        if elsewhere or headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
            return NotAllowed("This request came from a page of another site.")
        if "chunked" in headers.get("transfer-encoding", ""):
            return TooLarge("Say how long the body is (Content-Length); it is not taken in pieces.")
    length = headers.get("content-length", "0")
    if not (length.isascii() and length.isdigit()) or int(length) > LIMIT_BYTES:
        return TooLarge(f"More than {LIMIT_BYTES // 2**20} MiB is not taken.")
    return None

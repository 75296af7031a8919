"""What surrounds every request, in plain ASGI so that a browser that has gone is noticed: headers, faults with a number, keys of
saves, figures for whoever watches the server, and the size of what is sent."""

from __future__ import annotations

import logging
import re
import secrets
import time
from typing import Any

from anyio import to_thread
from fastapi import HTTPException, Request
from prometheus_client import Counter, Histogram
from starlette.middleware.gzip import GZipMiddleware
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from fotaxis.services.ports import Acting, NotFound, Unavailable, begin_acting
from fotaxis.web.responses import problem

log = logging.getLogger("fotaxis")

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' blob: data:; font-src 'self'; "
    "connect-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)
HEADERS = {
    "content-security-policy": POLICY,
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
    "permissions-policy": "camera=(), microphone=(), geolocation=(), publickey-credentials-get=(self)",
}
MOST_BODY = 84_000_000
MOST_WHOLE, WHOLE_PATH = 620_000_000, "/import-whole"
"""A whole shot holds many frames; it alone may be so large."""
KEY = re.compile(r"[A-Za-z0-9-]{8,64}")
WINDOW = re.compile(r"[A-Za-z0-9-]{1,40}")

REQUESTS = Counter("fotaxis_requests", "Requests answered", ["method", "route", "status"])
SECONDS = Histogram(
    "fotaxis_request_seconds", "Time to the answer's beginning", ["kind"], buckets=(0.01, 0.03, 0.1, 0.15, 0.3, 1, 3, 10, 30)
)
FAULTS = Counter("fotaxis_faults", "Requests that met a fault of the program")


class Headers:
    """The same safe headers on every answer."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        lasting = scope["path"].startswith("/static/")

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                given = {name.lower() for name, _ in message["headers"]}
                more = {**HEADERS, "cache-control": "no-store"}
                message["headers"] = list(message["headers"])
                if lasting:
                    message["headers"] = [h for h in message["headers"] if h[0].lower() != b"cache-control"]
                    more["cache-control"] = "public, max-age=31536000, immutable"
                    given.discard(b"cache-control")
                message["headers"] += [(n.encode(), v.encode()) for n, v in more.items() if n.encode() not in given]
            await send(message)

        await self._app(scope, receive, with_headers)


class Faults:
    """What nobody foresaw is answered with a number that the log has too, and the connection stays."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        begun, began = False, time.perf_counter()
        status = 500

        async def watched(message: Message) -> None:
            nonlocal begun, status
            if message["type"] == "http.response.start":
                begun, status = True, message["status"]
                SECONDS.labels(_kind(scope)).observe(time.perf_counter() - began)
            await send(message)

        try:
            await self._app(scope, receive, watched)
        except Exception as error:
            number = secrets.token_hex(4)
            FAULTS.inc()
            log.error("fault %s while answering %s %s", number, scope["method"], route_of(scope), exc_info=error)
            if begun:
                raise
            answer = problem(
                Request(scope),
                "Something went wrong on our side. Your last saved state is safe; reload. If it happens again, tell us "
                f"fault {number}.",
                status=500,
            )
            await answer(scope, receive, watched)
        finally:
            REQUESTS.labels(scope["method"], route_of(scope), str(status)).inc()


def route_of(scope: Scope) -> str:
    """The address as a pattern, without what stands in it: tokens and names belong into no log."""
    route = scope.get("route")
    if route is not None:
        return str(getattr(route, "path", "?"))
    return "/static" if scope["path"].startswith("/static/") else "(no such address)"


def _kind(scope: Scope) -> str:
    path = scope["path"]
    if path.endswith((".png", ".jpg", "/layers", ".exr", "/file")):
        return "picture"
    if path.startswith("/static/"):
        return "static"
    return "page" if scope["method"] in ("GET", "HEAD") else "save"


class Saves:
    """Takes in the key under which a save is kept, and keeps what was answered with it."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] in ("GET", "HEAD", "OPTIONS"):
            await self._app(scope, receive, send)
            return
        headers = Request(scope).headers
        key, window = headers.get("x-save-key", ""), headers.get("x-window", "")
        who = Acting(key=key if KEY.fullmatch(key) else "", window=window if WINDOW.fullmatch(window) else "")
        begin_acting(who)
        saves = scope["app"].state.services.saves

        async def answered(message: Message) -> None:
            if message["type"] == "http.response.start" and who.kept and who.answer and who.user_id:
                try:
                    await to_thread.run_sync(saves.answered, who.user_id, who.key, who.answer)
                except (Unavailable, NotFound):
                    log.warning("what was answered to a save could not be kept")
            await send(message)

        await self._app(scope, receive, answered)


class BodyLimit:
    """Refuse requests with more than MOST_BODY bytes, announced or not, before anything reads them whole."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        request = Request(scope)
        most = MOST_WHOLE if scope["path"].endswith(WHOLE_PATH) else MOST_BODY
        length = request.headers.get("content-length", "0")
        if length.isdecimal() and int(length) > most:
            await problem(request, _too_large(int(length), most), status=413)(scope, receive, send)
            return
        taken = 0

        async def counted() -> Message:
            nonlocal taken
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > most:
                raise HTTPException(413, _too_large(taken, most))
            return message

        await self._app(scope, counted, send)


def _too_large(size: int, most_bytes: int) -> str:
    most = most_bytes / 1e6
    return f"That is {size / 1e6:.0f} MB; at most {most:.0f} MB can be taken. Export a smaller file. Nothing was changed."


class TextGzip:
    """Pages, styles, scripts and JSON go compressed; pictures are so already, and layers must not wait for it."""

    def __init__(self, app: ASGIApp) -> None:
        self._plain = app
        self._gzip = GZipMiddleware(app, minimum_size=1000, compresslevel=5)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        path: Any = scope.get("path", "")
        plain = scope["type"] != "http" or path.endswith(("/layers", ".png", ".jpg", ".exr", ".woff2", "/file"))
        await (self._plain if plain else self._gzip)(scope, receive, send)

"""The application: middleware, error answers, routes."""

from __future__ import annotations

import logging
from collections.abc import Awaitable, Callable

from fastapi import FastAPI, HTTPException, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import RedirectResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException as StarletteHTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.sessions import SessionMiddleware
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from fotaxis.core.errors import FotaxisError
from fotaxis.services.ports import NotFound, Refused
from fotaxis.web import links
from fotaxis.web.guard import NeedsSignIn, Services
from fotaxis.web.pages import STATIC, problem
from fotaxis.web.routes import ROUTERS

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
    "permissions-policy": "camera=(), microphone=(), geolocation=()",
}
MOST_BODY = 64_000_000


class BodyLimit:
    """Refuse requests with more than MOST_BODY bytes, announced or not, before anything reads them whole."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        request = Request(scope)
        length = request.headers.get("content-length", "0")
        if length.isdecimal() and int(length) > MOST_BODY:
            answer = problem(request, _too_large(int(length)), status=413)
            await answer(scope, receive, send)
            return
        taken = 0

        async def counted() -> Message:
            nonlocal taken
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > MOST_BODY:
                raise HTTPException(413, _too_large(taken))
            return message

        await self._app(scope, counted, send)


class TextGzip:
    """Pages, styles, scripts and JSON go compressed; pictures are so already, and layers must not wait for it."""

    def __init__(self, app: ASGIApp) -> None:
        self._plain = app
        self._gzip = GZipMiddleware(app, minimum_size=1000, compresslevel=5)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        path = scope.get("path", "")
        plain = scope["type"] != "http" or path.endswith(("/layers", ".png", ".exr", ".woff2", "/file"))
        await (self._plain if plain else self._gzip)(scope, receive, send)


def _too_large(size: int) -> str:
    most = MOST_BODY / 1e6
    return f"That is {size / 1e6:.0f} MB; at most {most:.0f} MB can be taken. Export a smaller file. Nothing was changed."


def create_app(services: Services, *, secret: str, https_only: bool) -> FastAPI:
    """The web application over ready-made services. secret signs the session cookie."""
    app = FastAPI(title="Fotaxis", docs_url=None, redoc_url=None, openapi_url=None)
    app.state.services = services
    app.add_middleware(
        SessionMiddleware, secret_key=secret, session_cookie="fotaxis", max_age=14 * 24 * 3600, same_site="lax",
        https_only=https_only,
    )  # fmt: skip
    app.add_middleware(BodyLimit)
    app.add_middleware(TextGzip)

    @app.middleware("http")
    async def headers(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
        response = await call_next(request)
        for name, value in HEADERS.items():
            response.headers.setdefault(name, value)
        if request.url.path.startswith("/static/"):
            response.headers["cache-control"] = "public, max-age=31536000, immutable"
        else:
            response.headers.setdefault("cache-control", "no-store")
        return response

    _answer_errors(app)
    for router in ROUTERS:
        app.include_router(router)
    app.mount("/static", StaticFiles(directory=STATIC), name="static")
    return app


def _answer_errors(app: FastAPI) -> None:
    @app.exception_handler(NeedsSignIn)
    async def needs_sign_in(request: Request, _: Exception) -> Response:
        if request.method == "GET" and "application/json" not in request.headers.get("accept", ""):
            return RedirectResponse(links.SIGN_IN, status_code=303)
        return problem(request, "You are signed out. Sign in again in another tab; then repeat this.", status=401)

    @app.exception_handler(NotFound)
    async def not_found(request: Request, _: Exception) -> Response:
        return problem(request, "There is nothing here. It may have been removed, or the address is wrong.", status=404)

    @app.exception_handler(Refused)
    @app.exception_handler(FotaxisError)
    async def refused(request: Request, error: Exception) -> Response:
        return problem(request, str(error), status=422)

    @app.exception_handler(RequestValidationError)
    async def wrong_form(request: Request, error: RequestValidationError) -> Response:
        first = error.errors()[0]
        where = ".".join(str(step) for step in first["loc"][1:])
        if first["loc"][0] == "path":
            return problem(request, "There is nothing here. It may have been removed, or the address is wrong.", status=404)
        return problem(request, f"{where or 'The form'}: {first['msg'][0].lower()}{first['msg'][1:]}.", status=422)

    @app.exception_handler(StarletteHTTPException)
    async def http_error(request: Request, error: StarletteHTTPException) -> Response:
        message = str(error.detail)
        if error.status_code in (404, 405):
            message = "There is nothing here. It may have been removed, or the address is wrong."
        return problem(request, message, status=error.status_code)

    @app.exception_handler(Exception)
    async def fault(request: Request, error: Exception) -> Response:
        log.exception("fault while answering %s %s", request.method, request.url.path, exc_info=error)
        answer = problem(request, "Something went wrong on our side. Your last saved state is safe; reload.", status=500)
        for name, value in HEADERS.items():
            answer.headers[name] = value
        return answer

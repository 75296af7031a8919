"""The application: middleware, error answers, routes."""

from __future__ import annotations

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, RedirectResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException as StarletteHTTPException
from starlette.middleware.sessions import SessionMiddleware

from fotaxis.core.errors import FotaxisError
from fotaxis.formats.wording import fault_words
from fotaxis.services.ports import AlreadyKept, Busy, Conflict, Forbidden, NotFound, Refused, Role, Unavailable
from fotaxis.web import links
from fotaxis.web.auth import NeedsSignIn, Services, StudioRemoved
from fotaxis.web.cancellation import Gone
from fotaxis.web.middleware import BodyLimit, Faults, Headers, Saves, TextGzip
from fotaxis.web.responses import STATIC, problem
from fotaxis.web.routes import ROUTERS
from fotaxis.web.routes.bench import repeated_state

ABSENT = "There is nothing here. It may have been removed, or the address is wrong."


def create_app(services: Services, *, secret: str, https_only: bool) -> FastAPI:
    """The web application over ready-made services. secret signs the session cookie."""
    app = FastAPI(title="Fotaxis", docs_url=None, redoc_url=None, openapi_url=None)
    app.state.services = services
    app.add_middleware(Saves)
    app.add_middleware(
        SessionMiddleware, secret_key=secret, session_cookie="fotaxis", max_age=14 * 24 * 3600, same_site="lax",
        https_only=https_only,
    )  # fmt: skip
    app.add_middleware(BodyLimit)
    app.add_middleware(Faults)
    app.add_middleware(TextGzip)
    app.add_middleware(Headers)
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
        return problem(
            request, "You are signed out. Sign in again in another tab; then this goes on here, nothing is lost.", status=401
        )

    @app.exception_handler(StudioRemoved)
    async def studio_removed(request: Request, _: Exception) -> Response:
        here = request.state.here
        if (
            request.method == "GET"
            and here.user.role is Role.OWNER
            and "application/json" not in request.headers.get("accept", "")
        ):
            return RedirectResponse(links.STUDIO_REMOVED, status_code=303)
        return problem(request, f"{here.user.studio_name} was removed. Its owner can bring it back for a while.", status=403)

    @app.exception_handler(NotFound)
    async def not_found(request: Request, _: Exception) -> Response:
        return problem(request, ABSENT, status=404)

    @app.exception_handler(Refused)
    @app.exception_handler(FotaxisError)
    async def refused(request: Request, error: Exception) -> Response:
        return problem(request, str(error), status=422)

    @app.exception_handler(Forbidden)
    async def forbidden(request: Request, error: Exception) -> Response:
        return problem(request, str(error), status=403)

    @app.exception_handler(Conflict)
    async def conflict(request: Request, error: Exception) -> Response:
        return JSONResponse({"problem": str(error), "conflict": True}, status_code=409)

    @app.exception_handler(Busy)
    @app.exception_handler(Unavailable)
    async def busy(request: Request, error: Exception) -> Response:
        answer = problem(request, str(error), status=503)
        answer.headers["retry-after"] = "1"
        return answer

    @app.exception_handler(Gone)
    async def gone(request: Request, _: Exception) -> Response:
        return Response(status_code=503)

    @app.exception_handler(AlreadyKept)
    async def already_kept(request: Request, error: AlreadyKept) -> Response:
        return await repeated_state(request, error.answer)

    @app.exception_handler(RequestValidationError)
    async def wrong_form(request: Request, error: RequestValidationError) -> Response:
        first = error.errors()[0]
        if first["loc"][0] == "path":
            return problem(request, ABSENT, status=404)
        where = ".".join(str(step) for step in first["loc"][1:])
        return problem(request, f"{where or 'The form'}: {fault_words(first)}", status=422)

    @app.exception_handler(StarletteHTTPException)
    async def http_error(request: Request, error: StarletteHTTPException) -> Response:
        message = ABSENT if error.status_code in (404, 405) else str(error.detail)
        if error.status_code == 400:
            message = "What was sent could not be read as the form it should be. Reload the page and send it again."
        return problem(request, message, status=error.status_code)

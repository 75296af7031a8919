"""Templates and how pages and problems are answered."""

from __future__ import annotations

import hashlib
from functools import lru_cache
from pathlib import Path
from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, JSONResponse, Response
from fastapi.templating import Jinja2Templates

from fotaxis.services.ports import SignIn, acting
from fotaxis.web import links

HERE = Path(__file__).parent
STATIC = HERE / "static"


@lru_cache(maxsize=256)
def static_url(name: str) -> str:
    """Address of a static file with its content's mark, so that browsers may keep it for good."""
    mark = hashlib.sha256((STATIC / name).read_bytes()).hexdigest()[:10]
    return f"/static/{name}?v={mark}"


templates = Jinja2Templates(directory=HERE / "templates")
templates.env.globals.update(static_url=static_url, links=links)
templates.env.trim_blocks = templates.env.lstrip_blocks = True


def page(request: Request, name: str, here: SignIn | None = None, **data: Any) -> HTMLResponse:
    """Render a template; `here` gives it the studio and the token for changes."""
    status = data.pop("status", 200)
    return templates.TemplateResponse(request, name, {"here": here, **data}, status_code=status)


def gone_to(address: str) -> Response:
    """Tell htmx to load another page; a save that is repeated is answered so again."""
    acting().answer["location"] = address
    return Response(status_code=204, headers={"hx-redirect": address})


def lasting_png(data: bytes) -> Response:
    """A PNG that stays what it is: the browser may keep it for a day."""
    return Response(data, media_type="image/png", headers={"cache-control": "private, max-age=86400"})


def problem(request: Request, message: str, *, status: int) -> Response:
    """A problem in the form the asker understands: JSON for scripts, a fragment for htmx, a page otherwise."""
    if "application/json" in request.headers.get("accept", ""):
        return JSONResponse({"problem": message}, status_code=status)
    name = "problem_fragment.html" if request.headers.get("hx-request") else "problem.html"
    return templates.TemplateResponse(request, name, {"here": None, "message": message, "code": status}, status_code=status)

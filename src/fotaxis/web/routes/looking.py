"""Links for looking only: a client's screen shows the frame and follows the set, and can change nothing."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Path, Request
from fastapi.responses import JSONResponse, Response

from fotaxis.formats.picture_files import png
from fotaxis.web import links
from fotaxis.web.guard import All, Here
from fotaxis.web.pages import page
from fotaxis.web.views import bench as view

router = APIRouter()

SIDE = 800
Token = Annotated[str, Path(max_length=80)]


@router.post("/shots/{shot_id}/view-links")
def make(request: Request, all_: All, here: Here, shot_id: UUID) -> Response:
    """A new link; its address is told once."""
    token = all_.view_links.make(here.user.studio_id, shot_id)
    address = str(request.base_url).rstrip("/") + links.looking(token)
    return JSONResponse({"address": address, "count": all_.view_links.count(here.user.studio_id, shot_id)})


@router.post("/shots/{shot_id}/view-links/end")
def end(all_: All, here: Here, shot_id: UUID) -> Response:
    """All links of a shot lead nowhere from now on."""
    all_.view_links.end_all(here.user.studio_id, shot_id)
    return JSONResponse({"count": 0})


@router.get("/view/{token}")
def look(request: Request, all_: All, token: Token) -> Response:
    opened = all_.shots.open(*all_.view_links.shot_of(token))
    return page(request, "looking.html", None, shot_name=opened.shot.name, address=links.looking(token))


@router.get("/view/{token}/state")
def state(all_: All, token: Token) -> Response:
    """The number of the present state, whether its fine picture stands, and the name."""
    opened = all_.shots.open(*all_.view_links.shot_of(token))
    fine = all_.pictures.has_fine(view.without_fault(all_.codec.plan(opened.document)))
    return JSONResponse({"state": opened.shot.revision, "fine": fine, "name": opened.shot.name})


@router.get("/view/{token}/picture.png")
def picture(all_: All, token: Token) -> Response:
    """The fine picture where the bench has made it, else a quick one: a client's screen takes no time from the set's."""
    document = all_.shots.open(*all_.view_links.shot_of(token)).document
    made, _ = all_.pictures.at_once(view.without_fault(all_.codec.plan(document)), long_side=SIDE)
    return Response(png(made), media_type="image/png")

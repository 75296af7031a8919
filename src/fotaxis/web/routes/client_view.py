"""Links for looking only: a client's screen shows the frame and follows the set, and can change nothing."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from anyio import to_thread
from fastapi import APIRouter, Path, Request
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel, ConfigDict

from fotaxis.formats.picture_files import png
from fotaxis.services.ports import SignIn
from fotaxis.web import links
from fotaxis.web.auth import AppServices, CurrentUser, Maker, Services
from fotaxis.web.cancellation import drawn
from fotaxis.web.responses import page
from fotaxis.web.views import bench as view
from fotaxis.web.views.people import WHEN

router = APIRouter()

SIDE = 800
Token = Annotated[str, Path(max_length=80)]


class LinkForm(BaseModel):
    model_config = ConfigDict(extra="forbid")
    days: int = 30


class EndForm(BaseModel):
    """link: the one to end, all without it."""

    model_config = ConfigDict(extra="forbid")
    link: UUID | None = None


def _listed(app: Services, here: SignIn, shot_id: UUID) -> list[dict[str, object]]:
    return [
        {
            "id": str(link.id),
            "words": f"made by {link.made_by or 'somebody'} {link.created_at:{WHEN}}, ends {link.expires_at:{WHEN}} UTC, "
            + (f"opened {link.visits} times, last {link.last_visit_at:{WHEN}}" if link.last_visit_at else "not opened yet"),
        }
        for link in app.view_links.all(here.user.studio_id, shot_id)
    ]


@router.get("/shots/{shot_id}/view-links")
def all_links(app: AppServices, here: Maker, shot_id: UUID) -> Response:
    """Every link that leads here now: who made it, until when, how often it was opened."""
    return JSONResponse({"links": _listed(app, here, shot_id)})


@router.post("/shots/{shot_id}/view-links")
def make(request: Request, app: AppServices, here: Maker, shot_id: UUID, form: LinkForm) -> Response:
    """A new link; its address is told once."""
    token = app.view_links.make(here.user.studio_id, shot_id, days=form.days)
    address = str(request.base_url).rstrip("/") + links.looking(token)
    return JSONResponse({"address": address, "links": _listed(app, here, shot_id)})


@router.post("/shots/{shot_id}/view-links/end")
def end(app: AppServices, here: Maker, shot_id: UUID, form: EndForm) -> Response:
    """One link, or all of a shot, lead nowhere from now on."""
    app.view_links.end(here.user.studio_id, shot_id, link_id=form.link)
    return JSONResponse({"links": _listed(app, here, shot_id)})


@router.get("/view/{token}")
def look(request: Request, app: AppServices, token: Token) -> Response:
    opened = app.shots.open(*app.view_links.shot_of(token, visit=True))
    return page(request, "looking.html", None, shot_name=opened.shot.name, address=links.looking(token))


@router.get("/view/{token}/state")
def state(app: AppServices, token: Token) -> Response:
    """The number of the present state, whether its fine picture stands, and the name."""
    return _state(app, *app.view_links.shot_of(token))


@router.get("/view/{token}/picture.png")
async def picture(request: Request, app: AppServices, token: Token) -> Response:
    """The fine picture where the bench has made it, else a quick one: a client's screen takes no time from the set's."""
    return await _picture(request, app, *await to_thread.run_sync(app.view_links.shot_of, token))


# the same for a client who is signed in


@router.get("/shots/{shot_id}/look")
def look_here(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    opened = app.shots.open(here.user.studio_id, shot_id)
    return page(
        request, "looking.html", None, shot_name=opened.shot.name, address=links.shot_part(shot_id, "look"),
        back=links.job(opened.shot.job_id),
    )  # fmt: skip


@router.get("/shots/{shot_id}/look/state")
def state_here(app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    return _state(app, here.user.studio_id, shot_id)


@router.get("/shots/{shot_id}/look/picture.png")
async def picture_here(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    return await _picture(request, app, here.user.studio_id, shot_id)


def _state(app: Services, studio_id: UUID, shot_id: UUID) -> Response:
    opened = app.shots.open(studio_id, shot_id)
    plan = view.without_fault(app.codec.plan(opened.document))
    fine = app.screens.know(studio_id, plan, opened.document)
    return JSONResponse({"state": opened.shot.revision, "fine": fine, "name": opened.shot.name})


async def _picture(request: Request, app: Services, studio_id: UUID, shot_id: UUID) -> Response:
    def made() -> bytes:
        document = app.shots.open(studio_id, shot_id).document
        plan = view.without_fault(app.codec.plan(document))
        app.screens.know(studio_id, plan, document)
        return png(app.pictures.at_once(plan, long_side=SIDE)[0])

    return Response(await drawn(request, app, None, made, whose=str(studio_id)), media_type="image/png")

"""Final-quality pictures: asked for, watched, called off, fetched."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Request
from fastapi.responses import Response

from fotaxis.services.finals import LEAST_SIDE, MOST_SIDE
from fotaxis.web import links
from fotaxis.web.auth import AppServices, CurrentUser, Helper, Maker
from fotaxis.web.responses import gone_to, lasting_png, page
from fotaxis.web.views import bench as view
from fotaxis.web.views import finals as finals_view

router = APIRouter()


@router.get("/shots/{shot_id}/finals")
def finals_page(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    return _listed("finals.html", request, app, here, shot_id)


@router.get("/shots/{shot_id}/finals/list")
def finals_list(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    """The list alone, as the page asks for it while something is being made."""
    return _listed("finals_list.html", request, app, here, shot_id)


def _listed(template: str, request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    shot = app.shots.open(here.user.studio_id, shot_id).shot
    finals = app.finals.of_shot(here.user.studio_id, shot_id)
    waits = any(final.open for final in finals)
    rows = finals_view.rows(finals, pace=app.finals.pace() if waits else None)
    idle = waits and not app.finals.has_workers()
    return page(request, template, here, shot=shot, finals=rows, least=LEAST_SIDE, most=MOST_SIDE, idle=idle)


@router.post("/shots/{shot_id}/finals")
def ask(app: AppServices, here: Helper, shot_id: UUID, side: Annotated[int, Form()] = 1200) -> Response:
    app.finals.ask(here.user.studio_id, shot_id, long_side=side)
    return _back_to(shot_id)


@router.post("/finals/{final_id}/cancel")
def cancel(app: AppServices, here: Helper, final_id: UUID) -> Response:
    return _back_to(app.finals.cancel(here.user.studio_id, final_id).shot_id)


@router.post("/finals/{final_id}/remove")
def remove(app: AppServices, here: Maker, final_id: UUID) -> Response:
    return _back_to(app.finals.remove(here.user.studio_id, final_id).shot_id)


@router.get("/finals/{final_id}/picture.png")
def picture(app: AppServices, here: CurrentUser, final_id: UUID) -> Response:
    return lasting_png(app.finals.file(here.user.studio_id, final_id, "png")[1])


@router.get("/finals/{final_id}/layers.exr")
def layers(app: AppServices, here: CurrentUser, final_id: UUID) -> Response:
    final, data = app.finals.file(here.user.studio_id, final_id, "exr")
    name = app.shots.open(here.user.studio_id, final.shot_id).shot.name
    disposition = view.attachment(f"{name}, {final.long_side} px", ".exr")
    return Response(data, media_type="image/x-exr", headers={"content-disposition": disposition})


def _back_to(shot_id: UUID) -> Response:
    return gone_to(links.shot_part(shot_id, "finals"))

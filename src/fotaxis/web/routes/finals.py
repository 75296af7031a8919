"""Final-quality pictures: asked for, watched, called off, fetched."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Request
from fastapi.responses import Response

from fotaxis.services.finals import LEAST_SIDE, MOST_SIDE
from fotaxis.web import links
from fotaxis.web.auth import All, CurrentUser, Helper, Maker
from fotaxis.web.responses import gone_to, lasting_png, page
from fotaxis.web.views import bench as view
from fotaxis.web.views import finals as finals_view

router = APIRouter()


@router.get("/shots/{shot_id}/finals")
def finals_page(request: Request, all_: All, here: CurrentUser, shot_id: UUID) -> Response:
    return _listed("finals.html", request, all_, here, shot_id)


@router.get("/shots/{shot_id}/finals/list")
def finals_list(request: Request, all_: All, here: CurrentUser, shot_id: UUID) -> Response:
    """The list alone, as the page asks for it while something is being made."""
    return _listed("finals_list.html", request, all_, here, shot_id)


def _listed(template: str, request: Request, all_: All, here: CurrentUser, shot_id: UUID) -> Response:
    shot = all_.shots.open(here.user.studio_id, shot_id).shot
    finals = all_.finals.of_shot(here.user.studio_id, shot_id)
    waits = any(final.open for final in finals)
    rows = finals_view.rows(finals, pace=all_.finals.pace() if waits else None)
    idle = waits and not all_.finals.has_workers()
    return page(request, template, here, shot=shot, finals=rows, least=LEAST_SIDE, most=MOST_SIDE, idle=idle)


@router.post("/shots/{shot_id}/finals")
def ask(all_: All, here: Helper, shot_id: UUID, side: Annotated[int, Form()] = 1200) -> Response:
    all_.finals.ask(here.user.studio_id, shot_id, long_side=side)
    return _back_to(shot_id)


@router.post("/finals/{final_id}/cancel")
def cancel(all_: All, here: Helper, final_id: UUID) -> Response:
    return _back_to(all_.finals.cancel(here.user.studio_id, final_id).shot_id)


@router.post("/finals/{final_id}/remove")
def remove(all_: All, here: Maker, final_id: UUID) -> Response:
    return _back_to(all_.finals.remove(here.user.studio_id, final_id).shot_id)


@router.get("/finals/{final_id}/picture.png")
def picture(all_: All, here: CurrentUser, final_id: UUID) -> Response:
    return lasting_png(all_.finals.file(here.user.studio_id, final_id, "png")[1])


@router.get("/finals/{final_id}/layers.exr")
def layers(all_: All, here: CurrentUser, final_id: UUID) -> Response:
    final, data = all_.finals.file(here.user.studio_id, final_id, "exr")
    name = all_.shots.open(here.user.studio_id, final.shot_id).shot.name
    disposition = view.attachment(f"{name}, {final.long_side} px", ".exr")
    return Response(data, media_type="image/x-exr", headers={"content-disposition": disposition})


def _back_to(shot_id: UUID) -> Response:
    return gone_to(links.shot_part(shot_id, "finals"))

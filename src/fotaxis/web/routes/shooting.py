"""The list at the set: read on a phone, ticked with a thumb, planned again when something slips."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Query, Request
from fastapi.responses import Response

from fotaxis.core.errors import NoSolution
from fotaxis.services.captures.shooting import ShootingList
from fotaxis.services.shots import Opened
from fotaxis.web import links
from fotaxis.web.auth import AppServices, CurrentUser, Helper, Services, ready
from fotaxis.web.responses import gone_to, page

router = APIRouter(dependencies=[Depends(ready)])

Step = Annotated[str, Form(max_length=80)]
Clock = Annotated[str, Query(max_length=5)]


def _list(app: Services, studio: UUID, shot_id: UUID, now: str) -> tuple[Opened, ShootingList | None, str]:
    opened = app.shots.open(studio, shot_id)
    try:
        return opened, app.shooting.list_of(studio, shot_id, now=now), ""
    except NoSolution as error:
        return opened, None, str(error)


@router.get("/shots/{shot_id}/shooting")
def shooting(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, now: Clock = "") -> Response:
    opened, listed, problem = _list(app, here.user.studio_id, shot_id, now)
    return page(
        request, "shooting.html", here, shot=opened.shot, plan=opened.document["shooting"], listed=listed, problem=problem
    )


@router.get("/shots/{shot_id}/shooting/list")
def shooting_list(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, now: Clock = "") -> Response:
    """The list alone: asked for every half minute, and when something was ticked anywhere."""
    opened, listed, problem = _list(app, here.user.studio_id, shot_id, now)
    return page(request, "shooting_list.html", here, shot=opened.shot, listed=listed, problem=problem)


@router.post("/shots/{shot_id}/shooting/tick")
def tick(request: Request, app: AppServices, here: Helper, shot_id: UUID, step: Step, now: Clock = "") -> Response:
    app.shooting.tick(here.user.studio_id, shot_id, step=step)
    return shooting_list(request, app, here, shot_id, now)


@router.post("/shots/{shot_id}/shooting/untick")
def untick(request: Request, app: AppServices, here: Helper, shot_id: UUID, step: Step, now: Clock = "") -> Response:
    app.shooting.untick(here.user.studio_id, shot_id, step=step)
    return shooting_list(request, app, here, shot_id, now)


@router.post("/shots/{shot_id}/shooting/again")
def again(app: AppServices, here: Helper, shot_id: UUID) -> Response:
    app.shooting.begin_again(here.user.studio_id, shot_id)
    return gone_to(links.shot_part(shot_id, "shooting"))

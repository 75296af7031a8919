"""Pointing at the frame and at the set: what is mirrored where."""

from __future__ import annotations

from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Query, Request
from fastapi.responses import JSONResponse, Response

from fotaxis.services.shown import Shown
from fotaxis.web.auth import AppServices, CurrentUser
from fotaxis.web.cancellation import drawn
from fotaxis.web.views import spots

router = APIRouter()

Share = Annotated[float, Query(ge=0, le=1)]
MOST_KEY = 60


@router.get("/shots/{shot_id}/spot")
async def spot(
    request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, x: Share, y: Share,
    alone: Annotated[str, Query(max_length=MOST_KEY)] = "", black: bool = False, attach: bool = False,
) -> Response:  # fmt: skip
    """What is seen at a spot of the frame, by what way, and how bright; attach: and where on the product that is."""

    def found() -> dict[str, Any]:
        plan = app.codec.plan(app.shots.open(here.user.studio_id, shot_id).document)
        seen = app.pictures.spot(plan, x=x, y=y, shown=Shown(alone=alone, black=black))
        told = spots.spot(plan, seen)
        if attach:
            on = app.pictures.on_product(plan, x=x, y=y)
            lies = app.pictures.on_set(plan, x=x, y=y)
            told["at"] = spots.on_set(plan, lies) if lies else None
            told["on"] = {"across": round(on.across, 3), "height": round(on.height, 3)} if on else None
        return told

    return JSONResponse(await drawn(request, app, here, found))


@router.get("/shots/{shot_id}/images")
async def images(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    """Outlines of the mirror images of everything that can be moved, by key."""

    def found() -> dict[str, Any]:
        plan = app.codec.plan(app.shots.open(here.user.studio_id, shot_id).document)
        return {key: spots.outline(mask) for key, mask in app.pictures.images(plan).items()}

    return JSONResponse(await drawn(request, app, here, found))

"""The material page and its small pictures."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from fotaxis.formats.picture_files import png
from fotaxis.services import materials
from fotaxis.web import links
from fotaxis.web.auth import AppServices, CurrentUser
from fotaxis.web.cancellation import drawn
from fotaxis.web.responses import lasting_png, page

router = APIRouter()

ABOUT = (
    "Each picture is computed as every frame is: the same two panels for solid things, one from behind for glass, a raking "
    "light for reliefs (drawn four times as coarse, so that they show at this size). Colours and roughness are common "
    "practice; measure yours where it matters."
)


@router.get(links.MATERIALS)
def material_page(request: Request, here: CurrentUser) -> Response:
    return page(
        request, "catalogue.html", here, title="Materials", about=ABOUT, groups=materials.groups(), side=materials.SWATCH_SIDE,
        picture=links.material,
    )  # fmt: skip


@router.get(links.MATERIAL_PICTURE)
async def material_picture(
    request: Request,
    app: AppServices,
    here: CurrentUser,
    kind: Annotated[str, Query(max_length=10)] = "skin",
    name: Annotated[str, Query(max_length=60)] = "black gloss",
) -> Response:
    return lasting_png(await drawn(request, app, here, lambda: png(materials.swatch(kind, name))))

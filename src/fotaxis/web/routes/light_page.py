"""The light page and its small pictures."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from fotaxis.formats.picture_files import png
from fotaxis.services import lighting_tools
from fotaxis.services.materials import SWATCH_SIDE
from fotaxis.web import links
from fotaxis.web.auth import AppServices, CurrentUser
from fotaxis.web.cancellation import drawn
from fotaxis.web.responses import lasting_png, page

router = APIRouter()

ABOUT = (
    "Each picture is computed as every frame is: the tool's light on a grey wall and its mirror image in a dark bottle, "
    "each shown as bright as suits it. Nets cover the left of the beam; sheets have a small reflector behind them; cards "
    "catch one from the left. Figures are common practice: a meter reading of your own always counts for more. Care: "
    "heat-rated sheets and a gap before hot lamps, counterweight and sandbag on booms, packs off before connecting, no "
    "flash into eyes at close range; local codes, the maker's manual and licensed people come first."
)


@router.get(links.LIGHTS)
def light_page(request: Request, here: CurrentUser) -> Response:
    return page(
        request, "catalogue.html", here, title="Light and what shapes it", about=ABOUT, groups=lighting_tools.groups(),
        side=SWATCH_SIDE, picture=links.light,
    )  # fmt: skip


@router.get(links.LIGHT_PICTURE)
async def light_picture(
    request: Request,
    app: AppServices,
    here: CurrentUser,
    kind: Annotated[str, Query(max_length=10)] = "head",
    name: Annotated[str, Query(max_length=60)] = "dish 65°",
) -> Response:
    return lasting_png(await drawn(request, app, here, lambda: png(lighting_tools.swatch(kind, name))))

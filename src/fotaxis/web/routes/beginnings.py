"""Beginning a shot: what stands before the lens, how large it is and how it is to look, chosen from pictures."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import Response

from fotaxis.formats.picture_files import png
from fotaxis.services.beginnings import BEGINNINGS, NO_LIGHTS, begun
from fotaxis.services.framing import USUAL_FILL
from fotaxis.services.lighting_setups import SETUPS
from fotaxis.web import links
from fotaxis.web.auth import AppServices, CurrentUser, Maker
from fotaxis.web.cancellation import drawn
from fotaxis.web.responses import gone_to, lasting_png, page
from fotaxis.web.views.bench import without_fault

router = APIRouter()

PICTURE_SIDE = 170
Size = Annotated[float, Form(ge=0, le=300, allow_inf_nan=False)]
Key = Annotated[str, Form(max_length=40)]


@router.get("/jobs/{job_id}/new")
def new_shot(request: Request, app: AppServices, here: Maker, job_id: UUID) -> Response:
    job = app.jobs.get(here.user.studio_id, job_id)
    return page(
        request, "new_shot.html", here, job=job, beginnings=BEGINNINGS, setups=SETUPS.values(), none=NO_LIGHTS,
        fills=round(100 * USUAL_FILL),
    )  # fmt: skip


@router.post("/jobs/{job_id}/begin")
def begin(
    app: AppServices, here: Maker, job_id: UUID, shape: Key, name: Annotated[str, Form(max_length=80)] = "", height_cm: Size = 0.0,
    width_cm: Size = 0.0, look: Key = "", fills: Annotated[float, Form(ge=5, le=100)] = 100 * USUAL_FILL,
) -> Response:  # fmt: skip
    """A shot with a thing before the lens, framed and lit; it opens on the bench."""
    document = begun(
        shape, app.codec, name=name.strip(), height_cm=height_cm, width_cm=width_cm, look=look, fills=fills / 100
    )
    shot = app.shots.create(here.user.studio_id, job_id, name=document["name"], document=document)
    return gone_to(links.shot(shot.id))


@router.get(links.BEGINNING_PICTURE)
async def picture(
    request: Request, app: AppServices, here: CurrentUser, shape: Annotated[str, Query(max_length=40)] = "bordeaux",
    look: Annotated[str, Query(max_length=40)] = "",
) -> Response:  # fmt: skip
    """What a beginning looks like, small."""

    def made() -> bytes:
        plan = without_fault(app.codec.plan(begun(shape, app.codec, look=look)))
        return png(app.pictures.quick(plan, long_side=PICTURE_SIDE))

    return lasting_png(await drawn(request, app, here, made))

"""Predicted pictures: layers for the page to mix, whole pictures, the one that stood last, thumbnails."""

from __future__ import annotations

from typing import Annotated, Literal
from uuid import UUID

from anyio import to_thread
from fastapi import APIRouter, Query, Request
from fastapi.responses import JSONResponse, Response
from starlette.background import BackgroundTask

from fotaxis.core.camera.camera import PREVIEW_SIDE
from fotaxis.core.errors import DomainError
from fotaxis.core.render.layers import Layers
from fotaxis.formats.layers_file import payload, scales
from fotaxis.formats.picture_files import contact_sheet, jpeg, png
from fotaxis.services.picture_keys import layers_key
from fotaxis.services.pictures import Prediction
from fotaxis.services.ports import Busy, Document, SignIn
from fotaxis.services.screens import layers_name, nearest_side, picture_name
from fotaxis.services.variants import variants
from fotaxis.web.auth import AppServices, CurrentUser, Services
from fotaxis.web.cancellation import drawn, shared_picture
from fotaxis.web.views import bench as view

router = APIRouter()

ALONE_SIDE = 100
THUMBNAIL_SIDE = 260
Side = Annotated[int, Query(ge=64, le=1600)]


@router.get("/shots/{shot_id}/layers")
async def layers(
    request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, side: Annotated[int, Query(ge=64, le=1200)] = 600
) -> Response:
    """A header (4 bytes length, JSON), then every layer as float16, (1 + lights, height, width, 3).

    Levels at full power and f-number, ISO and shutter of 1: the page multiplies by the gains of the state and adds.
    Made by a worker, unless any window has had it made; called off when the page does not wait for it any more.
    """
    studio = here.user.studio_id
    opened = await to_thread.run_sync(app.shots.open, studio, shot_id)
    document, name = opened.document, layers_name(opened.document, nearest_side(side))
    data = (await shared_picture(request, app, studio, name, document)).data

    def made() -> tuple[bytes, Prediction]:
        plan = view.without_fault(app.codec.plan(document))
        layers, is_product = app.screens.take(plan, data)
        prediction = Prediction(plan=plan, is_product=is_product, layers=layers)
        header = _header(data, layers, layers_key(document), prediction, document, app)
        return view.packed(header, payload(data)), prediction

    packed, prediction = await drawn(request, app, here, made)
    keep = BackgroundTask(_keep_last, app, here, shot_id, document, prediction)
    return Response(packed, media_type="application/octet-stream", background=keep)


def _header(
    data: bytes, layers: Layers, key: str, prediction: Prediction, document: Document, app: Services
) -> dict[str, object]:
    width, height = layers.size
    return {
        "keys": layers.keys, "width": width, "height": height, "layers_key": key, "lost_share": layers.lost_share,
        "scales": scales(data),
        "line": view.line_reading(app.pictures.read(prediction.plan, app.codec.line(document, prediction.plan), layers=layers)),
    }  # fmt: skip


def _keep_last(app: Services, here: SignIn, shot_id: UUID, document: Document, prediction: Prediction) -> None:
    """The picture that the shot shows first when it is opened next."""
    try:
        picture = jpeg(prediction.developed())
    except DomainError:
        return
    app.shots.keep_last_picture(here.user.studio_id, shot_id, key=picture_name(document, 0), picture=picture)


@router.get("/shots/{shot_id}/alone.jpg")
async def alone(
    request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, light: Annotated[str, Query(max_length=60)]
) -> Response:
    """One light by itself, small and quick: what its place in the row shows until its fine picture is there."""

    def made() -> bytes:
        plan = view.without_fault(app.codec.plan(app.shots.open(here.user.studio_id, shot_id).document))
        return jpeg(app.pictures.small_alone(plan, light, long_side=ALONE_SIDE))

    try:
        return Response(await drawn(request, app, here, made), media_type="image/jpeg")
    except Busy:
        return Response(status_code=204)  # the fine one comes in a moment


@router.get("/shots/{shot_id}/variants.png")
async def variants_sheet(
    request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, what: Literal["sheets", "grids", "polariser"],
    key: Annotated[str, Query(max_length=60)] = "",
) -> Response:  # fmt: skip
    """The set with other sheets, grids or turns of the polariser at equal exposure, as one picture."""

    def made() -> bytes:
        plan = view.without_fault(app.codec.plan(app.shots.open(here.user.studio_id, shot_id).document))
        return contact_sheet([(one.words, one.picture) for one in variants(plan, what, key, app.pictures)])

    return Response(await drawn(request, app, here, made), media_type="image/png")


@router.get("/shots/{shot_id}/last.jpg")
def last(app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    """The picture that stood last on any bench; 204 where none has yet. `x-picture` says whether it is of the present state."""
    kept = app.shots.last_picture(here.user.studio_id, shot_id)
    if kept is None:
        return Response(status_code=204)
    now = picture_name(app.shots.open(here.user.studio_id, shot_id).document, 0)
    return Response(kept[1], media_type="image/jpeg", headers={"x-picture": "present" if kept[0] == now else "earlier"})


@router.get("/shots/{shot_id}/picture.png")
async def picture(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, side: Side = 800) -> Response:
    """The fine picture where it is there; else it is asked for, and this is a quick one: `x-picture` says which."""
    studio = here.user.studio_id
    document = (await to_thread.run_sync(app.shots.open, studio, shot_id)).document
    name = picture_name(document, nearest_side(side))
    found = await to_thread.run_sync(app.screens.find, studio, name)
    if found is not None:
        return Response(found.data, media_type="image/png", headers={"x-picture": "fine"})
    await to_thread.run_sync(app.screens.ask, studio, name, document)

    def quick() -> bytes:
        plan = view.without_fault(app.codec.plan(document))
        return png(app.pictures.quick(plan, long_side=min(side, PREVIEW_SIDE)))

    return Response(await drawn(request, app, here, quick), media_type="image/png", headers={"x-picture": "quick"})


@router.get("/shots/{shot_id}/picture/fine")
async def fine_picture(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, side: Side = 800) -> Response:
    """Answers when the fine picture is there; then picture.png is it."""
    studio = here.user.studio_id
    document = (await to_thread.run_sync(app.shots.open, studio, shot_id)).document
    await shared_picture(request, app, studio, picture_name(document, nearest_side(side)), document)
    return JSONResponse({"picture": "fine"})


@router.get("/shots/{shot_id}/thumbnail.png")
async def thumbnail(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    """The current picture, small; made when it is first asked for and kept until the shot changes."""
    studio = here.user.studio_id
    opened = await to_thread.run_sync(app.shots.open, studio, shot_id)
    kept = await to_thread.run_sync(app.shots.thumbnail, studio, shot_id)
    if kept and kept[0] == opened.shot.revision:
        return Response(kept[1], media_type="image/png")

    def made() -> bytes:
        plan = view.without_fault(app.codec.plan(opened.document))
        small = png(app.pictures.quick(plan, long_side=THUMBNAIL_SIDE))
        app.shots.keep_thumbnail(studio, shot_id, revision=opened.shot.revision, picture=small)
        return small

    return Response(await drawn(request, app, here, made), media_type="image/png")

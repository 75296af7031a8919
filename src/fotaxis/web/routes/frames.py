"""Photographs attached to a shot, beside the prediction."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Request, UploadFile
from fastapi.responses import Response

from fotaxis.formats.photo import MAX_BYTES
from fotaxis.formats.picture_files import png
from fotaxis.services.photographs import marked
from fotaxis.services.ports import Frame
from fotaxis.web import links
from fotaxis.web.auth import AppServices, CurrentUser, Helper, Maker
from fotaxis.web.concurrency import FILES
from fotaxis.web.responses import gone_to, page
from fotaxis.web.views import bench as view
from fotaxis.web.views import frames as frames_view

router = APIRouter()

Note = Annotated[str, Form(max_length=4000)]


@router.get("/shots/{shot_id}/frames")
def frames_page(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    opened = app.shots.open(here.user.studio_id, shot_id)
    frames = app.frames.of_shot(here.user.studio_id, shot_id)
    return page(request, "frames.html", here, shot=opened.shot, frames=[frames_view.summary(f) for f in frames])


@router.post("/shots/{shot_id}/frames")
async def attach(app: AppServices, here: Helper, shot_id: UUID, file: UploadFile, note: Note = "") -> Response:
    def attached() -> Frame:
        data = file.file.read(MAX_BYTES + 1)
        return app.frames.attach(here.user.studio_id, shot_id, file_name=file.filename or "frame", data=data, note=note)

    frame = await FILES.run(attached)
    return gone_to(links.frame(frame.id))


@router.get("/frames/{frame_id}")
def frame_page(request: Request, app: AppServices, here: CurrentUser, frame_id: UUID) -> Response:
    frame = app.frames.get(here.user.studio_id, frame_id)
    opened = app.shots.open(here.user.studio_id, frame.shot_id)
    plan = app.codec.plan(opened.document)
    reading = app.frames.read(here.user.studio_id, frame_id, crop_ratio=plan.camera.crop_ratio)
    return page(
        request, "frame.html", here, shot=opened.shot, frame=frames_view.summary(frame),
        reading=frames_view.reading(reading, plan),
    )  # fmt: skip


@router.get("/frames/{frame_id}/picture.png")
def frame_picture(app: AppServices, here: CurrentUser, frame_id: UUID, marks: bool = True) -> Response:
    frame = app.frames.get(here.user.studio_id, frame_id)
    plan = app.codec.plan(app.shots.open(here.user.studio_id, frame.shot_id).document)
    reading = app.frames.read(here.user.studio_id, frame_id, crop_ratio=plan.camera.crop_ratio)
    shown = marked(reading.picture, reading.clipping) if marks else reading.picture
    return Response(png(shown), media_type="image/png")


@router.get("/frames/{frame_id}/file")
def frame_file(app: AppServices, here: CurrentUser, frame_id: UUID) -> Response:
    """The file exactly as it came."""
    frame, data = app.frames.original(here.user.studio_id, frame_id)
    headers = {"content-disposition": view.attachment(frame.file_name, "")}
    return Response(data, media_type=frame.media_type, headers=headers)


@router.post("/frames/{frame_id}/note")
def note(app: AppServices, here: Helper, frame_id: UUID, note: Note = "") -> Response:
    app.frames.note(here.user.studio_id, frame_id, note=note)
    return gone_to(links.frame(frame_id))


@router.post("/frames/{frame_id}/remove")
def remove(app: AppServices, here: Maker, frame_id: UUID) -> Response:
    frame = app.frames.get(here.user.studio_id, frame_id)
    app.frames.remove(here.user.studio_id, frame_id)
    return gone_to(links.shot_part(frame.shot_id, "frames"))

"""A shot's captures: made, changed, joined; which are needed; merged from real frames; written out."""

from __future__ import annotations

from functools import partial
from typing import Annotated, Any, Literal
from uuid import UUID

from anyio import to_thread
from fastapi import APIRouter, Depends, Form, Query, Request, UploadFile
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel, ConfigDict, Field

from fotaxis.core.camera.camera import PREVIEW_SIDE
from fotaxis.core.errors import DomainError
from fotaxis.formats.merge_files import JoinedFiles
from fotaxis.formats.photo import MAX_BYTES
from fotaxis.formats.picture_files import jpeg
from fotaxis.services.briefs import Brief
from fotaxis.services.captures import exports
from fotaxis.services.captures.capture import capture_of, captured, found, set_up, state_of
from fotaxis.services.captures.composite import developed, joined, mask_for, read_composite, read_line_in, shown_captures
from fotaxis.services.captures.merges import MEDIA
from fotaxis.services.captures.needed import needed
from fotaxis.services.captures.words import each_in_words
from fotaxis.services.changes import Change
from fotaxis.services.ports import Document, Frame
from fotaxis.services.screens import layers_name, nearest_side
from fotaxis.services.shots import Opened
from fotaxis.web import links
from fotaxis.web.auth import AppServices, CurrentUser, Helper, Maker, Services, ready
from fotaxis.web.cancellation import drawn, shared_picture
from fotaxis.web.concurrency import FILES
from fotaxis.web.responses import gone_to, page
from fotaxis.web.routes.bench import ChangeForm
from fotaxis.web.views import bench as bench_view
from fotaxis.web.views import captures as view

router = APIRouter(dependencies=[Depends(ready)])

SMALL_SIDE, PICTURE_SIDE = 160, 800
SmallSide = Annotated[int, Query(ge=60, le=400)]
PictureSide = Annotated[int, Query(ge=200, le=1600)]
Key = Annotated[str, Field(max_length=60)]
FILES_OUT = JoinedFiles()


def _state(app: Services, studio: UUID, opened: Opened) -> Response:
    brief = Brief.of(app.jobs.get(studio, opened.shot.job_id))
    frames = app.frames.of_shot(studio, opened.shot.id)
    return JSONResponse(view.captures_state(opened, brief, frames))


@router.get("/shots/{shot_id}/captures")
def captures_page(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    studio = here.user.studio_id
    opened = app.shots.open(studio, shot_id)
    brief = Brief.of(app.jobs.get(studio, opened.shot.job_id))
    state = view.captures_state(opened, brief, app.frames.of_shot(studio, shot_id))
    addresses = {
        name: links.shot_part(shot_id, part)
        for name, part in {
            "state": "captures/state", "changes": "captures/changes", "add": "captures", "preview": "composite/preview",
            "fine": "composite/fine", "readings": "composite/readings", "mask": "captures/mask.png", "needed": "captures/needed",
            "captures": "captures", "undo": "captures/undo", "redo": "captures/redo",
        }.items()
    }  # fmt: skip
    merges = view.merge_rows(app.merges.of_shot(studio, shot_id))
    return page(
        request, "captures.html", here, shot=opened.shot, state=state, addresses=addresses, choices=view.CHOICES, merges=merges,
        idle=False,
    )  # fmt: skip


@router.get("/shots/{shot_id}/captures/state")
def captures_state(app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    return _state(app, here.user.studio_id, app.shots.open(here.user.studio_id, shot_id))


class NameForm(BaseModel):
    model_config = ConfigDict(extra="forbid")
    name: Annotated[str, Field(max_length=80)] = ""


@router.post("/shots/{shot_id}/captures")
def keep_capture(app: AppServices, here: Helper, shot_id: UUID, form: NameForm) -> Response:
    """The present state of the set as one more capture."""
    studio = here.user.studio_id
    document = app.shots.open(studio, shot_id).document
    capture = capture_of(document, name=form.name.strip())
    change = Change(kind="add", path=("captures",), value=capture)
    opened = app.shots.change(studio, shot_id, changes=[change], label=f"Kept {capture['name']}")
    words = each_in_words(opened.document, opened.document["captures"])[-1]
    return JSONResponse(
        {"key": opened.document["captures"][-1]["key"], "words": words, "count": len(opened.document["captures"])}
    )


class CaptureChangesForm(BaseModel):
    model_config = ConfigDict(extra="forbid")
    changes: Annotated[list[ChangeForm], Field(min_length=1, max_length=40)]
    label: Annotated[str, Field(max_length=80)] = "Changed"
    seen: Annotated[int, Field(ge=0, le=2**31 - 1)] | None = None


PLACES = {"captures", "finish", "retouch", "shooting"}


@router.post("/shots/{shot_id}/captures/changes")
def change_captures(app: AppServices, here: Helper, shot_id: UUID, form: CaptureChangesForm) -> Response:
    """Changes of captures, masks, finish, list and places to retouch; nothing else of the set."""
    changes = [one.change() for one in form.changes]
    if any(change.path[0] not in PLACES for change in changes):
        raise DomainError("here captures and what becomes of them are changed; the set itself is changed on the bench.")
    opened = app.shots.change(here.user.studio_id, shot_id, changes=changes, label=form.label, seen=form.seen)
    return _state(app, here.user.studio_id, opened)


@router.post("/shots/{shot_id}/captures/undo")
def undo(app: AppServices, here: Helper, shot_id: UUID) -> Response:
    return _state(app, here.user.studio_id, app.shots.undo(here.user.studio_id, shot_id))


@router.post("/shots/{shot_id}/captures/redo")
def redo(app: AppServices, here: Helper, shot_id: UUID) -> Response:
    return _state(app, here.user.studio_id, app.shots.redo(here.user.studio_id, shot_id))


@router.post("/shots/{shot_id}/captures/{key}/set-up")
def set_up_capture(app: AppServices, here: Helper, shot_id: UUID, key: Key) -> Response:
    """The bench brought to a capture: its lights, exposure and focus."""
    opened = app.shots.open(here.user.studio_id, shot_id)
    capture = found(opened.document, key)
    changes = set_up(opened.document, capture)
    app.shots.change(here.user.studio_id, shot_id, changes=changes, label=f"Set up {capture['name']}")
    return JSONResponse({"location": links.shot(shot_id)})


@router.post("/shots/{shot_id}/captures/{key}/from-bench")
def from_bench(app: AppServices, here: Helper, shot_id: UUID, key: Key) -> Response:
    """A capture brought to what the bench shows now."""
    opened = app.shots.open(here.user.studio_id, shot_id)
    capture = found(opened.document, key)
    changes = [
        Change(kind="set", path=("captures", key, name), value=value) for name, value in state_of(opened.document).items()
    ]
    opened = app.shots.change(here.user.studio_id, shot_id, changes=changes, label=f"{capture['name']} as on the bench")
    return _state(app, here.user.studio_id, opened)


# ---- pictures


@router.get("/shots/{shot_id}/captures/{key}/picture.jpg")
async def capture_picture(
    request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, key: Key, side: SmallSide = SMALL_SIDE
) -> Response:  # fmt: skip
    """One capture by itself, small and at once."""

    def made() -> bytes:
        document = app.shots.open(here.user.studio_id, shot_id).document
        plan = bench_view.without_fault(app.codec.plan(captured(document, found(document, key))))
        levels = app.pictures.levels(plan, long_side=PREVIEW_SIDE)
        step = max(1, PREVIEW_SIDE // side)
        high, wide = levels.shape[0] // step * step, levels.shape[1] // step * step
        small = levels[:high, :wide].reshape(high // step, step, wide // step, step, 3).mean(axis=(1, 3))
        return jpeg(developed(small, app.codec.tone(document["finish"])))

    return Response(await drawn(request, app, here, made), media_type="image/jpeg")


def _composite(app: Services, document: Document, *, side: int, fine: bool) -> bytes:
    return jpeg(joined(document, app.codec, app.pictures, long_side=side, fine=fine).developed())


@router.get("/shots/{shot_id}/composite.jpg")
async def composite(
    request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, side: PictureSide = PICTURE_SIDE,
    fine: bool = False,
) -> Response:  # fmt: skip
    """The composite: fine where the pictures of all captures are there, else a draft: `x-picture` says which."""
    document = (await to_thread.run_sync(app.shots.open, here.user.studio_id, shot_id)).document

    def made() -> tuple[bytes, str]:
        if fine:
            try:
                return _composite(app, document, side=nearest_side(side), fine=True), "fine"
            except DomainError:
                pass
        return _composite(app, document, side=PREVIEW_SIDE, fine=False), "quick"

    data, which = await drawn(request, app, here, made)
    return Response(data, media_type="image/jpeg", headers={"x-picture": which})


@router.get("/shots/{shot_id}/composite/fine")
async def composite_fine(
    request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, side: PictureSide = PICTURE_SIDE
) -> Response:  # fmt: skip
    """Answers when workers have made the fine pictures of all captures; then composite.jpg?fine=1 is made of them."""
    studio = here.user.studio_id
    document = (await to_thread.run_sync(app.shots.open, studio, shot_id)).document
    size = nearest_side(side)
    for capture in shown_captures(document):
        own = captured(document, capture)
        plan = bench_view.without_fault(await to_thread.run_sync(app.codec.plan, own))
        if app.pictures.fine_levels(plan, long_side=size) is None:
            picture = await shared_picture(request, app, studio, layers_name(own, size), own)
            layers, _ = await to_thread.run_sync(app.screens.take, plan, picture.data)
            await to_thread.run_sync(app.pictures.keep_levels, plan, layers)
    return JSONResponse({"picture": "fine"})


class PreviewForm(BaseModel):
    """What is tried but not kept yet: a capture's fields while a hand draws its mask or pulls its strength, or the finish."""

    model_config = ConfigDict(extra="forbid")
    changes: Annotated[list[ChangeForm], Field(min_length=1, max_length=10)]
    side: Annotated[int, Field(ge=200, le=800)] = PREVIEW_SIDE
    fine: bool = False


@router.post("/shots/{shot_id}/composite/preview")
async def preview(request: Request, app: AppServices, here: Helper, shot_id: UUID, form: PreviewForm) -> Response:
    """The composite with something tried; nothing is kept. From fine pictures where they are there."""

    def made() -> bytes:
        document = app.shots.open(here.user.studio_id, shot_id).document
        tried = app.shots.tried(document, [one.change() for one in form.changes])
        if form.fine:
            try:
                return _composite(app, tried, side=nearest_side(form.side), fine=True)
            except DomainError:
                pass
        return _composite(app, tried, side=PREVIEW_SIDE, fine=False)

    return Response(await drawn(request, app, here, made), media_type="image/jpeg")


@router.get("/shots/{shot_id}/captures/mask.png")
async def mask(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, key: Key) -> Response:
    """A capture's mask, white where it is taken; all white without one."""

    def made() -> bytes:
        document = app.shots.open(here.user.studio_id, shot_id).document
        plan = app.codec.plan({**document, "captures": []})
        drawn_mask = mask_for(plan, found(document, key), app.codec, app.pictures, long_side=PREVIEW_SIDE)
        if drawn_mask is None:
            shown = app.pictures.product_of(plan, long_side=PREVIEW_SIDE) * 0 + 1
            drawn_mask = shown.astype("float32")
        return app.whole_shots.files.mask(drawn_mask)

    return Response(await drawn(request, app, here, made), media_type="image/png")


@router.get("/shots/{shot_id}/composite/readings")
async def readings(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    """What the shot's readings, wishes and line read in the composite."""

    def made() -> dict[str, Any]:
        document = app.shots.open(here.user.studio_id, shot_id).document
        whole = joined(document, app.codec, app.pictures)
        values, judged = read_composite(document, whole, app.codec, app.pictures)
        line = read_line_in(whole, app.codec.line(document, whole.base), app.pictures)
        return view.read_state(values, judged, line.words, {one.key: one.name for one in app.codec.readings(document)})

    return JSONResponse(await drawn(request, app, here, made))


@router.get("/shots/{shot_id}/captures/{key}/readings")
async def capture_readings(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, key: Key) -> Response:
    """What the shot's readings read in one capture by itself."""

    def made() -> dict[str, Any]:
        document = app.shots.open(here.user.studio_id, shot_id).document
        plan = app.codec.plan(captured(document, found(document, key)))
        known = app.codec.readings(document)
        values = app.pictures.named(plan, known)
        return view.read_state(values, [], [], {one.key: one.name for one in known})

    return JSONResponse(await drawn(request, app, here, made))


@router.get("/shots/{shot_id}/captures/needed")
async def needed_captures(
    request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, school: Literal["one frame", "one per part"] = "one frame"
) -> Response:  # fmt: skip
    """Which captures the set asks for, and why; nothing is changed."""

    def made() -> dict[str, Any]:
        document = app.shots.open(here.user.studio_id, shot_id).document
        asked = needed(document, app.codec, app.pictures, school=school)
        words = each_in_words(document, asked.captures)
        told = [{"name": one["name"], "words": said} for one, said in zip(asked.captures, words, strict=True)]
        return {"single": asked.single, "words": asked.words, "reasons": asked.reasons, "captures": told, "school": school}

    return JSONResponse(await drawn(request, app, here, made))


class SchoolForm(BaseModel):
    model_config = ConfigDict(extra="forbid")
    school: Literal["one frame", "one per part"] = "one frame"
    instead: bool = False


@router.post("/shots/{shot_id}/captures/needed")
async def take_needed(request: Request, app: AppServices, here: Helper, shot_id: UUID, form: SchoolForm) -> Response:
    """The captures that the set asks for, added; instead: in place of those there are."""
    studio = here.user.studio_id

    def made() -> Response:
        document = app.shots.open(studio, shot_id).document
        bare = {**document, "captures": []} if form.instead else document
        asked = needed(bare, app.codec, app.pictures, school=form.school)
        value = [*bare["captures"], *asked.captures]
        changes = [
            Change(kind="set", path=("captures",), value=value), Change(kind="set", path=("finish", "school"), value=form.school),
        ]  # fmt: skip
        return _state(
            app, studio, app.shots.change(studio, shot_id, changes=changes, label="Captures that the set asks for")
        )

    return await drawn(request, app, here, made)


# ---- out


@router.get("/shots/{shot_id}/composite/file.{kind}")
async def composite_file(
    request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, kind: str, side: PictureSide = 1600,
    fine: bool = False,
) -> Response:  # fmt: skip
    """The predicted composite as a file; fine: of the fine pictures at this size, where they are there."""
    opened = await to_thread.run_sync(app.shots.open, here.user.studio_id, shot_id)
    make = partial(
        exports.predicted_file, kind, opened.document, app.codec, app.pictures, FILES_OUT, long_side=nearest_side(side), fine=fine
    )  # fmt: skip
    data = await drawn(request, app, here, make)
    disposition = bench_view.attachment(f"{opened.shot.name}, composite", f".{kind}")
    return Response(data, media_type=MEDIA[kind], headers={"content-disposition": disposition})


@router.get("/shots/{shot_id}/whole.zip")
async def whole_shot(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    """The whole shot as one file."""
    from fotaxis.web.routes.sheet import sheet_pdf_bytes

    def made() -> tuple[str, bytes]:
        sheet = sheet_pdf_bytes(app, here, shot_id, str(request.base_url).rstrip("/"))
        return app.whole_shots.pack(here.user.studio_id, shot_id, sheet=sheet)

    name, data = await drawn(request, app, here, made)
    return Response(data, media_type="application/zip", headers={"content-disposition": bench_view.attachment(name, ".zip")})


@router.post("/jobs/{job_id}/import-whole")
async def import_whole(app: AppServices, here: Maker, job_id: UUID, file: UploadFile) -> Response:
    def made() -> UUID:
        return app.whole_shots.take_in(here.user.studio_id, job_id, file.file.read()).id

    return gone_to(links.shot_part(await FILES.run(made), "captures"))


# ---- real frames


@router.post("/shots/{shot_id}/captures/{key}/frame")
async def attach_frame(app: AppServices, here: Helper, shot_id: UUID, key: Key, file: UploadFile) -> Response:
    """A real frame of this capture."""
    found(app.shots.open(here.user.studio_id, shot_id).document, key)

    def attached() -> Frame:
        data = file.file.read(MAX_BYTES + 1)
        name = file.filename or "frame"
        return app.frames.attach(here.user.studio_id, shot_id, file_name=name, data=data, note="", capture=key)

    await FILES.run(attached)
    return await to_thread.run_sync(lambda: _state(app, here.user.studio_id, app.shots.open(here.user.studio_id, shot_id)))


@router.post("/frames/{frame_id}/capture")
def give_frame(
    app: AppServices, here: Helper, frame_id: UUID, capture: Annotated[str, Form(max_length=60)] = ""
) -> Response:
    frame = app.frames.get(here.user.studio_id, frame_id)
    if capture:
        found(app.shots.open(here.user.studio_id, frame.shot_id).document, capture)
    app.frames.give(here.user.studio_id, frame_id, capture=capture)
    return gone_to(links.frame(frame_id))


@router.post("/shots/{shot_id}/merges")
def merge(app: AppServices, here: Helper, shot_id: UUID, also: Annotated[list[str] | None, Form()] = None) -> Response:
    app.merges.ask(here.user.studio_id, shot_id, also=also or [])
    return gone_to(links.shot_part(shot_id, "captures?tab=merge"))


@router.get("/shots/{shot_id}/merges")
def merges(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    """The list alone, as the page asks for it while something is being merged."""
    opened = app.shots.open(here.user.studio_id, shot_id)
    rows = view.merge_rows(app.merges.of_shot(here.user.studio_id, shot_id))
    idle = any(row["open"] for row in rows) and not app.finals.has_workers()
    return page(request, "captures/merges.html", here, shot=opened.shot, merges=rows, idle=idle)


@router.post("/merges/{merge_id}/cancel")
def cancel(app: AppServices, here: Helper, merge_id: UUID) -> Response:
    done = app.merges.cancel(here.user.studio_id, merge_id)
    return gone_to(links.shot_part(done.shot_id, "captures?tab=merge"))


@router.post("/merges/{merge_id}/remove")
def remove(app: AppServices, here: Maker, merge_id: UUID) -> Response:
    gone = app.merges.remove(here.user.studio_id, merge_id)
    return gone_to(links.shot_part(gone.shot_id, "captures?tab=merge"))


@router.get("/merges/{merge_id}/picture.jpg")
def merged_picture(app: AppServices, here: CurrentUser, merge_id: UUID) -> Response:
    """The merged picture, 8 bits."""
    _, data = app.merges.file(here.user.studio_id, merge_id, "jpg")
    return Response(data, media_type="image/jpeg", headers={"cache-control": "private, max-age=86400"})


@router.get("/merges/{merge_id}/file.{kind}")
def merged_file(app: AppServices, here: CurrentUser, merge_id: UUID, kind: str) -> Response:
    """A file of a merge; a 16-bit PNG is made of its TIFF."""
    merge_row, data = app.merges.file(here.user.studio_id, merge_id, "tif" if kind == "png" else kind)
    if kind == "png":
        data = FILES_OUT.png_of_tiff(data)
    name = app.shots.open(here.user.studio_id, merge_row.shot_id).shot.name
    headers = {"content-disposition": bench_view.attachment(f"{name}, merged", f".{kind}")}
    return Response(data, media_type=MEDIA[kind], headers=headers)

"""Every state a shot has been in: the strip, going back, pins, and one state against another."""

from __future__ import annotations

from functools import partial
from typing import Annotated, Any
from uuid import UUID

from anyio import to_thread
from fastapi import APIRouter, Path, Query, Request
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel, ConfigDict, Field

from fotaxis.core.errors import DomainError
from fotaxis.core.frames.difference import as_grey, difference_stops
from fotaxis.core.render.layers import layer_gains, mixed
from fotaxis.formats.picture_files import png
from fotaxis.services import wishes
from fotaxis.services.kit import asked_too_much
from fotaxis.services.ports import ShotState
from fotaxis.services.screens import layers_name, nearest_side, picture_name
from fotaxis.services.shown import Shown, shown_plan
from fotaxis.web.auth import AppServices, CurrentUser, Helper
from fotaxis.web.cancellation import drawn, shared_picture
from fotaxis.web.responses import lasting_png
from fotaxis.web.routes.bench import ViewForm, state_answer
from fotaxis.web.views import bench as view
from fotaxis.web.views import reading_view as judged_view
from fotaxis.web.views import wish_view

router = APIRouter()

SMALL_SIDE = 130
MOST_SHOWN = 80
"""The strip shows so many of the newest states, and every pinned one."""

Side = Annotated[int, Query(ge=64, le=1200)]


class GoForm(BaseModel):
    model_config = ConfigDict(extra="forbid")
    number: Annotated[int, Field(ge=1, le=2**31 - 1)]
    view: ViewForm = ViewForm()


class PinForm(BaseModel):
    model_config = ConfigDict(extra="forbid")
    number: Annotated[int, Field(ge=1, le=2**31 - 1)]
    name: Annotated[str, Field(max_length=80)] = ""


@router.get("/shots/{shot_id}/states")
def states(app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    """The states, oldest first, and which is the present one."""
    studio = here.user.studio_id
    kept = app.shots.states(studio, shot_id)
    newest = {s.number for s in kept[-MOST_SHOWN:]}
    shown = [s for s in kept if s.number in newest or s.pin]
    return JSONResponse(
        {"current": app.shots.revision_of(studio, shot_id), "all": len(kept), "states": [_state(s) for s in shown]}
    )


def _state(state: ShotState) -> dict[str, object]:
    return {
        "number": state.number, "parent": state.parent, "label": state.label, "pin": state.pin,
        "when": state.created_at.strftime("%H:%M"), "who": state.who,
    }  # fmt: skip


Number = Annotated[int, Path(ge=1, le=2**31 - 1)]


@router.get("/shots/{shot_id}/states/{number}/small.png")
async def small(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, number: Number) -> Response:
    """A small picture of a state; states never change."""

    def made() -> bytes:
        document = app.shots.document_at(here.user.studio_id, shot_id, number=number)
        return png(app.pictures.quick(view.without_fault(app.codec.plan(document)), long_side=SMALL_SIDE))

    return lasting_png(await drawn(request, app, here, made))


@router.get("/shots/{shot_id}/states/{number}/picture.png")
async def picture(
    request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, number: Number, side: Side = 600
) -> Response:
    """The picture of a state as the screen shows it."""
    studio = here.user.studio_id
    document = await to_thread.run_sync(partial(app.shots.document_at, studio, shot_id, number=number))
    name = picture_name(document, nearest_side(side))
    return lasting_png((await shared_picture(request, app, studio, name, document)).data)


@router.get("/shots/{shot_id}/states/{number}/difference.png")
async def difference(
    request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, number: Number, side: Side = 600
) -> Response:
    """How much brighter the present state is than another, grey for equal, white and black 3 stops apart."""
    studio = here.user.studio_id
    opened = await to_thread.run_sync(app.shots.open, studio, shot_id)
    other = await to_thread.run_sync(partial(app.shots.document_at, studio, shot_id, number=number))
    documents = [opened.document, other]
    files = [
        (await shared_picture(request, app, studio, layers_name(document, nearest_side(side)), document)).data
        for document in documents
    ]

    def made() -> bytes:
        levels = []
        for document, data in zip(documents, files, strict=True):
            plan = view.without_fault(app.codec.plan(document))
            levels.append(mixed(app.screens.take(plan, data)[0], layer_gains(plan)))
        return png(as_grey(difference_stops(levels[0], levels[1])))

    return Response(await drawn(request, app, here, made), media_type="image/png")


@router.post("/shots/{shot_id}/go")
def go(app: AppServices, here: Helper, shot_id: UUID, form: GoForm) -> Response:
    return state_answer(app, app.shots.go_to(here.user.studio_id, shot_id, number=form.number), form.view)


@router.post("/shots/{shot_id}/pin")
def pin(app: AppServices, here: Helper, shot_id: UUID, form: PinForm) -> Response:
    app.shots.pin(here.user.studio_id, shot_id, number=form.number, name=form.name)
    return states(app, here, shot_id)


@router.get("/shots/{shot_id}/judged")
async def judged(
    request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, alone: Annotated[str, Query(max_length=60)] = "",
    black: bool = False,
) -> Response:  # fmt: skip
    """Named readings of what the window shows, what each light's way takes, and which light is the weakest."""

    def found() -> dict[str, Any]:
        studio = here.user.studio_id
        document = app.shots.open(studio, shot_id).document
        plan, readings = app.codec.plan(document), app.codec.readings(document)
        shown = Shown(alone=alone, black=black)
        try:
            app.screens.know(studio, plan, document)
            values, fault, wrong = app.pictures.named(plan, readings, shown=shown), "", app.pictures.faults(plan)
        except DomainError as error:
            values, fault, wrong = {}, str(error), []
        told = judged_view.judged(plan, shown_plan(plan, shown), readings, values, fault)
        named = app.codec.wishes(document)
        if named and not fault:
            whole = values if shown == Shown() else app.pictures.named(plan, readings)
            told |= wish_view.told(
                plan, document.get("held", []), named, readings, whole, lambda now: app.pictures.named(now, readings),
                wishes.whole_for(named, lambda: app.pictures.whole(plan)),
            )  # fmt: skip
        return {**told, "faults": judged_view.faults(plan, wrong, asked_too_much(document, app.kit.all(studio)))}

    return JSONResponse(await drawn(request, app, here, found))

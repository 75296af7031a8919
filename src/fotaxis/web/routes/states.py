"""Every state a shot has been in: the strip, going back, pins, and one state against another."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel, ConfigDict, Field

from fotaxis.core.errors import DomainError
from fotaxis.core.frames.difference import as_grey, difference_stops
from fotaxis.formats.picture_files import png
from fotaxis.services.ports import ShotState
from fotaxis.web.guard import All, Here
from fotaxis.web.pages import lasting_png
from fotaxis.web.routes.bench import ViewForm, state_answer
from fotaxis.web.views import bench as view
from fotaxis.web.views import judged as judged_view

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
def states(all_: All, here: Here, shot_id: UUID) -> Response:
    """The states, oldest first, and which is the present one."""
    studio = here.user.studio_id
    kept = all_.shots.states(studio, shot_id)
    newest = {s.number for s in kept[-MOST_SHOWN:]}
    shown = [s for s in kept if s.number in newest or s.pin]
    return JSONResponse(
        {"current": all_.shots.revision_of(studio, shot_id), "all": len(kept), "states": [_state(s) for s in shown]}
    )


def _state(state: ShotState) -> dict[str, object]:
    return {
        "number": state.number, "parent": state.parent, "label": state.label, "pin": state.pin,
        "when": state.created_at.strftime("%H:%M"),
    }  # fmt: skip


@router.get("/shots/{shot_id}/states/{number}/small.png")
def small(all_: All, here: Here, shot_id: UUID, number: int) -> Response:
    """A small picture of a state; states never change."""
    document = all_.shots.document_at(here.user.studio_id, shot_id, number=number)
    return lasting_png(png(all_.pictures.quick(view.without_fault(all_.codec.plan(document)), long_side=SMALL_SIDE)))


@router.get("/shots/{shot_id}/states/{number}/picture.png")
def picture(all_: All, here: Here, shot_id: UUID, number: int, side: Side = 600) -> Response:
    """The picture of a state as the screen shows it."""
    document = all_.shots.document_at(here.user.studio_id, shot_id, number=number)
    plan = view.without_fault(all_.codec.plan(document))
    return lasting_png(png(all_.pictures.of_screen(plan, long_side=side).developed()))


@router.get("/shots/{shot_id}/states/{number}/difference.png")
def difference(all_: All, here: Here, shot_id: UUID, number: int, side: Side = 600) -> Response:
    """How much brighter the present state is than another, grey for equal, white and black 3 stops apart."""
    studio = here.user.studio_id
    documents = all_.shots.open(studio, shot_id).document, all_.shots.document_at(studio, shot_id, number=number)
    now, then = (all_.pictures.of_screen(view.without_fault(all_.codec.plan(d)), long_side=side).levels() for d in documents)
    return Response(png(as_grey(difference_stops(now, then))), media_type="image/png")


@router.post("/shots/{shot_id}/go")
def go(all_: All, here: Here, shot_id: UUID, form: GoForm) -> Response:
    return state_answer(all_, all_.shots.go_to(here.user.studio_id, shot_id, number=form.number), form.view)


@router.post("/shots/{shot_id}/pin")
def pin(all_: All, here: Here, shot_id: UUID, form: PinForm) -> Response:
    all_.shots.pin(here.user.studio_id, shot_id, number=form.number, name=form.name)
    return states(all_, here, shot_id)


@router.get("/shots/{shot_id}/judged")
def judged(all_: All, here: Here, shot_id: UUID) -> Response:
    """Named readings, what each light's way takes, and which light is the weakest."""
    document = all_.shots.open(here.user.studio_id, shot_id).document
    plan, readings = all_.codec.plan(document), all_.codec.readings(document)
    try:
        values, fault = all_.pictures.named(plan, readings), ""
    except DomainError as error:
        values, fault = {}, str(error)
    return JSONResponse(judged_view.judged(plan, readings, values, fault))

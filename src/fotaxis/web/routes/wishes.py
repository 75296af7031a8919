"""What a shot's picture must show: the usual wishes, and the powers that meet them."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Response
from pydantic import BaseModel, ConfigDict, Field

from fotaxis.core.errors import DomainError, NoSolution
from fotaxis.services import wishes
from fotaxis.web.auth import AppServices, Helper
from fotaxis.web.routes.bench import ViewForm, state_answer

router = APIRouter()


@router.post("/shots/{shot_id}/usual-wishes")
def usual_wishes(app: AppServices, here: Helper, shot_id: UUID, form: ViewForm) -> Response:
    """Add the wishes most sets have, with the readings they are about."""
    studio = here.user.studio_id
    changes = wishes.usual_wishes(app.shots.open(studio, shot_id).document)
    if not changes:
        return state_answer(app, app.shots.open(studio, shot_id), form, note="All the usual wishes are there already.")
    return state_answer(app, app.shots.change(studio, shot_id, changes=changes, label="Added the usual wishes"), form)


class PlaceForm(BaseModel):
    model_config = ConfigDict(extra="forbid")
    key: Annotated[str, Field(max_length=60)]
    view: ViewForm = ViewForm()


@router.post("/shots/{shot_id}/line-panel")
def line_panel(app: AppServices, here: Helper, shot_id: UUID, form: PlaceForm) -> Response:
    """Put the panel of a line that is wished for where its image is that line: the one that makes it is moved and sized, else one
    more is added."""
    studio = here.user.studio_id
    opened = app.shots.open(studio, shot_id)
    plan, readings = app.codec.plan(opened.document), app.codec.readings(opened.document)
    wish = next((one for one in app.codec.wishes(opened.document) if one.key == form.key), None)
    if wish is None:
        return state_answer(app, opened, form.view, note="This wish was removed.")
    try:
        at = app.pictures.line_place(plan, wish, readings)
    except NoSolution as error:
        return state_answer(app, opened, form.view, note=f"No panel can be that line: {error}")
    opened = app.shots.change(studio, shot_id, changes=wishes.line_changes(opened.document, at), label="Panel for a line")
    return state_answer(app, opened, form.view, note=at.words)


@router.post("/shots/{shot_id}/balance")
def balance(app: AppServices, here: Helper, shot_id: UUID, form: ViewForm) -> Response:
    """Set the powers that meet the wishes' levels as closely as the heads' steps allow, as one state."""
    studio = here.user.studio_id
    opened = app.shots.open(studio, shot_id)
    document = opened.document
    plan, readings = app.codec.plan(document), app.codec.readings(document)
    try:
        answer = wishes.balanced(
            plan, document.get("held", []), app.codec.wishes(document), lambda now: app.pictures.named(now, readings)
        )
    except DomainError as error:
        return state_answer(app, opened, form, note=str(error))
    if answer is None:
        return state_answer(app, opened, form, note="No wish is about a level that is seen: add one, label at 0, say.")
    names = {reading.key: reading.name for reading in readings}
    words = " ".join(wishes.balance_words(plan, answer, names))
    if not answer.balance.powers:
        return state_answer(app, opened, form, note=words or "Every level is met as it stands.")
    opened = app.shots.change(studio, shot_id, changes=wishes.power_changes(answer.balance), label="Balanced")
    return state_answer(app, opened, form, note=f"Balanced: {words}")

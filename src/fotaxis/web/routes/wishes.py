"""What a shot's picture must show: sets of wishes, wishes marked on the frame, ways to meet one, and the powers that meet them."""

from __future__ import annotations

from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Path, Query, Request, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ConfigDict, Field

from fotaxis.core.errors import DomainError, FormatError, FotaxisError, NoSolution
from fotaxis.core.frames.zones_seen import zones_seen
from fotaxis.formats.picture_files import jpeg, png
from fotaxis.services import polariser, wishes
from fotaxis.services.changes import applied
from fotaxis.services.marking import Mark, marked
from fotaxis.services.ports import Document
from fotaxis.services.proposals import Asked, asked_for, proposals, taken
from fotaxis.services.shots import Opened
from fotaxis.services.studies import MOST_VARIANTS
from fotaxis.services.wish_sets import SETS, set_wishes
from fotaxis.web.auth import AppServices, CurrentUser, Helper, Services
from fotaxis.web.cancellation import drawn
from fotaxis.web.routes.bench import ViewForm, state_answer
from fotaxis.web.views import bench as view
from fotaxis.web.views import wish_view

router = APIRouter()

Key = Annotated[str, Field(max_length=60)]
PICTURE_SIDE = 170


class SetForm(BaseModel):
    model_config = ConfigDict(extra="forbid")
    key: Key = "usual"
    view: ViewForm = ViewForm()


@router.post("/shots/{shot_id}/wish-set")
def wish_set(app: AppServices, here: Helper, shot_id: UUID, form: SetForm) -> Response:
    """Add a set of wishes, with the readings they are about."""
    studio = here.user.studio_id
    opened = app.shots.open(studio, shot_id)
    plan = app.codec.plan(opened.document)
    changes = set_wishes(opened.document, form.key, zones_seen(plan, app.pictures.stage(plan)))
    if not changes:
        return state_answer(
            app, opened, form.view, note="All of these wishes are there already, or nothing here shows them."
        )
    label = f"Wishes: {SETS[form.key].name}"
    return state_answer(app, app.shots.change(studio, shot_id, changes=changes, label=label), form.view)


Part = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]


class MarkForm(BaseModel):
    """A rectangle drawn on the frame, parts of its width and height from the upper left corner."""

    model_config = ConfigDict(extra="forbid")
    x: Part
    y: Part
    to_x: Part
    to_y: Part
    view: ViewForm = ViewForm()


@router.post("/shots/{shot_id}/mark")
def mark(app: AppServices, here: Helper, shot_id: UUID, form: MarkForm) -> Response:
    """Add what a rectangle on the frame asks for, by what it lies on."""
    studio = here.user.studio_id
    opened = app.shots.open(studio, shot_id)
    plan = app.codec.plan(opened.document)
    try:
        changes = marked(
            opened.document, plan, app.pictures.stage(plan), Mark(x=form.x, y=form.y, to_x=form.to_x, to_y=form.to_y)
        )
    except DomainError as error:
        return state_answer(app, opened, form.view, note=str(error))
    return state_answer(app, app.shots.change(studio, shot_id, changes=changes, label="Marked a wish"), form.view)


def _asked(app: Services, studio_id: UUID, document: Document, key: str) -> Asked:
    """Raises FormatError where the wish was removed."""
    wish = next((one for one in app.codec.wishes(document) if one.key == key), None)
    if wish is None:
        raise FormatError("this wish was removed; reload to see the shot as it is.", place="wish")
    return asked_for(app.pictures, app.codec, document, wish, app.kit.all(studio_id))


@router.get("/shots/{shot_id}/proposals")
async def ways(
    request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, wish: Annotated[str, Query(max_length=60)]
) -> Response:
    """Ways to meet a wish, the best first, and the space it is lit from; why there is none."""

    def found() -> dict[str, Any]:
        opened = app.shots.open(here.user.studio_id, shot_id)
        asked = _asked(app, here.user.studio_id, opened.document, wish)
        return {"revision": opened.shot.revision, **wish_view.ways(asked)}

    return JSONResponse(await drawn(request, app, here, found))


@router.get("/shots/{shot_id}/proposals/{wish}/{number}")
async def way_picture(
    request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, wish: Annotated[str, Path(max_length=60)],
    number: Annotated[int, Path(ge=0, le=20)],
) -> Response:  # fmt: skip
    """What the set shows with one of the ways taken, small, and what becomes of the wish: a header and a JPEG."""

    def made() -> bytes:
        opened = app.shots.open(here.user.studio_id, shot_id)
        asked = _asked(app, here.user.studio_id, opened.document, wish)
        document = applied(opened.document, taken(asked, _one(asked, number)))
        plan = app.codec.plan(app.codec.check(document))
        readings = app.codec.readings(document)
        values = app.pictures.named(plan, readings)
        whole = wishes.whole_for([asked.wish], lambda: app.pictures.whole(plan))
        judged = wishes.judged_wishes(plan, [asked.wish], readings, values, whole)[0].judged
        small = app.pictures.quick(view.without_fault(plan), long_side=PICTURE_SIDE)
        return view.packed({"state": judged.state, "words": judged.words}, jpeg(small))

    return Response(await drawn(request, app, here, made), media_type="application/octet-stream")


def _one(asked: Asked, number: int) -> Any:
    found = proposals(asked)
    if number >= len(found):
        raise FormatError("there is no such way any more; look at them anew.", place="number")
    return found[number]


class TakeForm(BaseModel):
    """revision: of the shot as the ways were looked at; None to take the best way of the shot as it stands."""

    model_config = ConfigDict(extra="forbid")
    wish: Key
    number: Annotated[int, Field(ge=0, le=20)] = 0
    revision: Annotated[int, Field(ge=0, le=2**31 - 1)] | None = None
    view: ViewForm = ViewForm()


@router.post("/shots/{shot_id}/proposals")
def take(app: AppServices, here: Helper, shot_id: UUID, form: TakeForm) -> Response:
    """Take one of the ways to meet a wish, as one state."""
    studio = here.user.studio_id
    opened = app.shots.open(studio, shot_id)
    if form.revision is not None and form.revision != opened.shot.revision:
        return state_answer(app, opened, form.view, note="The set has changed since; look at the ways anew.")
    try:
        asked = _asked(app, studio, opened.document, form.wish)
        chosen = _one(asked, form.number)
    except NoSolution as error:
        return state_answer(app, opened, form.view, note=f"Nothing to put: {error}")
    except FotaxisError as error:
        return state_answer(app, opened, form.view, note=str(error))
    opened = app.shots.change(studio, shot_id, changes=taken(asked, chosen), label=chosen.title[:80])
    return state_answer(app, opened, form.view, note=" ".join(chosen.reasons))


@router.post("/shots/{shot_id}/balance")
def balance(app: AppServices, here: Helper, shot_id: UUID, form: ViewForm) -> Response:
    """Set the powers that meet the wishes' levels as closely as the heads' steps allow, as one state."""
    studio = here.user.studio_id
    opened: Opened = app.shots.open(studio, shot_id)
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


@router.get("/shots/{shot_id}/delicate")
def delicate(app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    """How delicate the set is, as far as workers have found it."""
    document = app.shots.open(here.user.studio_id, shot_id).document
    return JSONResponse(wish_view.delicate(app.studies.delicate(here.user.studio_id, document)))


@router.post("/shots/{shot_id}/delicate")
def ask_delicate(app: AppServices, here: Helper, shot_id: UUID) -> Response:
    """Have it found how delicate the set is."""
    document = app.shots.open(here.user.studio_id, shot_id).document
    study = app.studies.delicate(here.user.studio_id, document, ask=True)
    return JSONResponse(wish_view.delicate(study) | {"workers": app.finals.has_workers()})


class SweepForm(BaseModel):
    """Variants of where a thing stands, within so many centimetres and degrees of where it does."""

    model_config = ConfigDict(extra="forbid")
    key: Key
    span_cm: Annotated[float, Field(ge=0, le=200, allow_inf_nan=False)] = 20
    span_deg: Annotated[float, Field(ge=0, le=90, allow_inf_nan=False)] = 15
    variants: Annotated[int, Field(ge=1, le=MOST_VARIANTS)] = 500


@router.get("/shots/{shot_id}/sweep")
def sweep(app: AppServices, here: CurrentUser, shot_id: UUID, form: Annotated[SweepForm, Query()]) -> Response:
    """What has been found by now of many variants."""
    return _sweep(app, here.user.studio_id, shot_id, form, ask=False)


@router.post("/shots/{shot_id}/sweep")
def ask_sweep(app: AppServices, here: Helper, shot_id: UUID, form: SweepForm) -> Response:
    """Have many variants of where one thing stands looked at."""
    return _sweep(app, here.user.studio_id, shot_id, form, ask=True)


def _sweep(app: Services, studio_id: UUID, shot_id: UUID, form: SweepForm, *, ask: bool) -> Response:
    document = app.shots.open(studio_id, shot_id).document
    study = app.studies.sweep(
        studio_id, document, form.key, span_cm=form.span_cm, span_deg=form.span_deg, variants=form.variants, ask=ask
    )
    return JSONResponse(
        {"done": study.done, "parts": study.parts, "found": study.found, "workers": app.finals.has_workers()}
    )


@router.get("/shots/{shot_id}/polariser")
async def polariser_map(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    """Where turning a polariser helps: words, and a map to lie over the frame."""

    def made() -> bytes:
        plan = view.without_fault(app.codec.plan(app.shots.open(here.user.studio_id, shot_id).document))
        found, zones = polariser.mapped(app.pictures, plan)
        return view.packed({"words": polariser.words(zones)}, png(polariser.painted(found)))

    return Response(await drawn(request, app, here, made), media_type="application/octet-stream")

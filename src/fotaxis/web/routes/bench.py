"""One shot's page and everything that changes it."""

from __future__ import annotations

import re
from typing import Annotated, Any, Literal
from uuid import UUID

from anyio import to_thread
from fastapi import APIRouter, Depends, Path, Query, Request, UploadFile
from fastapi.responses import JSONResponse, RedirectResponse, Response
from pydantic import BaseModel, ConfigDict, Field

from fotaxis.core.camera.camera import picture_size
from fotaxis.core.frames.readings import READINGS
from fotaxis.core.lights.fixtures import MOST_WAY
from fotaxis.core.lights.gels import GEL
from fotaxis.core.lights.gobos import MASKS
from fotaxis.core.lights.modifiers import MODIFIERS
from fotaxis.core.lights.modifiers.head import MEASURED
from fotaxis.core.materials.catalogue import TABLE_SKIN
from fotaxis.formats import lamp_file, shot_file
from fotaxis.formats.picture_files import png
from fotaxis.services import kit as kits
from fotaxis.services.addable import addable
from fotaxis.services.arriving import arrived
from fotaxis.services.changes import UNKNOWN, Change
from fotaxis.services.framing import reframing
from fotaxis.services.lighting_setups import SETUPS, apply_setup
from fotaxis.services.lighting_tools import measured_loss
from fotaxis.services.picture_keys import setting_key
from fotaxis.services.ports import Role, acting
from fotaxis.services.presets import (
    BOXES,
    CARD_KINDS,
    CORRIDOR_KIND,
    HEAD_KINDS,
    OTHERS,
    QUICK,
    SHAPED,
    SHEET_KINDS,
    new_thing,
    new_things,
)
from fotaxis.services.shots import Opened
from fotaxis.services.wish_sets import SETS
from fotaxis.web import links
from fotaxis.web.auth import AppServices, CurrentUser, Helper, Services, ready
from fotaxis.web.cancellation import drawn
from fotaxis.web.responses import lasting_png, page
from fotaxis.web.views import bench as view
from fotaxis.web.views import product
from fotaxis.web.views.svg_canvas import Fit
from fotaxis.web.views.wish_view import wish_kinds

router = APIRouter(dependencies=[Depends(ready)])

SCHOOL_SIDE = 150
OWN = "kit:"
"""What the name of a kind begins with that is a piece of the studio's kit."""

LARGER_THAN_ANY_FRAME = 4000
"""The canvas begins so large and is shrunk to its place, so that it has its shape before any script has run."""

Pixels = Annotated[int, Query(ge=100, le=2000)]


class ChangeForm(BaseModel):
    """One edit as the page sends it."""

    model_config = ConfigDict(extra="forbid")
    kind: Literal["set", "add", "remove", "move"] = "set"
    path: Annotated[list[Annotated[str, Field(max_length=60)]], Field(min_length=1, max_length=8)]
    value: Any = None
    was: Any = None

    def change(self) -> Change:
        was = self.was if "was" in self.model_fields_set else UNKNOWN
        return Change(kind=self.kind, path=tuple(self.path), value=self.value, was=was)


class ViewForm(BaseModel):
    """What the page shows now: the size of its drawings and what is selected."""

    model_config = ConfigDict(extra="forbid")
    width: Annotated[int, Field(ge=100, le=2000)] = 380
    height: Annotated[int, Field(ge=100, le=2000)] = 330
    selected: Annotated[str, Field(max_length=60)] = ""
    fit: Annotated[list[float], Field(min_length=6, max_length=6)] | None = None
    unit: Literal["cm", "in"] = "cm"
    tape: Annotated[list[Annotated[str, Field(max_length=60)]], Field(min_length=2, max_length=2)] | None = None

    def view(self) -> view.ViewSize:
        fit = Fit.from_numbers(self.fit) if self.fit else None
        return view.ViewSize(
            width=self.width, height=self.height, selected=self.selected, fit=fit, unit=self.unit,
            tape=(self.tape[0], self.tape[1]) if self.tape else None,
        )  # fmt: skip


class ChangesForm(BaseModel):
    model_config = ConfigDict(extra="forbid")
    changes: Annotated[list[ChangeForm], Field(min_length=1, max_length=40)]
    label: Annotated[str, Field(max_length=80)] = "Changed"
    seen: Annotated[int, Field(ge=0, le=2**31 - 1)] | None = None
    view: ViewForm = ViewForm()


class ThingForm(BaseModel):
    model_config = ConfigDict(extra="forbid")
    kind: Annotated[str, Field(max_length=40)]
    view: ViewForm = ViewForm()


def state_answer(app: Services, opened: Opened, form: ViewForm, **more: Any) -> Response:
    acting().answer["more"] = more
    plan = app.codec.plan(opened.document)
    state = view.bench_state(opened, plan, form.view(), app.kit.all(opened.shot.studio_id))
    return JSONResponse({**state, **more})


async def repeated_state(request: Request, answer: dict[str, Any]) -> Response:
    """What is answered to a save that was kept before: where it led, or the shot as it stands now."""
    if "location" in answer:
        return Response(status_code=204, headers={"hx-redirect": str(answer["location"])})
    app, here, shot_id = request.app.state.services, request.state.here, request.path_params.get("shot_id")
    if shot_id is None or "application/json" not in request.headers.get("accept", ""):
        return Response(status_code=204, headers={"hx-refresh": "true"})

    def now() -> Response:
        opened = app.shots.open(here.user.studio_id, UUID(str(shot_id)))
        return state_answer(app, opened, ViewForm(), **dict(answer.get("more") or {}))

    return await to_thread.run_sync(now)


@router.get("/shots/{shot_id}")
def bench_page(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    if not here.user.role.may(Role.ASSISTANT):
        app.shots.open(here.user.studio_id, shot_id)
        return RedirectResponse(links.shot_part(shot_id, "look"), status_code=303)
    opened = app.shots.open(here.user.studio_id, shot_id)
    plan = app.codec.plan(opened.document)
    own = app.kit.all(here.user.studio_id)
    state = view.bench_state(opened, plan, view.ViewSize(), own)
    return page(
        request, "bench.html", here, opened=opened, state=state, choices=view.CHOICES, surfaces=list(TABLE_SKIN),
        product=product.CHOICES, addresses=view.addresses(shot_id),
        others=OTHERS, boxes=[*BOXES], heads=HEAD_KINDS, cards=CARD_KINDS, shaped=[*SHAPED, CORRIDOR_KIND],
        sheets=SHEET_KINDS, gels=[*GEL], schools=SETUPS.values(), quick=QUICK,
        frame_size=picture_size(ratio=plan.camera.crop_ratio, long_side=LARGER_THAN_ANY_FRAME),
        addable=[*kits.addable(own), *addable()], own=own, kit=kits.given(own),
        kinds=MODIFIERS, masks=MASKS, most_way=MOST_WAY, readings=READINGS, wish_kinds=wish_kinds(), wish_sets=SETS.values(),
    )  # fmt: skip


@router.get("/shots/{shot_id}/state")
def state(
    app: AppServices, here: CurrentUser, shot_id: UUID, width: Pixels = 380, height: Pixels = 330,
    selected: Annotated[str, Query(max_length=60)] = "", unit: Literal["cm", "in"] = "cm",
    tape: Annotated[list[Annotated[str, Field(max_length=60)]] | None, Query(min_length=2, max_length=2)] = None,
) -> Response:  # fmt: skip
    opened = app.shots.open(here.user.studio_id, shot_id)
    return state_answer(app, opened, ViewForm(width=width, height=height, selected=selected, unit=unit, tape=tape))


@router.post("/shots/{shot_id}/changes")
def change(app: AppServices, here: Helper, shot_id: UUID, form: ChangesForm) -> Response:
    changes = [c.change() for c in form.changes]
    opened = app.shots.change(here.user.studio_id, shot_id, changes=changes, label=form.label, seen=form.seen)
    return state_answer(app, opened, form.view)


UNEVEN = 0.1
"""A measured lamp farther from round than this is said to be."""


def _stem(kind: str) -> str:
    """What the keys of things of a kind begin with."""
    return "-".join(re.findall("[a-z0-9]+", kind.lower()))


@router.post("/shots/{shot_id}/things")
def add_thing(app: AppServices, here: Helper, shot_id: UUID, form: ThingForm) -> Response:
    piece = app.kit.get(here.user.studio_id, form.kind.removeprefix(OWN)) if form.kind.startswith(OWN) else None

    def made(document: dict[str, Any]) -> list[dict[str, Any]]:
        return [kits.placed(piece)] if piece else new_things(form.kind, document)

    name = piece.name if piece else form.kind
    opened, key = app.shots.add_things(
        here.user.studio_id, shot_id, stem=_stem(name), label=f"Added {name}",
        things_of=lambda document: arrived(form.kind, made(document), document, app.codec),
    )  # fmt: skip
    return state_answer(app, opened, form.view.model_copy(update={"selected": key, "fit": None}), selected=key)


class KeyForm(BaseModel):
    model_config = ConfigDict(extra="forbid")
    key: Annotated[str, Field(max_length=60)]
    view: ViewForm = ViewForm()


@router.post("/shots/{shot_id}/mirror")
def mirror(app: AppServices, here: Helper, shot_id: UUID, form: KeyForm) -> Response:
    """Put a thing's mirror image on the other side; the two stay a pair."""
    opened, key = app.shots.mirror(here.user.studio_id, shot_id, key=form.key)
    return state_answer(app, opened, form.view.model_copy(update={"selected": key, "fit": None}), selected=key)


class FramingForm(BaseModel):
    """fills: part of the frame, None as much as now; focal_length_mm: another lens, None for the same."""

    model_config = ConfigDict(extra="forbid")
    fills: Annotated[float, Field(ge=0.02, le=1, allow_inf_nan=False)] | None = None
    focal_length_mm: Annotated[float, Field(ge=8, le=1200, allow_inf_nan=False)] | None = None
    view: ViewForm = ViewForm()


@router.post("/shots/{shot_id}/reframe")
def reframe(app: AppServices, here: Helper, shot_id: UUID, form: FramingForm) -> Response:
    """Move the camera along the way it looks until the product fills a part of the frame, or as much as before with another lens."""
    opened = app.shots.open(here.user.studio_id, shot_id)
    changes = reframing(app.codec.plan(opened.document), fills=form.fills, focal_length_mm=form.focal_length_mm)
    label = "Reframed" if form.fills is None else f"Framed to {100 * form.fills:.0f} %"
    return state_answer(app, app.shots.change(here.user.studio_id, shot_id, changes=changes, label=label), form.view)


class SheetReadingsForm(BaseModel):
    """A meter held before a sheet and without it: f-numbers, and how far the head stands behind it and the meter before it."""

    model_config = ConfigDict(extra="forbid")
    key: Annotated[str, Field(max_length=60)]
    without_f: Annotated[float, Field(gt=0, le=200, allow_inf_nan=False)]
    with_f: Annotated[float, Field(gt=0, le=200, allow_inf_nan=False)]
    head_cm: Annotated[float, Field(gt=0, le=1000, allow_inf_nan=False)]
    meter_cm: Annotated[float, Field(gt=0, le=2000, allow_inf_nan=False)]
    view: ViewForm = ViewForm()


@router.post("/shots/{shot_id}/sheet-loss")
def sheet_loss(app: AppServices, here: Helper, shot_id: UUID, form: SheetReadingsForm) -> Response:
    """Take a sheet as a pair of one's own meter readings shows it; it then holds wherever it stands."""
    studio, opened = here.user.studio_id, app.shots.open(here.user.studio_id, shot_id)
    loss = measured_loss(
        app.codec.plan(opened.document), form.key, without_f=form.without_f, with_f=form.with_f, head_m=form.head_cm / 100,
        meter_m=form.meter_cm / 100,
    )  # fmt: skip
    change = Change(kind="set", path=("cards", form.key, "loss_stops"), value=round(loss, 2))
    opened = app.shots.change(studio, shot_id, changes=[change], label="Takes")
    return state_answer(
        app, opened, form.view, note=f"As measured it takes {loss:.1f} stops of an even light, wherever it stands."
    )


@router.post("/shots/{shot_id}/school")
def school(app: AppServices, here: Helper, shot_id: UUID, form: KeyForm) -> Response:
    """Begin anew with the lights and cards of a school, fitted to this product, table and camera."""
    opened = app.shots.begin(here.user.studio_id, shot_id, school=form.key)
    return state_answer(app, opened, form.view.model_copy(update={"selected": "", "fit": None}))


@router.post("/shots/{shot_id}/usual-readings")
def usual_readings(app: AppServices, here: Helper, shot_id: UUID, form: ViewForm) -> Response:
    return state_answer(app, app.shots.add_usual_readings(here.user.studio_id, shot_id), form)


@router.get("/shots/{shot_id}/schools/{key}.png")
async def school_picture(
    request: Request,
    app: AppServices,
    here: CurrentUser,
    shot_id: UUID,
    key: Annotated[str, Path(max_length=40)],
    of: Annotated[str, Query(max_length=40)] = "",
) -> Response:
    """What this shot's product looks like with a school's lights, small; of: the setting the page knows, kept by the browser."""

    def made() -> tuple[bytes, bool]:
        document = app.shots.open(here.user.studio_id, shot_id).document
        plan = app.codec.plan(apply_setup(document, key, app.codec))
        small = png(app.pictures.quick(view.without_fault(plan), long_side=SCHOOL_SIDE))
        return small, of == setting_key(document)

    picture, lasts = await drawn(request, app, here, made)
    return lasting_png(picture) if lasts else Response(picture, media_type="image/png")


@router.post("/shots/{shot_id}/lamp")
def import_lamp(app: AppServices, here: Helper, shot_id: UUID, file: UploadFile) -> Response:
    """Add a head whose light is that of an IES LM-63 file."""
    app.shots.open(here.user.studio_id, shot_id)
    lamp = lamp_file.parse(file.file.read(lamp_file.MAX_BYTES + 1))
    thing = {
        **new_thing("LED head"), "name": lamp.name, "head": MEASURED,
        "measured": {"angles_deg": list(lamp.angles_deg), "candela": list(lamp.candela)},
    }  # fmt: skip
    if lamp.diameter_m > 0:
        thing["dish_diameter_cm"] = round(min(lamp.diameter_m, 1.5) * 100, 2)
    opened, key = app.shots.add_things(
        here.user.studio_id,
        shot_id,
        stem="lamp",
        label=f"Added {lamp.name}",
        things_of=lambda document: arrived("LED head", [thing], document, app.codec),
    )
    note = ""
    if lamp.uneven > UNEVEN:
        note = f"This lamp is not round: up to {lamp.uneven:.0%} from the mean about its axis, which is used.".replace(
            "%", " %"
        )
    return state_answer(app, opened, ViewForm(selected=key), selected=key, note=note)


@router.post("/shots/{shot_id}/undo")
def undo(app: AppServices, here: Helper, shot_id: UUID, form: ViewForm) -> Response:
    return state_answer(app, app.shots.undo(here.user.studio_id, shot_id), form)


@router.post("/shots/{shot_id}/redo")
def redo(app: AppServices, here: Helper, shot_id: UUID, form: ViewForm) -> Response:
    return state_answer(app, app.shots.redo(here.user.studio_id, shot_id), form)


@router.get("/shots/{shot_id}/export")
def export(app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    name, data = app.shots.export_file(here.user.studio_id, shot_id)
    return Response(data, media_type="application/json", headers={"content-disposition": view.attachment(name, ".json")})


@router.get(links.SCHEMA)
def schema() -> Response:
    return JSONResponse(shot_file.json_schema())

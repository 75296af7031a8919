"""One shot's page and everything that changes it."""

from __future__ import annotations

from typing import Annotated, Any, Literal
from uuid import UUID

from fastapi import APIRouter, Form, Query, Request, UploadFile
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel, ConfigDict, Field

from fotaxis.core.errors import FormatError
from fotaxis.formats import profile_csv, profile_svg, shot_file
from fotaxis.services.changes import Change
from fotaxis.services.shots import Opened
from fotaxis.web import links
from fotaxis.web.guard import All, Here, Services
from fotaxis.web.pages import page
from fotaxis.web.starts import new_thing
from fotaxis.web.views import bench as view
from fotaxis.web.views.drawing import Fit

router = APIRouter()

Pixels = Annotated[int, Query(ge=100, le=2000)]


class ChangeForm(BaseModel):
    """One edit as the page sends it."""

    model_config = ConfigDict(extra="forbid")
    kind: Literal["set", "add", "remove", "move"] = "set"
    path: Annotated[list[Annotated[str, Field(max_length=60)]], Field(min_length=1, max_length=8)]
    value: Any = None

    def change(self) -> Change:
        return Change(kind=self.kind, path=tuple(self.path), value=self.value)


class ViewForm(BaseModel):
    """What the page shows now: the size of its drawings and what is selected."""

    model_config = ConfigDict(extra="forbid")
    width: Annotated[int, Field(ge=100, le=2000)] = 380
    height: Annotated[int, Field(ge=100, le=2000)] = 330
    selected: Annotated[str, Field(max_length=60)] = ""
    fit: Annotated[list[float], Field(min_length=6, max_length=6)] | None = None

    def view(self) -> view.ViewSize:
        fit = Fit.from_numbers(self.fit) if self.fit else None
        return view.ViewSize(width=self.width, height=self.height, selected=self.selected, fit=fit)


class ChangesForm(BaseModel):
    model_config = ConfigDict(extra="forbid")
    changes: Annotated[list[ChangeForm], Field(min_length=1, max_length=40)]
    label: Annotated[str, Field(max_length=80)] = "Changed"
    view: ViewForm = ViewForm()


class ThingForm(BaseModel):
    model_config = ConfigDict(extra="forbid")
    kind: Annotated[str, Field(max_length=20)]
    view: ViewForm = ViewForm()


def _state(all_: Services, opened: Opened, form: ViewForm, **more: Any) -> Response:
    plan = all_.codec.plan(opened.document)
    state = view.bench_state(opened, plan, form.view())
    return JSONResponse({**state, **more})


@router.get("/shots/{shot_id}")
def bench_page(request: Request, all_: All, here: Here, shot_id: UUID) -> Response:
    opened = all_.shots.open(here.user.studio_id, shot_id)
    plan = all_.codec.plan(opened.document)
    state = view.bench_state(opened, plan, view.ViewSize())
    return page(
        request, "bench.html", here, opened=opened, state=state, choices=view.CHOICES, surfaces=list(shot_file.SURFACES),
        addresses=view.addresses(shot_id),
    )  # fmt: skip


@router.get("/shots/{shot_id}/state")
def state(
    all_: All, here: Here, shot_id: UUID, width: Pixels = 380, height: Pixels = 330,
    selected: Annotated[str, Query(max_length=60)] = "",
) -> Response:  # fmt: skip
    opened = all_.shots.open(here.user.studio_id, shot_id)
    return _state(all_, opened, ViewForm(width=width, height=height, selected=selected))


@router.post("/shots/{shot_id}/changes")
def change(all_: All, here: Here, shot_id: UUID, form: ChangesForm) -> Response:
    changes = [c.change() for c in form.changes]
    return _state(all_, all_.shots.change(here.user.studio_id, shot_id, changes=changes, label=form.label), form.view)


@router.post("/shots/{shot_id}/things")
def add_thing(all_: All, here: Here, shot_id: UUID, form: ThingForm) -> Response:
    thing = new_thing(form.kind)
    list_name = "cards" if "card" in form.kind else "lights"
    opened, key = all_.shots.add_thing(
        here.user.studio_id, shot_id, list_name=list_name, thing=thing, stem=form.kind.replace(" ", "-"),
        label=f"Added {thing['name'].lower()}",
    )  # fmt: skip
    return _state(all_, opened, form.view.model_copy(update={"selected": key, "fit": None}), selected=key)


@router.post("/shots/{shot_id}/undo")
def undo(all_: All, here: Here, shot_id: UUID, form: ViewForm) -> Response:
    return _state(all_, all_.shots.undo(here.user.studio_id, shot_id), form)


@router.post("/shots/{shot_id}/redo")
def redo(all_: All, here: Here, shot_id: UUID, form: ViewForm) -> Response:
    return _state(all_, all_.shots.redo(here.user.studio_id, shot_id), form)


@router.post("/shots/{shot_id}/profile")
def measure_profile(
    all_: All, here: Here, shot_id: UUID, text: Annotated[str, Form(max_length=profile_csv.MAX_BYTES)] = "",
    height_cm: Annotated[float, Form()] = 0.0, file: UploadFile | None = None,
) -> Response:  # fmt: skip
    """Replace the outline from typed pairs, a CSV file, or an SVG path scaled to the product's height."""
    data = file.file.read(profile_svg.MAX_BYTES + 1) if file and file.filename else b""
    if data.lstrip()[:1] in (b"<", b"M", b"m"):
        pairs = profile_svg.parse(data, height_cm=height_cm)
    elif data:
        try:
            pairs = profile_csv.parse(data.decode("utf-8-sig"))
        except UnicodeDecodeError as error:
            raise FormatError("this is neither CSV text nor an SVG file.", place=f"byte {error.start}") from error
    elif text.lstrip()[:1] in ("M", "m", "<"):
        pairs = profile_svg.parse(text.encode(), height_cm=height_cm)
    else:
        pairs = profile_csv.parse(text)
    change = Change(kind="set", path=("subject", "profile"), value=[{"height_cm": h, "diameter_cm": d} for h, d in pairs])
    opened = all_.shots.change(here.user.studio_id, shot_id, changes=[change], label="Measured outline")
    return _state(all_, opened, ViewForm())


@router.get("/shots/{shot_id}/product")
def product_form(request: Request, all_: All, here: Here, shot_id: UUID) -> Response:
    opened = all_.shots.open(here.user.studio_id, shot_id)
    subject = opened.document["subject"]
    outline = profile_csv.text([(p["height_cm"], p["diameter_cm"]) for p in subject["profile"]])
    return page(
        request, "product_form.html", here, subject=subject, outline=outline, shot=opened.shot, bands=view.band_choices()
    )


@router.get("/shots/{shot_id}/export")
def export(all_: All, here: Here, shot_id: UUID) -> Response:
    name, data = all_.shots.export_file(here.user.studio_id, shot_id)
    return Response(data, media_type="application/json", headers={"content-disposition": view.attachment(name, ".json")})


@router.get(links.SCHEMA)
def schema() -> Response:
    return JSONResponse(shot_file.json_schema())

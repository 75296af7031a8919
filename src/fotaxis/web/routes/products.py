"""What is photographed: outlines, shapes, models; the form that shows one product."""

from __future__ import annotations

from typing import Annotated, Any, Literal
from uuid import UUID

from fastapi import APIRouter, Form, Query, Request, UploadFile
from fastapi.responses import JSONResponse, Response

from fotaxis.core.errors import FormatError
from fotaxis.core.keys import PRODUCT_KEY
from fotaxis.formats import artwork_file, artwork_text, mesh_file, photo, profile_csv, profile_svg
from fotaxis.formats.picture_files import png
from fotaxis.services import artworks, outlines
from fotaxis.services.changes import Change
from fotaxis.services.ports import SignIn
from fotaxis.services.presets import new_shape
from fotaxis.web.auth import AppServices, CurrentUser, Helper
from fotaxis.web.cancellation import drawn
from fotaxis.web.concurrency import FILES
from fotaxis.web.responses import lasting_png, page
from fotaxis.web.routes.bench import ViewForm, state_answer
from fotaxis.web.views import product

router = APIRouter()

Key = Annotated[str, Form(max_length=60)]
Part = Annotated[str, Form(max_length=20)]
PartAsked = Annotated[Literal["picture", "foil", "varnish", "emboss"], Query()]
Share = Annotated[float, Query(ge=0, le=1)]
KEPT_OVER_SHAPES = ("name", "key", "body", "x_cm", "z_cm", "turn_deg", "on_riser")


def _path(key: str) -> tuple[str, ...]:
    return ("subject",) if key == PRODUCT_KEY else ("others", key)


@router.post("/shots/{shot_id}/profile")
def measure_profile(
    app: AppServices, here: Helper, shot_id: UUID, text: Annotated[str, Form(max_length=profile_csv.MAX_BYTES)] = "",
    height_cm: Annotated[float, Form()] = 0.0, key: Key = PRODUCT_KEY, file: UploadFile | None = None,
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
    value = [{"height_cm": h, "diameter_cm": d} for h, d in pairs]
    change = Change(kind="set", path=(*_path(key), "profile"), value=value)
    opened = app.shots.change(here.user.studio_id, shot_id, changes=[change], label="Measured outline")
    return state_answer(app, opened, ViewForm())


@router.post("/shots/{shot_id}/shape")
def change_shape(
    app: AppServices, here: Helper, shot_id: UUID, kind: Annotated[str, Form(max_length=20)] = "", key: Key = PRODUCT_KEY
) -> Response:
    """Give a product another shape; its name, place and body stay, its zones go (they belonged to the old shape)."""
    document = app.shots.open(here.user.studio_id, shot_id).document
    before = product.find(document, key)
    return _replace(app, here, shot_id, key, before, new_shape(kind), label=f"Shape of {before['name']}")


@router.post("/shots/{shot_id}/model")
async def import_model(
    app: AppServices, here: Helper, shot_id: UUID, file: UploadFile, unit: Annotated[str, Form(max_length=10)] = "",
    key: Key = PRODUCT_KEY,
) -> Response:  # fmt: skip
    """Take a product's shape from a glTF, OBJ or STL file."""

    def imported() -> Response:
        before = product.find(app.shots.open(here.user.studio_id, shot_id).document, key)
        model = mesh_file.parse(file.file.read(mesh_file.MAX_BYTES + 1), name=file.filename or "", unit=unit)
        return _replace(app, here, shot_id, key, before, model.shape(), label=f"Model for {before['name']}")

    return await FILES.run(imported)


@router.post("/shots/{shot_id}/artwork")
async def put_artwork_on(
    app: AppServices, here: Helper, shot_id: UUID, band: Annotated[int, Form(ge=-1, le=200)] = -1, part: Part = "picture",
    key: Key = PRODUCT_KEY, file: UploadFile | None = None,
) -> Response:  # fmt: skip
    """A picture or mask onto a zone, or off it when no file comes; band -1: onto a new zone that fits the picture."""

    def put() -> Response:
        opened = app.shots.open(here.user.studio_id, shot_id)
        subject = product.find(opened.document, key)
        stands = product.standing(app.codec.plan(opened.document), key)
        data = file.file.read(artwork_file.MAX_BYTES + 1) if file and file.filename else None
        read = artwork_file.read(data) if data is not None else None
        changes, label = artworks.put_on(_path(key), subject, stands, band, part, read)
        answer = app.shots.change(here.user.studio_id, shot_id, changes=changes, label=label)
        return state_answer(app, answer, ViewForm(), note=read.words if read else "")

    return await FILES.run(put)


@router.get("/shots/{shot_id}/artwork.png")
def artwork_picture(
    app: AppServices, here: CurrentUser, shot_id: UUID, band: Annotated[int, Query(ge=0, le=200)], part: PartAsked = "picture",
    key: Annotated[str, Query(max_length=60)] = PRODUCT_KEY,
) -> Response:  # fmt: skip
    """The picture or a mask of a zone's artwork; its address holds a mark of what it shows."""
    bands = product.find(app.shots.open(here.user.studio_id, shot_id).document, key).get("bands", [])
    text = ((bands[band].get("artwork") or {}).get(part) or "") if band < len(bands) else ""
    if not text:
        return Response(status_code=204)
    return lasting_png(png(artwork_text.decode(text, "RGBA" if part == "picture" else "L")))


@router.get("/shots/{shot_id}/on-body")
async def place_on_body(
    request: Request, app: AppServices, here: CurrentUser, shot_id: UUID, x: Share, y: Share,
    key: Annotated[str, Query(max_length=60)] = PRODUCT_KEY,
) -> Response:  # fmt: skip
    """Where on a product a place of the frame lies; empty where something else is seen."""

    def found() -> dict[str, Any]:
        plan = app.codec.plan(app.shots.open(here.user.studio_id, shot_id).document)
        at = app.pictures.on_body(plan, product.standing(plan, key), x=x, y=y)
        return product.body_place(at) if at else {}

    return JSONResponse(await drawn(request, app, here, found))


@router.post("/shots/{shot_id}/outline")
async def outline_from_photograph(
    app: AppServices, here: Helper, shot_id: UUID, file: UploadFile, height_cm: Annotated[float, Form()] = 0.0
) -> Response:
    """The outline that a photograph from the side shows, as a proposal; nothing is changed."""
    app.shots.open(here.user.studio_id, shot_id)
    return await FILES.run(lambda: JSONResponse(proposed(file, height_cm)))


def proposed(file: UploadFile, height_cm: float) -> dict[str, Any]:
    """What an outline in a photograph is, for the page. Raises FormatError."""
    found = outlines.propose(photo.read(file.file.read(photo.MAX_BYTES + 1)).picture, height_cm=height_cm)
    return {
        "points": found.points, "foot": found.foot, "top": found.top, "size": found.size, "words": found.words,
        "error_mm": round(found.error_mm, 2),
    }  # fmt: skip


def _replace(
    app: AppServices, here: SignIn, shot_id: UUID, key: str, before: dict[str, Any], shape: dict[str, Any], *, label: str
) -> Response:
    value = {name: before[name] for name in KEPT_OVER_SHAPES if name in before} | shape
    change = Change(kind="set", path=_path(key), value=value)
    return state_answer(app, app.shots.change(here.user.studio_id, shot_id, changes=[change], label=label), ViewForm())


@router.get("/shots/{shot_id}/product")
def product_form(
    request: Request,
    app: AppServices,
    here: CurrentUser,
    shot_id: UUID,
    key: Annotated[str, Query(max_length=60)] = PRODUCT_KEY,
) -> Response:
    opened = app.shots.open(here.user.studio_id, shot_id)
    form = product.product_form_model(opened.document, app.codec.plan(opened.document), key)
    return page(
        request, "product_form.html", here, form=form, shot=opened.shot, bands=product.band_choices(form.subject),
        choices=product.CHOICES, units=list(mesh_file.UNITS_M),
    )  # fmt: skip

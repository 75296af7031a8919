"""Beginning a shot: what stands before the lens, how large it is and how it is to look, chosen from pictures."""

from __future__ import annotations

from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Form, Query, Request, UploadFile
from fastapi.responses import JSONResponse, Response

from fotaxis.formats import mesh_file, profile_csv, profile_svg
from fotaxis.formats.picture_files import png
from fotaxis.services.beginnings import BEGINNINGS, NO_LIGHTS, begun
from fotaxis.services.framing import USUAL_FILL
from fotaxis.services.lighting_setups import SETUPS
from fotaxis.web import links
from fotaxis.web.auth import AppServices, CurrentUser, Helper, Maker
from fotaxis.web.cancellation import drawn
from fotaxis.web.concurrency import FILES
from fotaxis.web.responses import gone_to, lasting_png, page
from fotaxis.web.routes.products import proposed
from fotaxis.web.views.bench import without_fault

router = APIRouter()

PICTURE_SIDE = 170
Size = Annotated[float, Form(ge=0, le=300, allow_inf_nan=False)]
Key = Annotated[str, Form(max_length=40)]


@router.get("/jobs/{job_id}/new")
def new_shot(request: Request, app: AppServices, here: Maker, job_id: UUID) -> Response:
    job = app.jobs.get(here.user.studio_id, job_id)
    return page(
        request, "new_shot.html", here, job=job, beginnings=BEGINNINGS, setups=SETUPS.values(), none=NO_LIGHTS,
        fills=round(100 * USUAL_FILL), units=list(mesh_file.UNITS_M),
    )  # fmt: skip


@router.post("/jobs/{job_id}/begin")
async def begin(
    app: AppServices, here: Maker, job_id: UUID, shape: Key, name: Annotated[str, Form(max_length=80)] = "", height_cm: Size = 0.0,
    width_cm: Size = 0.0, look: Key = "", fills: Annotated[float, Form(ge=5, le=100)] = 100 * USUAL_FILL,
    outline: Annotated[str, Form(max_length=profile_csv.MAX_BYTES)] = "", unit: Annotated[str, Form(max_length=10)] = "",
    file: UploadFile | None = None,
) -> Response:  # fmt: skip
    """A shot with a thing before the lens, framed and lit; it opens on the bench.

    outline: measured or from a photograph, "height; diameter" a line, in place of the shape's own; file: an outline (CSV, SVG) or a
    model (glTF, OBJ, STL).
    """

    def made() -> Response:
        own = _own(file, height_cm, unit) if file and file.filename else {}
        if outline.strip():
            own["outline"] = profile_csv.parse(outline)
        document = begun(
            shape, app.codec, name=name.strip(), height_cm=height_cm, width_cm=width_cm, look=look, fills=fills / 100, **own
        )
        shot = app.shots.create(here.user.studio_id, job_id, name=document["name"], document=document)
        return gone_to(links.shot(shot.id))

    return await FILES.run(made)


def _own(file: UploadFile, height_cm: float, unit: str) -> dict[str, Any]:
    """The outline or model of a file, for begun. Raises FormatError."""
    name = (file.filename or "").lower()
    if name.endswith((".csv", ".txt", ".svg")):
        data = file.file.read(profile_svg.MAX_BYTES + 1)
        if name.endswith(".svg"):
            return {"outline": profile_svg.parse(data, height_cm=height_cm)}
        return {"outline": profile_csv.parse(data.decode("utf-8-sig", "replace"))}
    model = mesh_file.parse(file.file.read(mesh_file.MAX_BYTES + 1), name=name, unit=unit)
    return {"model": model.shape(), "height_of_model_cm": model.size_cm[1]}


@router.post(links.BEGINNING_OUTLINE)
async def outline_from_photograph(here: Helper, file: UploadFile, height_cm: Size = 0.0) -> Response:
    """The outline that a photograph from the side shows; nothing is kept."""
    return await FILES.run(lambda: JSONResponse(proposed(file, height_cm)))


@router.get(links.BEGINNING_PICTURE)
async def picture(
    request: Request, app: AppServices, here: CurrentUser, shape: Annotated[str, Query(max_length=40)] = "bordeaux",
    look: Annotated[str, Query(max_length=40)] = "",
) -> Response:  # fmt: skip
    """What a beginning looks like, small."""

    def made() -> bytes:
        plan = without_fault(app.codec.plan(begun(shape, app.codec, look=look)))
        return png(app.pictures.quick(plan, long_side=PICTURE_SIDE))

    return lasting_png(await drawn(request, app, here, made))

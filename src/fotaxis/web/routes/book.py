"""The job book, and series: shots found by anything, sets like one, a range that must match."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Query, Request, UploadFile
from fastapi.responses import Response

from fotaxis.core.materials.catalogue import LIQUID
from fotaxis.formats import artwork_file
from fotaxis.services.ports import Refused
from fotaxis.services.series import Member, NewProduct, sizes_of
from fotaxis.web import links
from fotaxis.web.auth import AppServices, CurrentUser, Maker, ready
from fotaxis.web.cancellation import drawn
from fotaxis.web.concurrency import FILES
from fotaxis.web.responses import gone_to, page

router = APIRouter()

Name = Annotated[str, Form(min_length=1, max_length=80)]


@router.get("/book")
def book(
    request: Request, app: AppServices, here: CurrentUser, q: Annotated[str, Query(max_length=200)] = "", like: UUID | None = None
) -> Response:  # fmt: skip
    studio = here.user.studio_id
    found = app.book.like(studio, like) if like else app.book.search(studio, q)
    other = app.shots.open(studio, like).shot if like else None
    return page(request, "book.html", here, found=found, text=q, like=other)


@router.get("/shots/{shot_id}/series", dependencies=[Depends(ready)])
async def series(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    """A pattern and all that follow it, side by side; a follower's page is its pattern's."""
    studio = here.user.studio_id

    def made() -> tuple[UUID, list[Member]]:
        pattern = app.series.pattern_of(studio, shot_id) or shot_id
        return pattern, app.series.members(studio, pattern)

    pattern, members = await drawn(request, app, here, made)
    opened = app.shots.open(studio, pattern)
    height, width = sizes_of(opened.document["subject"])
    return page(
        request, "series.html", here, shot=opened.shot, members=members, height=height, width=width,
        liquids=[*LIQUID], has_liquid=bool(opened.document["subject"].get("liquid")),
    )  # fmt: skip


@router.post("/shots/{shot_id}/series", dependencies=[Depends(ready)])
async def add(
    request: Request, app: AppServices, here: Maker, shot_id: UUID, name: Name, height_cm: Annotated[str, Form(max_length=12)],
    width_cm: Annotated[str, Form(max_length=12)] = "", liquid: Annotated[str, Form(max_length=40)] = "",
    label: UploadFile | None = None,
) -> Response:  # fmt: skip
    """The next of a range: its size, liquid, and the picture of its label."""
    width = _number(width_cm, "The width") if width_cm.strip() else None
    height = _number(height_cm, "The height")
    data = await label.read(artwork_file.MAX_BYTES + 1) if label and label.filename else None
    read = await FILES.run(lambda: artwork_file.read(data)) if data else None
    new = NewProduct(
        name=name.strip(), height_cm=height, width_cm=width, liquid=liquid if liquid in LIQUID else "",
        label={"picture": read.text()} if read else None,
    )  # fmt: skip
    await drawn(request, app, here, lambda: app.series.add(here.user.studio_id, shot_id, new))
    return gone_to(links.shot_part(shot_id, "series"))


@router.post("/shots/{shot_id}/series/leave")
def leave(app: AppServices, here: Maker, shot_id: UUID) -> Response:
    pattern = app.series.pattern_of(here.user.studio_id, shot_id)
    app.series.join(here.user.studio_id, shot_id, pattern_id=None)
    return gone_to(links.shot_part(pattern or shot_id, "series"))


def _number(text: str, what: str) -> float:
    try:
        return float(text.strip().replace(",", "."))
    except ValueError:
        raise Refused(f"{what} is {text.strip()[:12]!r}; write it in centimetres, as 24.5.") from None

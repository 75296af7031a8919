"""The set sheet: one printed page, on the screen and as PDF."""

from __future__ import annotations

from uuid import UUID

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from fotaxis.core.errors import DomainError, NoSolution
from fotaxis.formats.picture_files import jpeg, small_jpeg
from fotaxis.services.briefs import Brief
from fotaxis.services.captures.composite import joined
from fotaxis.services.ports import FinalState, SignIn
from fotaxis.services.reckoning import reckoned_lines
from fotaxis.services.shots import Opened
from fotaxis.services.wishes import wished
from fotaxis.web import links
from fotaxis.web.auth import AppServices, CurrentUser, Services, ready
from fotaxis.web.cancellation import drawn
from fotaxis.web.responses import page, templates
from fotaxis.web.views import bench as bench_view
from fotaxis.web.views import captures as captures_view
from fotaxis.web.views import sheet as view
from fotaxis.web.views import sheet_pdf, wish_view

router = APIRouter(dependencies=[Depends(ready)])

PICTURE_SIDE = 800


@router.get("/shots/{shot_id}/sheet")
def sheet(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    opened = app.shots.open(here.user.studio_id, shot_id)
    plan = app.codec.plan(opened.document)
    wishes = wished(app.codec.wishes(opened.document), app.codec.readings(opened.document))
    brief = Brief.of(app.jobs.get(here.user.studio_id, opened.shot.job_id))
    delicate = wish_view.delicate(app.studies.delicate(here.user.studio_id, opened.document))
    return page(
        request, "sheet.html", here, shot=opened.shot, sheet=view.sheet(opened, plan), brief=brief, wishes=wishes,
        delicate=delicate["rows"], captures=_captures(app, here, opened),
        reckoned=reckoned_lines(opened.document),
    )  # fmt: skip


@router.get("/shots/{shot_id}/sheet.pdf")
async def sheet_pdf_file(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    base = str(request.base_url).rstrip("/")
    data = await drawn(request, app, here, lambda: sheet_pdf_bytes(app, here, shot_id, base))
    name = app.shots.open(here.user.studio_id, shot_id).shot.name
    return Response(
        data,
        media_type="application/pdf",
        headers={"content-disposition": bench_view.attachment(f"{name}, set sheet", ".pdf")},
    )


def sheet_pdf_bytes(app: Services, here: SignIn, shot_id: UUID, base: str) -> bytes:
    """The sheet as PDF; base: the address of the installation, for the code on it."""
    opened = app.shots.open(here.user.studio_id, shot_id)
    plan = app.codec.plan(opened.document)
    made = view.sheet(opened, plan)
    retouch = [
        captures_view.retouch_words(one) for one in opened.document["retouch"] if not one["done"]
    ]  # fmt: skip
    data = {
        "shot": opened.shot, "studio": here.user.studio_name, "sheet": made, "floor": sheet_pdf.inked(made.floor),
        "side": sheet_pdf.inked(made.side), "captures": _captures(app, here, opened), "retouch": retouch,
        "wishes": wished(app.codec.wishes(opened.document), app.codec.readings(opened.document)),
        "reckoned": reckoned_lines(opened.document),
        "code": sheet_pdf.qr(f"{base}{links.shot(shot_id)}"), "pictures": _pictures(app, here, opened),
    }  # fmt: skip
    return sheet_pdf.drawn(templates.env, data)


def _captures(app: Services, here: SignIn, opened: Opened) -> list[sheet_pdf.CaptureLine]:
    if not opened.document["captures"]:
        return []
    try:
        listed = app.shooting.list_of(here.user.studio_id, opened.shot.id)
    except NoSolution:
        return []
    return sheet_pdf.capture_lines(opened.document, listed)


def _pictures(app: Services, here: SignIn, opened: Opened) -> list[dict[str, str]]:
    """The predicted composite or frame, and the newest merge or final where there is one."""
    studio, document = here.user.studio_id, opened.document
    found: list[tuple[str, bytes, str]] = []
    try:
        if document["captures"]:
            composite = joined(document, app.codec, app.pictures, long_side=PICTURE_SIDE)
            found.append(("Predicted composite", jpeg(composite.developed()), "image/jpeg"))
        else:
            plan = bench_view.without_fault(app.codec.plan(document))
            picture, fine = app.pictures.at_once(plan, long_side=PICTURE_SIDE)
            found.append((f"Predicted frame{'' if fine else ', quick'}", jpeg(picture), "image/jpeg"))
    except DomainError:
        pass
    merged = [one for one in app.merges.of_shot(studio, opened.shot.id) if one.state is FinalState.DONE]
    finals = [one for one in app.finals.of_shot(studio, opened.shot.id) if one.state is FinalState.DONE]
    if merged:
        whole = app.merges.file(studio, merged[0].id, "jpg")[1]
        found.append(("Merged from the frames", small_jpeg(whole, PICTURE_SIDE), "image/jpeg"))
    elif finals:
        found.append(("Final", app.finals.file(studio, finals[0].id, "png")[1], "image/png"))
    return sheet_pdf.pictures(found)

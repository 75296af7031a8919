"""The set sheet: one printed page."""

from __future__ import annotations

from uuid import UUID

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from fotaxis.services.briefs import Brief
from fotaxis.services.wishes import wished
from fotaxis.web.auth import AppServices, CurrentUser, ready
from fotaxis.web.responses import page
from fotaxis.web.views import sheet as view
from fotaxis.web.views import wish_view

router = APIRouter(dependencies=[Depends(ready)])


@router.get("/shots/{shot_id}/sheet")
def sheet(request: Request, app: AppServices, here: CurrentUser, shot_id: UUID) -> Response:
    opened = app.shots.open(here.user.studio_id, shot_id)
    plan = app.codec.plan(opened.document)
    wishes = wished(app.codec.wishes(opened.document), app.codec.readings(opened.document))
    brief = Brief.of(app.jobs.get(here.user.studio_id, opened.shot.job_id))
    delicate = wish_view.delicate(app.studies.delicate(here.user.studio_id, opened.document))
    return page(
        request, "sheet.html", here, shot=opened.shot, sheet=view.sheet(opened, plan), brief=brief, wishes=wishes,
        delicate=delicate["rows"],
    )  # fmt: skip

"""Jobs and the list of a job's shots."""

from __future__ import annotations

from datetime import date
from itertools import zip_longest
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Request, UploadFile
from fastapi.responses import Response
from pydantic import Field

from fotaxis.formats.shot_file import MAX_BYTES
from fotaxis.services.briefs import MOST_DELIVERABLES, MOST_WORDS, Brief, deliverable
from fotaxis.services.presets import STARTS, start_document
from fotaxis.web import links
from fotaxis.web.auth import AppServices, CurrentUser, Maker
from fotaxis.web.responses import gone_to, page

router = APIRouter()

PICTURES = 5
"""So many shots of a job are shown beside its name."""

Name = Annotated[str, Form(max_length=200)]
Words = Annotated[str, Form(max_length=MOST_WORDS)]
Columns = Annotated[list[Annotated[str, Field(max_length=80)]] | None, Form(max_length=MOST_DELIVERABLES + 1)]


@router.get(links.HOME)
def jobs_page(request: Request, app: AppServices, here: CurrentUser, archived: bool = False) -> Response:
    jobs = app.jobs.all(here.user.studio_id, archived=archived)
    cards = [(job, Brief.of(job), app.shots.in_job(here.user.studio_id, job.id, archived=False)) for job in jobs]
    return page(
        request, "jobs.html", here, cards=cards, archived=archived, pictures=PICTURES, today=date.today().isoformat()
    )


@router.post(links.HOME)
def create_job(app: AppServices, here: Maker, name: Name = "") -> Response:
    return gone_to(links.job(app.jobs.create(here.user.studio_id, name=name).id))


@router.get("/jobs/{job_id}")
def job_page(request: Request, app: AppServices, here: CurrentUser, job_id: UUID, archived: bool = False) -> Response:
    job = app.jobs.get(here.user.studio_id, job_id)
    shots = app.shots.in_job(here.user.studio_id, job_id, archived=archived)
    brief = Brief.of(job)
    return page(request, "job.html", here, job=job, shots=shots, archived=archived, starts=STARTS, brief=brief)


@router.post("/jobs/{job_id}/brief")
def keep_brief(
    app: AppServices, here: Maker, job_id: UUID, purpose: Words = "", looks: Words = "", manner: Words = "", rehearsal: Name = "",
    visit: Name = "", name: Columns = None, ratio: Columns = None, long_side: Columns = None, count: Columns = None,
) -> Response:  # fmt: skip
    """What the job is to give; deliverables come as columns of equal length, rows without a name are none."""
    rows = zip_longest(name or [], ratio or [], long_side or [], count or [], fillvalue="")
    made = [deliverable(*row) for row in rows if row[0].strip()]
    app.briefs.keep(
        here.user.studio_id,
        job_id,
        purpose=purpose,
        looks=looks,
        manner=manner,
        rehearsal=rehearsal,
        visit=visit,
        deliverables=made,
    )
    return gone_to(links.job(job_id))


@router.post("/jobs/{job_id}/rename")
def rename_job(app: AppServices, here: Maker, job_id: UUID, name: Name = "") -> Response:
    app.jobs.rename(here.user.studio_id, job_id, name=name)
    return gone_to(links.job(job_id))


@router.post("/jobs/{job_id}/archive")
def archive_job(app: AppServices, here: Maker, job_id: UUID) -> Response:
    app.jobs.archive(here.user.studio_id, job_id, archived=True)
    return gone_to(links.HOME)


@router.post("/jobs/{job_id}/restore")
def restore_job(app: AppServices, here: Maker, job_id: UUID) -> Response:
    app.jobs.archive(here.user.studio_id, job_id, archived=False)
    return gone_to(links.job(job_id))


@router.post("/jobs/{job_id}/shots")
def create_shot(app: AppServices, here: Maker, job_id: UUID, name: Name = "", start: Name = "bottle") -> Response:
    shot = app.shots.create(here.user.studio_id, job_id, name=name, document=start_document(start))
    return gone_to(links.shot(shot.id))


@router.post("/jobs/{job_id}/import")
def import_shot(app: AppServices, here: Maker, job_id: UUID, file: UploadFile) -> Response:
    shot = app.shots.import_file(here.user.studio_id, job_id, file.file.read(MAX_BYTES + 1))
    return gone_to(links.shot(shot.id))


@router.post("/shots/{shot_id}/duplicate")
def duplicate_shot(app: AppServices, here: Maker, shot_id: UUID) -> Response:
    shot = app.shots.duplicate(here.user.studio_id, shot_id)
    return gone_to(links.job(shot.job_id))


@router.post("/shots/{shot_id}/rename")
def rename_shot(app: AppServices, here: Maker, shot_id: UUID, name: Name = "") -> Response:
    app.shots.rename(here.user.studio_id, shot_id, name=name)
    return gone_to(links.job(app.shots.open(here.user.studio_id, shot_id).shot.job_id))


@router.post("/shots/{shot_id}/archive")
def archive_shot(app: AppServices, here: Maker, shot_id: UUID) -> Response:
    app.shots.archive(here.user.studio_id, shot_id, archived=True)
    return gone_to(links.job(app.shots.open(here.user.studio_id, shot_id).shot.job_id))


@router.post("/shots/{shot_id}/restore")
def restore_shot(app: AppServices, here: Maker, shot_id: UUID) -> Response:
    app.shots.archive(here.user.studio_id, shot_id, archived=False)
    return gone_to(links.job(app.shots.open(here.user.studio_id, shot_id).shot.job_id))


# removed, and brought back while there is time


@router.post("/jobs/{job_id}/remove")
def remove_job(app: AppServices, here: Maker, job_id: UUID) -> Response:
    app.jobs.remove(here.user.studio_id, job_id)
    return gone_to(links.HOME)


@router.post("/jobs/{job_id}/bring-back")
def bring_back_job(app: AppServices, here: Maker, job_id: UUID) -> Response:
    return gone_to(links.job(app.jobs.bring_back(here.user.studio_id, job_id).id))


@router.post("/shots/{shot_id}/remove")
def remove_shot(app: AppServices, here: Maker, shot_id: UUID) -> Response:
    return gone_to(links.job(app.shots.remove(here.user.studio_id, shot_id).job_id))


@router.post("/shots/{shot_id}/bring-back")
def bring_back_shot(app: AppServices, here: Maker, shot_id: UUID) -> Response:
    return gone_to(links.job(app.shots.bring_back(here.user.studio_id, shot_id).job_id))

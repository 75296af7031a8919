"""Jobs and the list of a job's shots."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Request, UploadFile
from fastapi.responses import Response

from fotaxis.formats.shot_file import MAX_BYTES
from fotaxis.services.presets import STARTS, start_document
from fotaxis.web import links
from fotaxis.web.auth import All, CurrentUser, Maker
from fotaxis.web.responses import gone_to, page

router = APIRouter()

Name = Annotated[str, Form(max_length=200)]


@router.get(links.HOME)
def jobs_page(request: Request, all_: All, here: CurrentUser, archived: bool = False) -> Response:
    jobs = all_.jobs.all(here.user.studio_id, archived=archived)
    return page(request, "jobs.html", here, jobs=jobs, archived=archived)


@router.post(links.HOME)
def create_job(all_: All, here: Maker, name: Name = "") -> Response:
    return gone_to(links.job(all_.jobs.create(here.user.studio_id, name=name).id))


@router.get("/jobs/{job_id}")
def job_page(request: Request, all_: All, here: CurrentUser, job_id: UUID, archived: bool = False) -> Response:
    job = all_.jobs.get(here.user.studio_id, job_id)
    shots = all_.shots.in_job(here.user.studio_id, job_id, archived=archived)
    return page(request, "job.html", here, job=job, shots=shots, archived=archived, starts=STARTS)


@router.post("/jobs/{job_id}/rename")
def rename_job(all_: All, here: Maker, job_id: UUID, name: Name = "") -> Response:
    all_.jobs.rename(here.user.studio_id, job_id, name=name)
    return gone_to(links.job(job_id))


@router.post("/jobs/{job_id}/archive")
def archive_job(all_: All, here: Maker, job_id: UUID) -> Response:
    all_.jobs.archive(here.user.studio_id, job_id, archived=True)
    return gone_to(links.HOME)


@router.post("/jobs/{job_id}/restore")
def restore_job(all_: All, here: Maker, job_id: UUID) -> Response:
    all_.jobs.archive(here.user.studio_id, job_id, archived=False)
    return gone_to(links.job(job_id))


@router.post("/jobs/{job_id}/shots")
def create_shot(all_: All, here: Maker, job_id: UUID, name: Name = "", start: Name = "bottle") -> Response:
    shot = all_.shots.create(here.user.studio_id, job_id, name=name, document=start_document(start))
    return gone_to(links.shot(shot.id))


@router.post("/jobs/{job_id}/import")
def import_shot(all_: All, here: Maker, job_id: UUID, file: UploadFile) -> Response:
    shot = all_.shots.import_file(here.user.studio_id, job_id, file.file.read(MAX_BYTES + 1))
    return gone_to(links.shot(shot.id))


@router.post("/shots/{shot_id}/duplicate")
def duplicate_shot(all_: All, here: Maker, shot_id: UUID) -> Response:
    shot = all_.shots.duplicate(here.user.studio_id, shot_id)
    return gone_to(links.job(shot.job_id))


@router.post("/shots/{shot_id}/rename")
def rename_shot(all_: All, here: Maker, shot_id: UUID, name: Name = "") -> Response:
    all_.shots.rename(here.user.studio_id, shot_id, name=name)
    return gone_to(links.job(all_.shots.open(here.user.studio_id, shot_id).shot.job_id))


@router.post("/shots/{shot_id}/archive")
def archive_shot(all_: All, here: Maker, shot_id: UUID) -> Response:
    all_.shots.archive(here.user.studio_id, shot_id, archived=True)
    return gone_to(links.job(all_.shots.open(here.user.studio_id, shot_id).shot.job_id))


@router.post("/shots/{shot_id}/restore")
def restore_shot(all_: All, here: Maker, shot_id: UUID) -> Response:
    all_.shots.archive(here.user.studio_id, shot_id, archived=False)
    return gone_to(links.job(all_.shots.open(here.user.studio_id, shot_id).shot.job_id))


# removed, and brought back while there is time


@router.post("/jobs/{job_id}/remove")
def remove_job(all_: All, here: Maker, job_id: UUID) -> Response:
    all_.jobs.remove(here.user.studio_id, job_id)
    return gone_to(links.HOME)


@router.post("/jobs/{job_id}/bring-back")
def bring_back_job(all_: All, here: Maker, job_id: UUID) -> Response:
    return gone_to(links.job(all_.jobs.bring_back(here.user.studio_id, job_id).id))


@router.post("/shots/{shot_id}/remove")
def remove_shot(all_: All, here: Maker, shot_id: UUID) -> Response:
    return gone_to(links.job(all_.shots.remove(here.user.studio_id, shot_id).job_id))


@router.post("/shots/{shot_id}/bring-back")
def bring_back_shot(all_: All, here: Maker, shot_id: UUID) -> Response:
    return gone_to(links.job(all_.shots.bring_back(here.user.studio_id, shot_id).job_id))

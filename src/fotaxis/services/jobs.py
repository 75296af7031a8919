"""Jobs: what shots belong to. A removed one can be brought back for a while."""

from __future__ import annotations

from uuid import UUID

from fotaxis.services.ports import Clock, Database, Job, Refused
from fotaxis.services.sanitise import keepable

MOST_NAME = 80


def checked_name(name: str, *, what: str) -> str:
    """A trimmed name of 1 to 80 characters. Raises Refused otherwise."""
    name = " ".join(keepable(name).split())
    if not 1 <= len(name) <= MOST_NAME:
        raise Refused(f"Give {what} a name of 1 to {MOST_NAME} characters.")
    return name


class Jobs:
    """List, create, rename, archive, remove."""

    def __init__(self, database: Database, clock: Clock) -> None:
        self._database, self._clock = database, clock

    def all(self, studio_id: UUID, *, archived: bool = False) -> list[Job]:
        with self._database.transaction() as repo:
            return repo.jobs(studio_id, archived=archived)

    def get(self, studio_id: UUID, job_id: UUID) -> Job:
        with self._database.transaction() as repo:
            return repo.job(studio_id, job_id)

    def create(self, studio_id: UUID, *, name: str) -> Job:
        with self._database.transaction() as repo:
            job = repo.add_job(studio_id, name=checked_name(name, what="the job"))
            repo.add_event(studio_id, kind="job", words=f"Created the job {job.name}")
            return job

    def rename(self, studio_id: UUID, job_id: UUID, *, name: str) -> None:
        with self._database.transaction() as repo:
            before = repo.job(studio_id, job_id).name
            repo.rename_job(studio_id, job_id, name=checked_name(name, what="the job"))
            repo.add_event(studio_id, kind="job", words=f"Renamed the job {before} to {name.strip()}")

    def archive(self, studio_id: UUID, job_id: UUID, *, archived: bool) -> None:
        with self._database.transaction() as repo:
            repo.archive_job(studio_id, job_id, archived=archived)
            words = f"{'Archived' if archived else 'Restored'} the job {repo.job(studio_id, job_id).name}"
            repo.add_event(studio_id, kind="job", words=words)

    def remove(self, studio_id: UUID, job_id: UUID) -> None:
        """Out of sight with all its shots; deleted for good when the grace period is over."""
        with self._database.transaction() as repo:
            repo.job(studio_id, job_id)
            job = repo.delete_job(studio_id, job_id, at=self._clock())
            repo.add_event(studio_id, kind="job", words=f"Removed the job {job.name}")

    def bring_back(self, studio_id: UUID, job_id: UUID) -> Job:
        """Undo a removal. Raises NotFound when it is gone for good."""
        with self._database.transaction() as repo:
            job = repo.delete_job(studio_id, job_id, at=None)
            repo.add_event(studio_id, kind="job", words=f"Brought back the job {job.name}")
            return job

    def removed(self, studio_id: UUID) -> list[Job]:
        with self._database.transaction() as repo:
            return repo.deleted_jobs(studio_id)

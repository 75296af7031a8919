"""Jobs: what shots belong to."""

from __future__ import annotations

from uuid import UUID

from fotaxis.services.ports import Database, Job, Refused
from fotaxis.services.text import keepable

MOST_NAME = 80


def checked_name(name: str, *, what: str) -> str:
    """A trimmed name of 1 to 80 characters. Raises Refused otherwise."""
    name = " ".join(keepable(name).split())
    if not 1 <= len(name) <= MOST_NAME:
        raise Refused(f"Give {what} a name of 1 to {MOST_NAME} characters.")
    return name


class Jobs:
    """List, create, rename, archive."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self, studio_id: UUID, *, archived: bool = False) -> list[Job]:
        with self._database.transaction() as repo:
            return repo.jobs(studio_id, archived=archived)

    def get(self, studio_id: UUID, job_id: UUID) -> Job:
        with self._database.transaction() as repo:
            return repo.job(studio_id, job_id)

    def create(self, studio_id: UUID, *, name: str) -> Job:
        with self._database.transaction() as repo:
            return repo.add_job(studio_id, name=checked_name(name, what="the job"))

    def rename(self, studio_id: UUID, job_id: UUID, *, name: str) -> None:
        with self._database.transaction() as repo:
            repo.rename_job(studio_id, job_id, name=checked_name(name, what="the job"))

    def archive(self, studio_id: UUID, job_id: UUID, *, archived: bool) -> None:
        with self._database.transaction() as repo:
            repo.archive_job(studio_id, job_id, archived=archived)

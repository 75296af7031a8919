"""Jobs and shots with every state they have been in, links for looking, small pictures."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import defer

from fotaxis.services.ports import Document, Job, NotFound, Revision, Shot, ShotState, ViewLink, acting
from fotaxis.storage.rows import Rows
from fotaxis.storage.tables import (
    JobRow,
    LastPictureRow,
    RevisionRow,
    ShotRow,
    StudioRow,
    ThumbnailRow,
    ViewLinkRow,
    now,
)

LARGEST_NUMBER = 2**31 - 1


class JobTables(Rows):
    """services.ports.JobRows."""

    def jobs(self, studio_id: UUID, *, archived: bool) -> list[Job]:
        count = (
            select(func.count())
            .select_from(ShotRow)
            .where(ShotRow.job_id == JobRow.id, ShotRow.archived_at.is_(None), ShotRow.deleted_at.is_(None))
            .scalar_subquery()
        )
        state = JobRow.archived_at.is_not(None) if archived else JobRow.archived_at.is_(None)
        found = self._s.execute(
            select(JobRow, count)
            .where(JobRow.studio_id == studio_id, JobRow.deleted_at.is_(None), state)
            .order_by(JobRow.created_at.desc())
        )
        return [self._job(row, shots) for row, shots in found]

    @staticmethod
    def _job(row: JobRow, shots: int = 0) -> Job:
        return Job(
            id=row.id, studio_id=row.studio_id, name=row.name, archived=row.archived_at is not None,
            created_at=row.created_at, shot_count=shots, deleted_at=row.deleted_at, brief=row.brief or {},
        )  # fmt: skip

    def job(self, studio_id: UUID, job_id: UUID) -> Job:
        return self._job(self._own(JobRow, studio_id, job_id))

    def add_job(self, studio_id: UUID, *, name: str) -> Job:
        row = JobRow(studio_id=studio_id, name=name)
        self._s.add(row)
        self._s.flush()
        return self._job(row)

    def set_brief(self, studio_id: UUID, job_id: UUID, *, brief: dict[str, Any]) -> None:
        self._own(JobRow, studio_id, job_id).brief = brief

    def rename_job(self, studio_id: UUID, job_id: UUID, *, name: str) -> None:
        self._own(JobRow, studio_id, job_id).name = name

    def archive_job(self, studio_id: UUID, job_id: UUID, *, archived: bool) -> None:
        self._own(JobRow, studio_id, job_id).archived_at = now() if archived else None

    def delete_job(self, studio_id: UUID, job_id: UUID, *, at: datetime | None) -> Job:
        row = self._own(JobRow, studio_id, job_id, removed=True)
        row.deleted_at = at
        return self._job(row)

    def deleted_jobs(self, studio_id: UUID) -> list[Job]:
        rows = self._s.scalars(
            select(JobRow)
            .where(JobRow.studio_id == studio_id, JobRow.deleted_at.is_not(None))
            .order_by(JobRow.deleted_at.desc())
        )
        return [self._job(row) for row in rows]


class ShotTables(Rows):
    """services.ports.ShotRows."""

    def _shot(self, row: ShotRow, job_name: str) -> Shot:
        return Shot(
            id=row.id, studio_id=row.studio_id, job_id=row.job_id, job_name=job_name, name=row.name,
            archived=row.archived_at is not None, revision=row.revision, newest_revision=row.newest_revision,
            updated_at=row.updated_at, window=row.window, deleted_at=row.deleted_at,
        )  # fmt: skip

    def shots(self, studio_id: UUID, job_id: UUID, *, archived: bool) -> list[Shot]:
        job = self._own(JobRow, studio_id, job_id)
        state = ShotRow.archived_at.is_not(None) if archived else ShotRow.archived_at.is_(None)
        rows = self._s.scalars(
            select(ShotRow)
            .where(ShotRow.studio_id == studio_id, ShotRow.job_id == job_id, ShotRow.deleted_at.is_(None), state)
            .order_by(ShotRow.created_at)
        )
        return [self._shot(row, job.name) for row in rows]

    def shot(self, studio_id: UUID, shot_id: UUID, *, lock: bool = False) -> Shot:
        row = self._own(ShotRow, studio_id, shot_id, lock=lock)
        return self._shot(row, self._own(JobRow, studio_id, row.job_id).name)

    def add_shot(self, studio_id: UUID, job_id: UUID, *, name: str, document: Document, label: str) -> Shot:
        job = self._own(JobRow, studio_id, job_id)
        row = ShotRow(studio_id=studio_id, job_id=job_id, name=name, revision=1, newest_revision=1, window=acting().window)
        self._s.add(row)
        self._s.flush()
        self._s.add(self._revision_of(row, 1, None, label, document))
        self._s.flush()
        return self._shot(row, job.name)

    @staticmethod
    def _revision_of(row: ShotRow, number: int, parent: int | None, label: str, document: Document) -> RevisionRow:
        by = acting()
        return RevisionRow(
            studio_id=row.studio_id, shot_id=row.id, number=number, parent=parent, label=label, document=document,
            user_id=by.user_id, who=by.name, window=by.window,
        )  # fmt: skip

    def rename_shot(self, studio_id: UUID, shot_id: UUID, *, name: str) -> None:
        self._own(ShotRow, studio_id, shot_id).name = name

    def archive_shot(self, studio_id: UUID, shot_id: UUID, *, archived: bool) -> None:
        self._own(ShotRow, studio_id, shot_id).archived_at = now() if archived else None
        if archived:
            self.remove_view_links(studio_id, shot_id)

    def delete_shot(self, studio_id: UUID, shot_id: UUID, *, at: datetime | None) -> Shot:
        row = self._own(ShotRow, studio_id, shot_id, removed=True)
        row.deleted_at = at
        if at is not None:
            self._drop_links(studio_id, shot_id)
        return self._shot(row, self._own(JobRow, studio_id, row.job_id, removed=True).name)

    def deleted_shots(self, studio_id: UUID) -> list[Shot]:
        rows = self._s.execute(
            select(ShotRow, JobRow.name)
            .join(JobRow, JobRow.id == ShotRow.job_id)
            .where(ShotRow.studio_id == studio_id, ShotRow.deleted_at.is_not(None), JobRow.deleted_at.is_(None))
            .order_by(ShotRow.deleted_at.desc())
        )
        return [self._shot(row, name) for row, name in rows]

    def _revision_rows(self, studio_id: UUID, shot_id: UUID) -> Any:
        return select(RevisionRow).where(RevisionRow.studio_id == studio_id, RevisionRow.shot_id == shot_id)

    def revision(self, studio_id: UUID, shot_id: UUID, number: int) -> Revision:
        row = self._revision_row(studio_id, shot_id, number)
        return Revision(state=self._state(row), document=row.document)

    def _revision_row(self, studio_id: UUID, shot_id: UUID, number: int) -> RevisionRow:
        if not 1 <= number <= LARGEST_NUMBER:
            raise NotFound
        row: RevisionRow | None = self._s.scalar(self._revision_rows(studio_id, shot_id).where(RevisionRow.number == number))
        if row is None:
            raise NotFound
        return row

    @staticmethod
    def _state(row: RevisionRow) -> ShotState:
        return ShotState(
            number=row.number, parent=row.parent, label=row.label, pin=row.pin or "", created_at=row.created_at, who=row.who,
            window=row.window,
        )  # fmt: skip

    def states(self, studio_id: UUID, shot_id: UUID) -> list[ShotState]:
        return self.states_since(studio_id, shot_id, 0)

    def states_since(self, studio_id: UUID, shot_id: UUID, number: int) -> list[ShotState]:
        rows = self._revision_rows(studio_id, shot_id).where(RevisionRow.number > number).order_by(RevisionRow.number)
        return [self._state(row) for row in self._s.scalars(rows.options(defer(RevisionRow.document)))]

    def state_labels(self, studio_id: UUID, shot_id: UUID, number: int) -> tuple[str, int | None, str]:
        """Label of a state, number of the newest one that grew from it (None without any), and that one's label."""
        own = self._s.scalar(
            select(RevisionRow.label).where(
                RevisionRow.studio_id == studio_id, RevisionRow.shot_id == shot_id, RevisionRow.number == number
            )
        )
        after = self._s.execute(
            select(RevisionRow.number, RevisionRow.label)
            .where(RevisionRow.studio_id == studio_id, RevisionRow.shot_id == shot_id, RevisionRow.parent == number)
            .order_by(RevisionRow.number.desc())
            .limit(1)
        ).first()
        return own or "", after[0] if after else None, after[1] if after else ""

    def add_revision(self, studio_id: UUID, shot_id: UUID, *, after: int, label: str, document: Document) -> int:
        row = self._own(ShotRow, studio_id, shot_id)
        number = row.newest_revision + 1
        self._s.add(self._revision_of(row, number, after, label, document))
        row.newest_revision = number
        self._stands_at(row, number)
        self._s.flush()
        return number

    def _stands_at(self, row: ShotRow, number: int) -> None:
        row.revision, row.updated_at, row.window = number, now(), acting().window
        self.tell(kind="shot", shot=row.id, revision=number)

    def pin_revision(self, studio_id: UUID, shot_id: UUID, number: int, *, name: str) -> None:
        self._revision_row(studio_id, shot_id, number).pin = name or None

    def thin_states(self, studio_id: UUID, shot_id: UUID, *, keep: int) -> int:
        """Take away the oldest states that are neither pinned nor the present one, nor the first, until `keep` are left; how many
        went. What grew from one that went grew from what that grew from."""
        shot = self._own(ShotRow, studio_id, shot_id, lock=True)
        rows = list(
            self._s.scalars(
                self._revision_rows(studio_id, shot_id).order_by(RevisionRow.number).options(defer(RevisionRow.document))
            )
        )
        gone = [r for r in rows[1:] if not r.pin and r.number != shot.revision][: max(0, len(rows) - keep)]
        parents = {r.number: r.parent for r in gone}
        for row in rows:
            while row.parent in parents:
                row.parent = parents[row.parent]
        self._s.flush()
        self._s.execute(delete(RevisionRow).where(RevisionRow.id.in_([r.id for r in gone])))
        return len(gone)

    def go_to_revision(self, studio_id: UUID, shot_id: UUID, number: int) -> None:
        self._stands_at(self._own(ShotRow, studio_id, shot_id), number)

    # links for looking

    def add_view_link(self, studio_id: UUID, shot_id: UUID, *, token_hash: str, expires_at: datetime) -> None:
        self._own(ShotRow, studio_id, shot_id)
        self._s.add(
            ViewLinkRow(
                token_hash=token_hash, studio_id=studio_id, shot_id=shot_id, made_by=acting().name, expires_at=expires_at
            )
        )

    def view_link(self, token_hash: str, *, now: datetime, visit: bool) -> tuple[UUID, UUID]:
        query = (
            select(ViewLinkRow)
            .join(ShotRow, ShotRow.id == ViewLinkRow.shot_id)
            .join(JobRow, JobRow.id == ShotRow.job_id)
            .join(StudioRow, StudioRow.id == ShotRow.studio_id)
            .where(
                ViewLinkRow.token_hash == token_hash, ViewLinkRow.expires_at > now, ShotRow.archived_at.is_(None),
                ShotRow.deleted_at.is_(None), JobRow.deleted_at.is_(None), JobRow.archived_at.is_(None),
                StudioRow.deleted_at.is_(None),
            )
        )  # fmt: skip
        row = self._s.scalar(query)
        if row is None:
            raise NotFound
        if visit:
            self._s.execute(
                update(ViewLinkRow)
                .where(ViewLinkRow.token_hash == token_hash)
                .values(visits=ViewLinkRow.visits + 1, last_visit_at=now)
            )
        return row.studio_id, row.shot_id

    def view_links(self, studio_id: UUID, shot_id: UUID, *, now: datetime) -> list[ViewLink]:
        self._own(ShotRow, studio_id, shot_id)
        rows = self._s.scalars(
            select(ViewLinkRow)
            .where(ViewLinkRow.studio_id == studio_id, ViewLinkRow.shot_id == shot_id, ViewLinkRow.expires_at > now)
            .order_by(ViewLinkRow.created_at)
        )
        return [
            ViewLink(
                id=r.id, made_by=r.made_by, created_at=r.created_at, expires_at=r.expires_at, visits=r.visits,
                last_visit_at=r.last_visit_at,
            )
            for r in rows
        ]  # fmt: skip

    def remove_view_links(self, studio_id: UUID, shot_id: UUID, *, only: UUID | None = None) -> None:
        self._own(ShotRow, studio_id, shot_id)
        self._drop_links(studio_id, shot_id, only=only)

    def _drop_links(self, studio_id: UUID, shot_id: UUID, *, only: UUID | None = None) -> None:
        query = delete(ViewLinkRow).where(ViewLinkRow.studio_id == studio_id, ViewLinkRow.shot_id == shot_id)
        self._s.execute(query if only is None else query.where(ViewLinkRow.id == only))

    # small pictures

    def thumbnail(self, studio_id: UUID, shot_id: UUID) -> tuple[int, bytes] | None:
        row = self._s.scalar(
            select(ThumbnailRow).where(ThumbnailRow.shot_id == shot_id, ThumbnailRow.studio_id == studio_id)
        )
        return (row.revision, row.picture) if row else None

    def keep_thumbnail(self, studio_id: UUID, shot_id: UUID, *, revision: int, picture: bytes) -> None:
        self._own(ShotRow, studio_id, shot_id, lock=True)
        self._s.merge(ThumbnailRow(shot_id=shot_id, studio_id=studio_id, revision=revision, picture=picture))

    def last_picture(self, studio_id: UUID, shot_id: UUID) -> tuple[str, bytes] | None:
        row = self._s.scalar(
            select(LastPictureRow).where(LastPictureRow.shot_id == shot_id, LastPictureRow.studio_id == studio_id)
        )
        return (row.key, row.data) if row else None

    def keep_last_picture(self, studio_id: UUID, shot_id: UUID, *, key: str, data: bytes) -> None:
        self._own(ShotRow, studio_id, shot_id, lock=True)
        self._s.merge(LastPictureRow(shot_id=shot_id, studio_id=studio_id, key=key, data=data))

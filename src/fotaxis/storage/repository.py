"""services.ports.Repository over one SQLAlchemy session."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime
from typing import Any, TypeVar
from uuid import UUID

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session, defer

from fotaxis.core.frames.photograph import PhotoExposure, Photograph
from fotaxis.services.ports import (
    Document,
    Final,
    FinalState,
    Frame,
    Job,
    NotFound,
    Revision,
    Shot,
    ShotState,
    SignIn,
    User,
)
from fotaxis.storage.tables import (
    FailureRow,
    FinalFileRow,
    FinalRow,
    FrameFileRow,
    FrameRow,
    JobRow,
    RevisionRow,
    ShotRow,
    SignInRow,
    StudioRow,
    ThumbnailRow,
    UserRow,
    ViewLinkRow,
    now,
)  # fmt: skip

R = TypeVar("R", JobRow, ShotRow, FrameRow, FinalRow)


class SqlRepository:
    """See services.ports.Repository. A row of another studio is as absent as one that never was."""

    def __init__(self, session: Session) -> None:
        self._s = session

    def _own(self, kind: type[R], studio_id: UUID, row_id: UUID, *, lock: bool = False) -> R:
        query = select(kind).where(kind.id == row_id, kind.studio_id == studio_id)
        row = self._s.scalar(query.with_for_update() if lock else query)
        if row is None:
            raise NotFound
        return row

    # accounts

    def any_user(self) -> bool:
        return self._s.scalar(select(UserRow.id).limit(1)) is not None

    def add_owner(self, *, studio_name: str, login: str, name: str, password_hash: str) -> User:
        studio = StudioRow(name=studio_name)
        self._s.add(studio)
        self._s.flush()
        user = UserRow(studio_id=studio.id, login=login, name=name, password_hash=password_hash)
        self._s.add(user)
        self._s.flush()
        return self._user(user, studio)

    @staticmethod
    def _user(user: UserRow, studio: StudioRow) -> User:
        return User(
            id=user.id, studio_id=studio.id, studio_name=studio.name, login=user.login, name=user.name,
            password_hash=user.password_hash,
        )  # fmt: skip

    def user_by_login(self, login: str) -> User | None:
        found = self._s.execute(
            select(UserRow, StudioRow).join(StudioRow, StudioRow.id == UserRow.studio_id).where(UserRow.login == login)
        ).first()
        return self._user(*found) if found else None

    def add_sign_in(self, *, token_hash: str, user_id: UUID, csrf_token: str, expires_at: datetime) -> None:
        self._s.execute(delete(SignInRow).where(SignInRow.expires_at < now()))
        self._s.add(SignInRow(token_hash=token_hash, user_id=user_id, csrf_token=csrf_token, expires_at=expires_at))

    def sign_in(self, token_hash: str, *, now: datetime) -> SignIn | None:
        found = self._s.execute(
            select(SignInRow, UserRow, StudioRow)
            .join(UserRow, UserRow.id == SignInRow.user_id)
            .join(StudioRow, StudioRow.id == UserRow.studio_id)
            .where(SignInRow.token_hash == token_hash, SignInRow.expires_at > now)
        ).first()
        if not found:
            return None
        row, user, studio = found
        return SignIn(user=self._user(user, studio), csrf_token=row.csrf_token, expires_at=row.expires_at)

    def remove_sign_in(self, token_hash: str) -> None:
        self._s.execute(delete(SignInRow).where(SignInRow.token_hash == token_hash))

    def count_failures(self, *, login: str, address: str, since: datetime) -> tuple[int, int]:
        recent = select(func.count()).select_from(FailureRow).where(FailureRow.at > since)
        return (
            self._s.scalar(recent.where(FailureRow.login == login)) or 0,
            self._s.scalar(recent.where(FailureRow.address == address)) or 0,
        )

    def add_failure(self, *, login: str, address: str, at: datetime) -> None:
        self._s.add(FailureRow(login=login, address=address[:64], at=at))

    def clear_failures(self, *, login: str) -> None:
        self._s.execute(delete(FailureRow).where(FailureRow.login == login))

    # jobs

    def jobs(self, studio_id: UUID, *, archived: bool) -> list[Job]:
        count = (
            select(func.count())
            .select_from(ShotRow)
            .where(ShotRow.job_id == JobRow.id, ShotRow.archived_at.is_(None))
            .scalar_subquery()
        )
        state = JobRow.archived_at.is_not(None) if archived else JobRow.archived_at.is_(None)
        found = self._s.execute(
            select(JobRow, count).where(JobRow.studio_id == studio_id, state).order_by(JobRow.created_at.desc())
        )
        return [self._job(row, shots) for row, shots in found]

    @staticmethod
    def _job(row: JobRow, shots: int = 0) -> Job:
        return Job(
            id=row.id, studio_id=row.studio_id, name=row.name, archived=row.archived_at is not None,
            created_at=row.created_at, shot_count=shots,
        )  # fmt: skip

    def job(self, studio_id: UUID, job_id: UUID) -> Job:
        return self._job(self._own(JobRow, studio_id, job_id))

    def add_job(self, studio_id: UUID, *, name: str) -> Job:
        row = JobRow(studio_id=studio_id, name=name)
        self._s.add(row)
        self._s.flush()
        return self._job(row)

    def rename_job(self, studio_id: UUID, job_id: UUID, *, name: str) -> None:
        self._own(JobRow, studio_id, job_id).name = name

    def archive_job(self, studio_id: UUID, job_id: UUID, *, archived: bool) -> None:
        self._own(JobRow, studio_id, job_id).archived_at = now() if archived else None

    # shots

    def _shot(self, row: ShotRow, job_name: str) -> Shot:
        return Shot(
            id=row.id, studio_id=row.studio_id, job_id=row.job_id, job_name=job_name, name=row.name,
            archived=row.archived_at is not None, revision=row.revision, newest_revision=row.newest_revision,
            updated_at=row.updated_at,
        )  # fmt: skip

    def shots(self, studio_id: UUID, job_id: UUID, *, archived: bool) -> list[Shot]:
        job = self._own(JobRow, studio_id, job_id)
        state = ShotRow.archived_at.is_not(None) if archived else ShotRow.archived_at.is_(None)
        rows = self._s.scalars(
            select(ShotRow)
            .where(ShotRow.studio_id == studio_id, ShotRow.job_id == job_id, state)
            .order_by(ShotRow.created_at)
        )
        return [self._shot(row, job.name) for row in rows]

    def shot(self, studio_id: UUID, shot_id: UUID, *, lock: bool = False) -> Shot:
        row = self._own(ShotRow, studio_id, shot_id, lock=lock)
        return self._shot(row, self._own(JobRow, studio_id, row.job_id).name)

    def add_shot(self, studio_id: UUID, job_id: UUID, *, name: str, document: Document, label: str) -> Shot:
        job = self._own(JobRow, studio_id, job_id)
        row = ShotRow(studio_id=studio_id, job_id=job_id, name=name, revision=1, newest_revision=1)
        self._s.add(row)
        self._s.flush()
        self._s.add(RevisionRow(studio_id=studio_id, shot_id=row.id, number=1, label=label, document=document))
        self._s.flush()
        return self._shot(row, job.name)

    def rename_shot(self, studio_id: UUID, shot_id: UUID, *, name: str) -> None:
        self._own(ShotRow, studio_id, shot_id).name = name

    def archive_shot(self, studio_id: UUID, shot_id: UUID, *, archived: bool) -> None:
        self._own(ShotRow, studio_id, shot_id).archived_at = now() if archived else None

    def _revision_rows(self, studio_id: UUID, shot_id: UUID) -> Any:
        return select(RevisionRow).where(RevisionRow.studio_id == studio_id, RevisionRow.shot_id == shot_id)

    def revision(self, studio_id: UUID, shot_id: UUID, number: int) -> Revision:
        row = self._revision_row(studio_id, shot_id, number)
        return Revision(state=self._state(row), document=row.document)

    def _revision_row(self, studio_id: UUID, shot_id: UUID, number: int) -> RevisionRow:
        row: RevisionRow | None = self._s.scalar(self._revision_rows(studio_id, shot_id).where(RevisionRow.number == number))
        if row is None:
            raise NotFound
        return row

    @staticmethod
    def _state(row: RevisionRow) -> ShotState:
        return ShotState(number=row.number, parent=row.parent, label=row.label, pin=row.pin or "", created_at=row.created_at)

    def states(self, studio_id: UUID, shot_id: UUID) -> list[ShotState]:
        rows = self._revision_rows(studio_id, shot_id).order_by(RevisionRow.number)
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
        self._s.add(
            RevisionRow(studio_id=studio_id, shot_id=shot_id, number=number, parent=after, label=label, document=document)
        )
        row.revision = row.newest_revision = number
        row.updated_at = now()
        self._s.flush()
        return number

    def pin_revision(self, studio_id: UUID, shot_id: UUID, number: int, *, name: str) -> None:
        self._revision_row(studio_id, shot_id, number).pin = name or None

    def go_to_revision(self, studio_id: UUID, shot_id: UUID, number: int) -> None:
        row = self._own(ShotRow, studio_id, shot_id)
        row.revision = number
        row.updated_at = now()

    # links for looking

    def add_view_link(self, studio_id: UUID, shot_id: UUID, *, token_hash: str) -> None:
        self._own(ShotRow, studio_id, shot_id)
        self._s.add(ViewLinkRow(token_hash=token_hash, studio_id=studio_id, shot_id=shot_id))

    def view_link(self, token_hash: str) -> tuple[UUID, UUID]:
        row = self._s.get(ViewLinkRow, token_hash)
        if row is None:
            raise NotFound
        return row.studio_id, row.shot_id

    def view_links(self, studio_id: UUID, shot_id: UUID) -> int:
        query = select(func.count()).select_from(ViewLinkRow)
        return self._s.scalar(query.where(ViewLinkRow.studio_id == studio_id, ViewLinkRow.shot_id == shot_id)) or 0

    def remove_view_links(self, studio_id: UUID, shot_id: UUID) -> None:
        self._own(ShotRow, studio_id, shot_id)
        self._s.execute(delete(ViewLinkRow).where(ViewLinkRow.studio_id == studio_id, ViewLinkRow.shot_id == shot_id))

    def thumbnail(self, studio_id: UUID, shot_id: UUID) -> tuple[int, bytes] | None:
        row = self._s.scalar(
            select(ThumbnailRow).where(ThumbnailRow.shot_id == shot_id, ThumbnailRow.studio_id == studio_id)
        )
        return (row.revision, row.picture) if row else None

    def keep_thumbnail(self, studio_id: UUID, shot_id: UUID, *, revision: int, picture: bytes) -> None:
        self._own(ShotRow, studio_id, shot_id, lock=True)
        self._s.merge(ThumbnailRow(shot_id=shot_id, studio_id=studio_id, revision=revision, picture=picture))

    # frames

    @staticmethod
    def _frame(row: FrameRow) -> Frame:
        return Frame(
            id=row.id, studio_id=row.studio_id, shot_id=row.shot_id, file_name=row.file_name, media_type=row.media_type,
            size_bytes=row.size_bytes, width=row.width, height=row.height, note=row.note,
            exposure=PhotoExposure(**row.exposure), created_at=row.created_at,
        )  # fmt: skip

    def frames(self, studio_id: UUID, shot_id: UUID) -> list[Frame]:
        self._own(ShotRow, studio_id, shot_id)
        rows = self._s.scalars(
            select(FrameRow)
            .where(FrameRow.studio_id == studio_id, FrameRow.shot_id == shot_id)
            .order_by(FrameRow.created_at.desc())
        )
        return [self._frame(row) for row in rows]

    def frame(self, studio_id: UUID, frame_id: UUID) -> Frame:
        return self._frame(self._own(FrameRow, studio_id, frame_id))

    def frame_bytes(self, studio_id: UUID, frame_id: UUID) -> bytes:
        data = self._s.scalar(
            select(FrameFileRow.data).where(FrameFileRow.frame_id == frame_id, FrameFileRow.studio_id == studio_id)
        )
        if data is None:
            raise NotFound
        return data

    def add_frame(
        self, studio_id: UUID, shot_id: UUID, *, file_name: str, data: bytes, photo: Photograph, note: str
    ) -> Frame:
        self._own(ShotRow, studio_id, shot_id)
        row = FrameRow(
            studio_id=studio_id, shot_id=shot_id, file_name=file_name, media_type=photo.media_type, size_bytes=len(data),
            width=photo.width, height=photo.height, note=note, exposure=asdict(photo.exposure),
        )  # fmt: skip
        self._s.add(row)
        self._s.flush()
        self._s.add(FrameFileRow(frame_id=row.id, studio_id=studio_id, data=data))
        return self._frame(row)

    def note_frame(self, studio_id: UUID, frame_id: UUID, *, note: str) -> None:
        self._own(FrameRow, studio_id, frame_id).note = note

    def remove_frame(self, studio_id: UUID, frame_id: UUID) -> None:
        self._s.delete(self._own(FrameRow, studio_id, frame_id))

    # finals

    @staticmethod
    def _final(row: FinalRow) -> Final:
        return Final(
            id=row.id, studio_id=row.studio_id, shot_id=row.shot_id, revision=row.revision, label=row.label,
            long_side=row.long_side, state=FinalState(row.state), done=row.done, problem=row.problem,
            created_at=row.created_at, began_at=row.began_at, ended_at=row.ended_at,
        )  # fmt: skip

    def finals(self, studio_id: UUID, shot_id: UUID) -> list[Final]:
        self._own(ShotRow, studio_id, shot_id)
        rows = self._s.scalars(
            select(FinalRow)
            .where(FinalRow.studio_id == studio_id, FinalRow.shot_id == shot_id)
            .order_by(FinalRow.created_at.desc())
        )
        return [self._final(row) for row in rows]

    def final(self, studio_id: UUID, final_id: UUID, *, lock: bool = False) -> Final:
        return self._final(self._own(FinalRow, studio_id, final_id, lock=lock))

    def add_final(self, studio_id: UUID, shot_id: UUID, *, revision: int, label: str, long_side: int) -> Final:
        self._own(ShotRow, studio_id, shot_id)
        row = FinalRow(studio_id=studio_id, shot_id=shot_id, revision=revision, label=label[:120], long_side=long_side)
        self._s.add(row)
        self._s.flush()
        return self._final(row)

    def mark_final(self, studio_id: UUID, final_id: UUID, *, state: FinalState, done: float, problem: str = "") -> None:
        row = self._own(FinalRow, studio_id, final_id)
        if state is FinalState.WORKING and (row.state != state or done == 0.0):
            row.began_at = now()
        if state in (FinalState.DONE, FinalState.FAILED, FinalState.CANCELLED):
            row.ended_at = now()
        row.state, row.done, row.problem = state.value, done, problem[:400]

    def keep_final(self, studio_id: UUID, final_id: UUID, *, png: bytes, exr: bytes) -> None:
        self._own(FinalRow, studio_id, final_id, lock=True)
        self._s.merge(FinalFileRow(final_id=final_id, studio_id=studio_id, png=png, exr=exr))

    def final_file(self, studio_id: UUID, final_id: UUID, kind: str) -> bytes:
        column = FinalFileRow.png if kind == "png" else FinalFileRow.exr
        data = self._s.scalar(select(column).where(FinalFileRow.final_id == final_id, FinalFileRow.studio_id == studio_id))
        if data is None:
            raise NotFound
        return data

    def remove_final(self, studio_id: UUID, final_id: UUID) -> None:
        self._s.delete(self._own(FinalRow, studio_id, final_id))

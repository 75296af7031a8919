"""A studio's limits, what it keeps, who did what, and taking away for good what was removed."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import delete, func, or_, select, update
from sqlalchemy.dialects.postgresql import insert

from fotaxis.core.lights.kit import KINDS, Piece
from fotaxis.services.ports import Event, NotFound, OwnPiece, Usage, acting
from fotaxis.storage.rows import Rows
from fotaxis.storage.tables import (
    BlobRow,
    BookRow,
    EventRow,
    FinalRow,
    FrameRow,
    InvitationRow,
    JobRow,
    LastPictureRow,
    MergeRow,
    PasskeyRow,
    PieceRow,
    ResetRow,
    RevisionRow,
    SaveRow,
    SharedPictureRow,
    ShotRow,
    SignInRow,
    StepShotRow,
    StudioRow,
    ThumbnailRow,
    UserRow,
    ViewLinkRow,
    WorkRow,
)


class KitTables(Rows):
    """services.ports.KitRows."""

    def kit(self, studio_id: UUID) -> list[OwnPiece]:
        order = {kind: i for i, kind in enumerate(KINDS)}
        rows = self._s.scalars(select(PieceRow).where(PieceRow.studio_id == studio_id).order_by(PieceRow.name))
        own = [
            OwnPiece(id=row.id, piece=Piece(kind=row.kind, name=row.name, count=row.count, values=row.values))
            for row in rows
        ]
        return sorted((one for one in own if one.piece.kind in order), key=lambda one: order[one.piece.kind])

    def put_piece(self, studio_id: UUID, piece: Piece) -> None:
        values = {"count": piece.count, "values": dict(piece.values)}
        put = insert(PieceRow).values(id=uuid4(), studio_id=studio_id, kind=piece.kind, name=piece.name, **values)
        self._s.execute(put.on_conflict_do_update(index_elements=["studio_id", "kind", "name"], set_=values))

    def remove_piece(self, studio_id: UUID, piece_id: UUID) -> str:
        row = self._own(PieceRow, studio_id, piece_id)
        self._s.delete(row)
        return row.name


class StudioTables(Rows):
    """services.ports.StudioRows."""

    def _studio(self, studio_id: UUID) -> StudioRow:
        row = self._s.get(StudioRow, studio_id)
        if row is None:
            raise NotFound
        return row

    def usage(self, studio_id: UUID) -> Usage:
        studio = self._studio(studio_id)

        def total(column: Any, studio_column: Any) -> int:
            return int(self._s.scalar(select(func.coalesce(func.sum(column), 0)).where(studio_column == studio_id)) or 0)

        states = self._s.scalar(select(func.count()).select_from(RevisionRow).where(RevisionRow.studio_id == studio_id)) or 0
        return Usage(
            photo_bytes=total(FrameRow.size_bytes, FrameRow.studio_id), photo_limit=studio.photo_limit,
            final_bytes=total(FinalRow.size_bytes, FinalRow.studio_id) + total(MergeRow.size_bytes, MergeRow.studio_id),
            final_limit=studio.final_limit,
            states=states, states_limit=studio.states_limit,
        )  # fmt: skip

    def set_limits(self, studio_id: UUID, *, photo_bytes: int, final_bytes: int, states: int) -> None:
        studio = self._studio(studio_id)
        studio.photo_limit, studio.final_limit, studio.states_limit = photo_bytes, final_bytes, states

    def lock_studio(self, studio_id: UUID) -> None:
        """Until the transaction ends nobody else counts what this studio keeps, or who owns it."""
        self._s.execute(select(StudioRow.id).where(StudioRow.id == studio_id).with_for_update())

    def rename_studio(self, studio_id: UUID, *, name: str) -> None:
        self._studio(studio_id).name = name

    def delete_studio(self, studio_id: UUID, *, at: datetime | None) -> None:
        self._studio(studio_id).deleted_at = at

    def add_event(self, studio_id: UUID, *, kind: str, words: str, shot_id: UUID | None = None) -> None:
        who = acting()
        self._s.add(
            EventRow(studio_id=studio_id, shot_id=shot_id, user_id=who.user_id, who=who.name, kind=kind, words=words[:200])
        )

    def events(self, studio_id: UUID, *, shot_id: UUID | None, most: int) -> list[Event]:
        """What was done, the newest first: events, and every state that somebody made."""
        done = (
            select(EventRow.at, EventRow.who, EventRow.kind, EventRow.words, EventRow.shot_id, ShotRow.name)
            .join(ShotRow, ShotRow.id == EventRow.shot_id, isouter=True)
            .where(EventRow.studio_id == studio_id)
        )
        made = (
            select(
                RevisionRow.created_at,
                RevisionRow.who,
                RevisionRow.number,
                RevisionRow.label,
                RevisionRow.shot_id,
                ShotRow.name,
            )
            .join(ShotRow, ShotRow.id == RevisionRow.shot_id)
            .where(RevisionRow.studio_id == studio_id)
        )
        if shot_id is not None:
            done, made = done.where(EventRow.shot_id == shot_id), made.where(RevisionRow.shot_id == shot_id)
        rows = [
            Event(at=at, who=who, kind=kind, words=words, shot_id=shot, shot_name=name or "")
            for at, who, kind, words, shot, name in self._s.execute(done.order_by(EventRow.at.desc()).limit(most))
        ]
        rows += [
            Event(at=at, who=who, kind="change", words=f"{label} (state {number})", shot_id=shot, shot_name=name)
            for at, who, number, label, shot, name in self._s.execute(
                made.order_by(RevisionRow.created_at.desc()).limit(most)
            )
        ]
        return sorted(rows, key=lambda event: event.at, reverse=True)[:most]

    def sweep(self, *, before: datetime, now: datetime) -> list[str]:
        """Take away for good what was removed before a moment; the keys of the bytes that nothing names any more."""
        studios = list(self._s.scalars(select(StudioRow.id).where(StudioRow.deleted_at < before)))
        jobs = list(self._s.scalars(select(JobRow.id).where(or_(JobRow.deleted_at < before, JobRow.studio_id.in_(studios)))))
        shots = list(self._s.scalars(select(ShotRow.id).where(or_(ShotRow.deleted_at < before, ShotRow.job_id.in_(jobs)))))
        keys = [f"frames/{i}/{kind}" for i in self._ids(FrameRow, shots) for kind in ("file", "working")]
        keys += [f"finals/{i}/{kind}" for i in self._ids(FinalRow, shots) for kind in ("png", "exr")]
        keys += [f"merges/{row.id}/{kind}" for row in self._merges(shots) for kind in row.files]
        refs = [str(i) for i in (*self._ids(FinalRow, shots), *(row.id for row in self._merges(shots)))]
        self._s.execute(delete(WorkRow).where(WorkRow.kind.in_(["final", "merge"]), WorkRow.ref.in_(refs)))
        self._s.execute(update(ShotRow).where(ShotRow.pattern_id.in_(shots)).values(pattern_id=None))
        for table in (
            FrameRow,
            FinalRow,
            MergeRow,
            StepShotRow,
            BookRow,
            RevisionRow,
            ThumbnailRow,
            LastPictureRow,
            ViewLinkRow,
            EventRow,
        ):
            self._s.execute(delete(table).where(table.shot_id.in_(shots)))
        self._s.execute(delete(ShotRow).where(ShotRow.id.in_(shots)))
        self._s.execute(delete(JobRow).where(JobRow.id.in_(jobs)))
        people = list(self._s.scalars(select(UserRow.id).where(UserRow.studio_id.in_(studios))))
        self._s.execute(delete(SignInRow).where(SignInRow.user_id.in_(people)))
        for of_studio in (InvitationRow, ResetRow, PasskeyRow, EventRow, SaveRow, SharedPictureRow, WorkRow, PieceRow, UserRow
        ):  # fmt: skip
            self._s.execute(delete(of_studio).where(of_studio.studio_id.in_(studios)))
        self._s.execute(delete(StudioRow).where(StudioRow.id.in_(studios)))
        # A person removed long enough ago leaves no more than the name beside what they did.
        gone = list(self._s.scalars(select(UserRow.id).where(UserRow.removed_at < before)))
        self._s.execute(delete(SignInRow).where(SignInRow.user_id.in_(gone)))
        for of_person in (ResetRow, PasskeyRow):
            self._s.execute(delete(of_person).where(of_person.user_id.in_(gone)))
        self._s.execute(delete(UserRow).where(UserRow.id.in_(gone)))
        self._s.execute(delete(InvitationRow).where(InvitationRow.expires_at < now))
        self._s.execute(delete(ResetRow).where(ResetRow.expires_at < now))
        self._s.execute(delete(ViewLinkRow).where(ViewLinkRow.expires_at < before))
        return keys

    def _merges(self, shots: list[UUID]) -> list[MergeRow]:
        return list(self._s.scalars(select(MergeRow).where(MergeRow.shot_id.in_(shots))))

    def _ids(self, table: type[FrameRow] | type[FinalRow], shots: list[UUID]) -> list[UUID]:
        return list(self._s.scalars(select(table.id).where(table.shot_id.in_(shots))))


class SaveTables(Rows):
    """services.ports.SaveRows."""

    def kept_save(self, user_id: UUID, key: str) -> dict[str, object] | None:
        row = self._s.get(SaveRow, (user_id, key))
        return row.answer if row else None

    def answer_save(self, user_id: UUID, key: str, answer: dict[str, object]) -> None:
        self._s.execute(update(SaveRow).where(SaveRow.user_id == user_id, SaveRow.key == key).values(answer=answer))

    def prune_saves(self, *, before: datetime) -> None:
        self._s.execute(delete(SaveRow).where(SaveRow.at < before))


class BlobTables(Rows):
    """Bytes in the database itself."""

    def put_blob(self, key: str, data: bytes) -> None:
        self._s.merge(BlobRow(key=key, data=data))

    def blob(self, key: str) -> bytes:
        data = self._s.scalar(select(BlobRow.data).where(BlobRow.key == key))
        if data is None:
            raise NotFound
        return data

    def blob_keys(self) -> list[str]:
        """The keys of all bytes that rows name."""
        frames = self._s.scalars(select(FrameRow.id)).all()
        finals = self._s.scalars(select(FinalRow.id).where(FinalRow.state == "done"))
        keys = [f"frames/{i}/{kind}" for i in frames for kind in ("file", "working")]
        keys += [f"finals/{i}/{kind}" for i in finals for kind in ("png", "exr")]
        return keys + [f"merges/{row.id}/{kind}" for row in self._s.scalars(select(MergeRow)) for kind in row.files]

    def remove_blob(self, key: str) -> None:
        self._s.execute(delete(BlobRow).where(BlobRow.key == key))

"""Photographs, finals, the workers' work, and pictures that all processes share."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import delete, func, or_, select, update
from sqlalchemy.dialects.postgresql import insert

from fotaxis.core.frames.photograph import PhotoExposure, Photograph
from fotaxis.services.ports import Document, Final, FinalState, Frame, Lane, SharedPicture, Work
from fotaxis.storage.rows import Rows
from fotaxis.storage.tables import FinalRow, FrameRow, SharedPictureRow, ShotRow, StudioRow, WorkerRow, WorkRow, now

MOST_NOTICED = 8
"""The pace of finals is that of so many that ended last."""


class FrameTables(Rows):
    """services.ports.FrameRows."""

    @staticmethod
    def _frame(row: FrameRow) -> Frame:
        return Frame(
            id=row.id, studio_id=row.studio_id, shot_id=row.shot_id, file_name=row.file_name, media_type=row.media_type,
            size_bytes=row.size_bytes, width=row.width, height=row.height, note=row.note,
            exposure=PhotoExposure(**row.exposure), created_at=row.created_at, capture=row.capture,
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

    def add_frame(
        self,
        studio_id: UUID,
        shot_id: UUID,
        *,
        frame_id: UUID,
        file_name: str,
        size_bytes: int,
        photo: Photograph,
        note: str,
        capture: str = "",
    ) -> Frame:
        self._own(ShotRow, studio_id, shot_id)
        row = FrameRow(
            id=frame_id, studio_id=studio_id, shot_id=shot_id, file_name=file_name, media_type=photo.media_type,
            size_bytes=size_bytes, width=photo.width, height=photo.height, note=note, exposure=asdict(photo.exposure),
            capture=capture,
        )  # fmt: skip
        self._s.add(row)
        self._s.flush()
        return self._frame(row)

    def note_frame(self, studio_id: UUID, frame_id: UUID, *, note: str) -> None:
        self._own(FrameRow, studio_id, frame_id).note = note

    def give_frame(self, studio_id: UUID, frame_id: UUID, *, capture: str) -> None:
        self._own(FrameRow, studio_id, frame_id).capture = capture

    def remove_frame(self, studio_id: UUID, frame_id: UUID) -> None:
        self._s.delete(self._own(FrameRow, studio_id, frame_id))


class FinalTables(Rows):
    """services.ports.FinalRows."""

    @staticmethod
    def _final(row: FinalRow, before: int = 0) -> Final:
        return Final(
            id=row.id, studio_id=row.studio_id, shot_id=row.shot_id, revision=row.revision, label=row.label,
            long_side=row.long_side, state=FinalState(row.state), done=row.done, problem=row.problem,
            created_at=row.created_at, began_at=row.began_at, ended_at=row.ended_at, attempts=row.attempts, before=before,
        )  # fmt: skip

    def finals(self, studio_id: UUID, shot_id: UUID) -> list[Final]:
        self._own(ShotRow, studio_id, shot_id)
        rows = self._s.scalars(
            select(FinalRow)
            .where(FinalRow.studio_id == studio_id, FinalRow.shot_id == shot_id)
            .order_by(FinalRow.created_at.desc())
        ).all()
        before = self._before(rows) if any(row.state == FinalState.WAITING for row in rows) else {}
        return [self._final(row, before.get(row.id, 0)) for row in rows]

    def _before(self, rows: Any) -> dict[UUID, int]:
        """How many finals are made before each of these: studios take turns, each its own in the order they were asked for."""
        waiting = self._s.execute(
            select(FinalRow.studio_id, FinalRow.id)
            .where(FinalRow.state.in_(["waiting", "working"]))
            .order_by(FinalRow.created_at)
        )
        queues: dict[UUID, list[UUID]] = {}
        for studio_id, final_id in waiting:
            queues.setdefault(studio_id, []).append(final_id)
        found: dict[UUID, int] = {}
        for row in rows:
            own = queues.get(row.studio_id, [])
            if row.id in own:
                turn = own.index(row.id)
                found[row.id] = turn + sum(min(len(q), turn + 1) for s, q in queues.items() if s != row.studio_id)
        return found

    def final(self, studio_id: UUID, final_id: UUID, *, lock: bool = False) -> Final:
        return self._final(self._own(FinalRow, studio_id, final_id, lock=lock))

    def add_final(self, studio_id: UUID, shot_id: UUID, *, revision: int, label: str, long_side: int) -> Final:
        self._own(ShotRow, studio_id, shot_id)
        row = FinalRow(studio_id=studio_id, shot_id=shot_id, revision=revision, label=label[:120], long_side=long_side)
        self._s.add(row)
        self._s.flush()
        return self._final(row)

    def mark_final(
        self,
        studio_id: UUID,
        final_id: UUID,
        *,
        state: FinalState,
        done: float,
        problem: str = "",
        attempts: int | None = None,
    ) -> None:
        row = self._own(FinalRow, studio_id, final_id)
        if state is FinalState.WORKING and (row.state != state or done == 0.0):
            row.began_at = now()
        if state in (FinalState.DONE, FinalState.FAILED, FinalState.CANCELLED):
            row.ended_at = now()
        row.state, row.done, row.problem = state.value, done, problem[:400]
        if attempts is not None:
            row.attempts = attempts

    def size_final(self, studio_id: UUID, final_id: UUID, *, size_bytes: int) -> None:
        self._own(FinalRow, studio_id, final_id, lock=True).size_bytes = size_bytes

    def remove_final(self, studio_id: UUID, final_id: UUID) -> None:
        self._s.delete(self._own(FinalRow, studio_id, final_id))

    def final_pace(self) -> float | None:
        """Seconds for each million of the long side's square, as the last finals took; None before there are any."""
        ended = self._s.execute(
            select(FinalRow.long_side, FinalRow.began_at, FinalRow.ended_at)
            .where(FinalRow.state == FinalState.DONE.value, FinalRow.began_at.is_not(None))
            .order_by(FinalRow.ended_at.desc())
            .limit(MOST_NOTICED)
        ).all()
        paces = [(end - begin).total_seconds() / (side**2 / 1e6) for side, begin, end in ended if begin and end]
        return sum(paces) / len(paces) if paces else None


class WorkTables(Rows):
    """services.ports.WorkRows."""

    def add_work(self, studio_id: UUID, *, lane: Lane, kind: str, ref: str, payload: Document) -> None:
        """Something to do; once only, however often it is asked for."""
        self._s.execute(
            insert(WorkRow)
            .values(
                id=uuid4(), studio_id=studio_id, lane=lane.value, kind=kind, ref=ref, payload=payload, attempts=0, worker="",
                created_at=now(),
            )
            .on_conflict_do_nothing()
        )  # fmt: skip
        self.tell(kind="work", lane=lane.value)

    def claim_work(self, *, lane: Lane, worker: str, now: datetime, until: datetime) -> Work | None:
        """Take the next piece: of the studio that has the fewest in hand, then of the one served longest ago, then the oldest."""
        in_hand = (
            select(func.count())
            .select_from(other := WorkRow.__table__.alias())
            .where(other.c.studio_id == WorkRow.studio_id, other.c.lane == lane.value, other.c.claimed_until > now)
            .scalar_subquery()
        )
        row = self._s.scalar(
            select(WorkRow)
            .join(StudioRow, StudioRow.id == WorkRow.studio_id)
            .where(WorkRow.lane == lane.value, or_(WorkRow.claimed_until.is_(None), WorkRow.claimed_until <= now))
            .order_by(in_hand, StudioRow.served_at.asc().nulls_first(), WorkRow.created_at)
            .limit(1)
            .with_for_update(of=WorkRow, skip_locked=True)
        )
        if row is None:
            return None
        row.attempts += 1
        row.worker, row.claimed_until = worker, until
        self._s.execute(update(StudioRow).where(StudioRow.id == row.studio_id).values(served_at=now))
        return Work(
            id=row.id, studio_id=row.studio_id, lane=Lane(row.lane), kind=row.kind, ref=row.ref, payload=row.payload,
            attempts=row.attempts,
        )  # fmt: skip

    def hold_work(self, work_id: UUID, *, worker: str, until: datetime) -> bool:
        """Go on holding a piece; False when it was called off, or somebody else holds it."""
        done = self._s.execute(
            update(WorkRow)
            .where(WorkRow.id == work_id, WorkRow.worker == worker)
            .values(claimed_until=until)
            .returning(WorkRow.id)
        )
        return done.first() is not None

    def end_work(self, work_id: UUID) -> None:
        self._s.execute(delete(WorkRow).where(WorkRow.id == work_id))

    def release_work(self, work_id: UUID, *, worker: str) -> None:
        """Give a piece back that was not finished through no fault of its own; the attempt does not count."""
        row = self._s.scalar(select(WorkRow).where(WorkRow.id == work_id, WorkRow.worker == worker).with_for_update())
        if row is not None:
            row.claimed_until, row.worker, row.attempts = None, "", max(0, row.attempts - 1)
            self.tell(kind="work", lane=row.lane)

    def drop_work(self, studio_id: UUID, *, kind: str, ref: str) -> None:
        found = self._s.execute(
            delete(WorkRow)
            .where(WorkRow.studio_id == studio_id, WorkRow.kind == kind, WorkRow.ref == ref)
            .returning(WorkRow.id)
        ).first()
        if found:
            self.tell(kind="dropped", work=found[0])

    def work_waiting(self) -> dict[str, int]:
        """How much waits or is in hand, by lane."""
        rows = self._s.execute(select(WorkRow.lane, func.count()).group_by(WorkRow.lane))
        return {lane: int(count) for lane, count in rows}

    def see_worker(self, name: str, *, lane: Lane, at: datetime) -> None:
        self._s.merge(WorkerRow(name=name, lane=lane.value, seen_at=at))

    def forget_worker(self, name: str) -> None:
        self._s.execute(delete(WorkerRow).where(WorkerRow.name == name))

    def workers(self, *, since: datetime) -> dict[str, int]:
        """How many live, by lane."""
        self._s.execute(delete(WorkerRow).where(WorkerRow.seen_at < since))
        rows = self._s.execute(select(WorkerRow.lane, func.count()).group_by(WorkerRow.lane))
        return {lane: int(count) for lane, count in rows}

    def shared_picture(self, studio_id: UUID, key: str, *, at: datetime) -> SharedPicture | None:
        row = self._s.execute(
            update(SharedPictureRow)
            .where(SharedPictureRow.studio_id == studio_id, SharedPictureRow.key == key)
            .values(used_at=at)
            .returning(SharedPictureRow.data, SharedPictureRow.media_type)
        ).first()
        return SharedPicture(data=row[0], media_type=row[1]) if row else None

    def tell_progress(self, studio_id: UUID, key: str, *, done: float) -> None:
        self.tell(kind="progress", studio=studio_id, key=key, done=round(done, 2))

    def share_picture(self, studio_id: UUID, key: str, *, data: bytes, media_type: str, at: datetime) -> None:
        self._s.execute(
            insert(SharedPictureRow)
            .values(studio_id=studio_id, key=key, data=data, size_bytes=len(data), media_type=media_type, used_at=at)
            .on_conflict_do_nothing()
        )
        self.tell(kind="picture", studio=studio_id, key=key)

    def shared_names(self, studio_id: UUID, start: str) -> list[str]:
        """Names that begin so, of pictures that could be made."""
        rows = self._s.scalars(
            select(SharedPictureRow.key).where(
                SharedPictureRow.studio_id == studio_id, SharedPictureRow.key.startswith(start, autoescape=True),
                SharedPictureRow.media_type == "application/octet-stream",
            )
        )  # fmt: skip
        return list(rows)

    def thin_pictures(self, *, keep_bytes: int) -> None:
        """Let go of what was not used for longest, until so much is left."""
        sizes = self._s.execute(
            select(SharedPictureRow.studio_id, SharedPictureRow.key, SharedPictureRow.size_bytes).order_by(
                SharedPictureRow.used_at.desc()
            )
        ).all()
        total = 0
        for studio_id, key, size in sizes:
            total += size
            if total > keep_bytes:
                self._s.execute(
                    delete(SharedPictureRow).where(SharedPictureRow.studio_id == studio_id, SharedPictureRow.key == key)
                )

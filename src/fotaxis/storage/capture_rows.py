"""Steps that were shot, merges of real frames, series, and the book by which shots are found."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert

from fotaxis.services.ports import BookEntry, FinalState, Merge, Shot, StepShot, acting
from fotaxis.storage.rows import Rows
from fotaxis.storage.tables import BookRow, JobRow, MergeRow, ShotRow, StepShotRow, now


class CaptureTables(Rows):
    """services.ports.CaptureRows."""

    # ---- the shooting list

    @staticmethod
    def _step(row: StepShotRow) -> StepShot:
        return StepShot(step=row.step, at=row.at, who=row.who, reckoned_s=row.reckoned_s, took_s=row.took_s)

    def steps_shot(self, studio_id: UUID, shot_id: UUID) -> list[StepShot]:
        self._own(ShotRow, studio_id, shot_id)
        of_shot = select(StepShotRow).where(StepShotRow.studio_id == studio_id, StepShotRow.shot_id == shot_id)
        return [self._step(row) for row in self._s.scalars(of_shot.order_by(StepShotRow.at))]

    def tick_step(
        self, studio_id: UUID, shot_id: UUID, *, step: str, at: datetime, reckoned_s: float, took_s: float | None
    ) -> None:
        self._own(ShotRow, studio_id, shot_id)
        values = {"at": at, "who": acting().name, "reckoned_s": reckoned_s, "took_s": took_s}
        ticked = insert(StepShotRow).values(shot_id=shot_id, step=step, studio_id=studio_id, **values)
        self._s.execute(ticked.on_conflict_do_nothing(index_elements=["shot_id", "step"]))

    def untick_step(self, studio_id: UUID, shot_id: UUID, *, step: str | None = None) -> None:
        self._own(ShotRow, studio_id, shot_id)
        gone = delete(StepShotRow).where(StepShotRow.studio_id == studio_id, StepShotRow.shot_id == shot_id)
        self._s.execute(gone if step is None else gone.where(StepShotRow.step == step))

    def history_of_steps(self, studio_id: UUID, *, most: int) -> list[StepShot]:
        known = select(StepShotRow).where(StepShotRow.studio_id == studio_id, StepShotRow.took_s.is_not(None))
        return [self._step(row) for row in self._s.scalars(known.order_by(StepShotRow.at.desc()).limit(most))]

    # ---- merges

    @staticmethod
    def _merge(row: MergeRow) -> Merge:
        return Merge(
            id=row.id, studio_id=row.studio_id, shot_id=row.shot_id, revision=row.revision, frames=row.frames,
            state=FinalState(row.state), done=row.done, words=row.words, files=row.files, problem=row.problem,
            created_at=row.created_at, ended_at=row.ended_at,
        )  # fmt: skip

    def add_merge(self, studio_id: UUID, shot_id: UUID, *, revision: int, frames: dict[str, str]) -> Merge:
        self._own(ShotRow, studio_id, shot_id)
        row = MergeRow(studio_id=studio_id, shot_id=shot_id, revision=revision, frames=frames)
        self._s.add(row)
        self._s.flush()
        return self._merge(row)

    def merge(self, studio_id: UUID, merge_id: UUID, *, lock: bool = False) -> Merge:
        return self._merge(self._own(MergeRow, studio_id, merge_id, lock=lock))

    def merges(self, studio_id: UUID, shot_id: UUID) -> list[Merge]:
        self._own(ShotRow, studio_id, shot_id)
        of_shot = select(MergeRow).where(MergeRow.studio_id == studio_id, MergeRow.shot_id == shot_id)
        return [self._merge(row) for row in self._s.scalars(of_shot.order_by(MergeRow.created_at.desc()))]

    def mark_merge(
        self, studio_id: UUID, merge_id: UUID, *, state: FinalState, done: float, problem: str = "",
        words: list[str] | None = None, files: dict[str, int] | None = None,
    ) -> None:  # fmt: skip
        row = self._own(MergeRow, studio_id, merge_id)
        row.state, row.done, row.problem = state.value, done, problem[:400]
        if state in (FinalState.DONE, FinalState.FAILED, FinalState.CANCELLED):
            row.ended_at = now()
        if words is not None:
            row.words = words
        if files is not None:
            row.files, row.size_bytes = files, sum(files.values())

    def remove_merge(self, studio_id: UUID, merge_id: UUID) -> None:
        self._s.delete(self._own(MergeRow, studio_id, merge_id))

    # ---- series

    def set_pattern(self, studio_id: UUID, shot_id: UUID, *, pattern_id: UUID | None) -> None:
        if pattern_id is not None:
            self._own(ShotRow, studio_id, pattern_id)
        self._own(ShotRow, studio_id, shot_id).pattern_id = pattern_id

    def pattern_of(self, studio_id: UUID, shot_id: UUID) -> UUID | None:
        return self._own(ShotRow, studio_id, shot_id).pattern_id

    def made_after(self, studio_id: UUID, shot_id: UUID) -> list[Shot]:
        self._own(ShotRow, studio_id, shot_id)
        return self._shots_where(studio_id, ShotRow.pattern_id == shot_id)

    def all_shots(self, studio_id: UUID) -> list[Shot]:
        return self._shots_where(studio_id)

    def _shots_where(self, studio_id: UUID, *conditions: Any) -> list[Shot]:
        found = self._s.execute(
            select(ShotRow, JobRow.name)
            .join(JobRow, JobRow.id == ShotRow.job_id)
            .where(
                ShotRow.studio_id == studio_id, JobRow.studio_id == studio_id, ShotRow.deleted_at.is_(None),
                JobRow.deleted_at.is_(None), *conditions,
            )
            .order_by(ShotRow.updated_at.desc())
        )  # fmt: skip
        return [
            Shot(
                id=row.id, studio_id=row.studio_id, job_id=row.job_id, job_name=job, name=row.name,
                archived=row.archived_at is not None, revision=row.revision, newest_revision=row.newest_revision,
                updated_at=row.updated_at, window=row.window,
            )
            for row, job in found
        ]  # fmt: skip

    # ---- the book

    def book_entry(self, studio_id: UUID, shot_id: UUID) -> BookEntry | None:
        self._own(ShotRow, studio_id, shot_id)
        row = self._s.scalar(select(BookRow).where(BookRow.studio_id == studio_id, BookRow.shot_id == shot_id))
        return BookEntry(shot_id=row.shot_id, revision=row.revision, words=row.words, traits=row.traits) if row else None

    def keep_book_entry(self, studio_id: UUID, entry: BookEntry) -> None:
        self._own(ShotRow, studio_id, entry.shot_id)
        values = {"revision": entry.revision, "words": entry.words, "traits": entry.traits}
        written = insert(BookRow).values(shot_id=entry.shot_id, studio_id=studio_id, **values)
        self._s.execute(
            written.on_conflict_do_update(index_elements=["shot_id"], set_=values, where=BookRow.studio_id == studio_id)
        )

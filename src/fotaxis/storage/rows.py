"""What the rooms of the repository share: a session, and rows that are absent for other studios and when they are removed."""

from __future__ import annotations

import json
from typing import TypeVar
from uuid import UUID

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from fotaxis.services.ports import NotFound
from fotaxis.storage.tables import FinalRow, FrameRow, JobRow, MergeRow, PieceRow, ShotRow

R = TypeVar("R", JobRow, ShotRow, FrameRow, FinalRow, MergeRow, PieceRow)
CHANNEL = "fotaxis"


class Rows:
    """One transaction. A row of another studio is as absent as one that never was, and so is one that is removed."""

    def __init__(self, session: Session) -> None:
        self._s = session

    def _own(self, kind: type[R], studio_id: UUID, row_id: UUID, *, lock: bool = False, removed: bool = False) -> R:
        """removed: a job or shot that waits to be deleted is found too."""
        query = select(kind).where(kind.id == row_id, kind.studio_id == studio_id)
        row = self._s.scalar(query.with_for_update() if lock else query)
        if row is None:
            raise NotFound
        if not removed:
            if isinstance(row, JobRow | ShotRow) and row.deleted_at is not None:
                raise NotFound
            if isinstance(row, ShotRow):
                self._own(JobRow, studio_id, row.job_id)
            elif isinstance(row, FrameRow | FinalRow | MergeRow):
                self._own(ShotRow, studio_id, row.shot_id)
        return row

    def tell(self, **news: object) -> None:
        """See services.ports.SaveRows.tell."""
        told = json.dumps(news, default=str)
        self._s.execute(text("select pg_notify(:channel, :told)"), {"channel": CHANNEL, "told": told})

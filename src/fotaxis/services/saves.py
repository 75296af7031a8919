"""Saves that carry a key: the same save sent twice is kept once, and answered as it was."""

from __future__ import annotations

from uuid import UUID

from fotaxis.services.ports import Database


class Saves:
    """The key itself is kept by storage, in the same transaction as what the save changed."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def kept(self, user_id: UUID, key: str) -> dict[str, object] | None:
        """What was answered to a save of that key; None where there was none."""
        with self._database.transaction() as repo:
            return repo.kept_save(user_id, key)

    def answered(self, user_id: UUID, key: str, answer: dict[str, object]) -> None:
        """Keep what was answered."""
        with self._database.transaction() as repo:
            repo.answer_save(user_id, key, answer)

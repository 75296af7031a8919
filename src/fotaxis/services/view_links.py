"""Links through which somebody without an account may look at one shot, and nothing else."""

from __future__ import annotations

import hashlib
import secrets
from uuid import UUID

from fotaxis.services.ports import Database, Refused

MOST_LINKS = 20


class ViewLinks:
    """The token stands in the link alone; the database holds its hash."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def make(self, studio_id: UUID, shot_id: UUID) -> str:
        """A new link's token. Raises Refused when there are too many."""
        token = secrets.token_urlsafe(24)
        with self._database.transaction() as repo:
            if repo.view_links(studio_id, shot_id) >= MOST_LINKS:
                raise Refused(f"This shot has {MOST_LINKS} links already. End them all, then make one anew.")
            repo.add_view_link(studio_id, shot_id, token_hash=_hash(token))
        return token

    def count(self, studio_id: UUID, shot_id: UUID) -> int:
        with self._database.transaction() as repo:
            return repo.view_links(studio_id, shot_id)

    def end_all(self, studio_id: UUID, shot_id: UUID) -> None:
        with self._database.transaction() as repo:
            repo.remove_view_links(studio_id, shot_id)

    def shot_of(self, token: str) -> tuple[UUID, UUID]:
        """Studio and shot a token may look at. Raises NotFound."""
        with self._database.transaction() as repo:
            return repo.view_link(_hash(token))


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()

"""Links through which somebody without an account may look at one shot, and nothing else."""

from __future__ import annotations

from datetime import timedelta
from uuid import UUID

from fotaxis.services.people.secrets import hashed, new_token
from fotaxis.services.ports import Clock, Database, Refused, ViewLink

MOST_LINKS = 20
LASTS_DAYS = (1, 7, 30, 90)


class ViewLinks:
    """The token stands in the link alone; the database holds its hash. A link ends by itself, or with its shot's archiving."""

    def __init__(self, database: Database, clock: Clock) -> None:
        self._database, self._clock = database, clock

    def make(self, studio_id: UUID, shot_id: UUID, *, days: int = 30) -> str:
        """A new link's token. Raises Refused when there are too many, or for an odd time."""
        if days not in LASTS_DAYS:
            raise Refused("A link lasts 1, 7, 30 or 90 days.")
        token, now = new_token(), self._clock()
        with self._database.transaction() as repo:
            if repo.shot(studio_id, shot_id, lock=True).archived:
                raise Refused("This shot is archived; restore it first.")
            if len(repo.view_links(studio_id, shot_id, now=now)) >= MOST_LINKS:
                raise Refused(f"This shot has {MOST_LINKS} links already. End one, then make another.")
            repo.add_view_link(studio_id, shot_id, token_hash=hashed(token), expires_at=now + timedelta(days=days))
            repo.add_event(studio_id, kind="link", words=f"Made a link for looking, for {days} days", shot_id=shot_id)
        return token

    def all(self, studio_id: UUID, shot_id: UUID) -> list[ViewLink]:
        """Every link that leads to the shot now, the oldest first."""
        with self._database.transaction() as repo:
            return repo.view_links(studio_id, shot_id, now=self._clock())

    def end(self, studio_id: UUID, shot_id: UUID, *, link_id: UUID | None = None) -> None:
        """One link, or all of a shot, lead nowhere from now on."""
        with self._database.transaction() as repo:
            repo.remove_view_links(studio_id, shot_id, only=link_id)
            words = "Ended a link for looking" if link_id else "Ended all links for looking"
            repo.add_event(studio_id, kind="link", words=words, shot_id=shot_id)

    def shot_of(self, token: str, *, visit: bool = False) -> tuple[UUID, UUID]:
        """Studio and shot a token may look at; visit: count it. Raises NotFound."""
        with self._database.transaction() as repo:
            return repo.view_link(hashed(token), now=self._clock(), visit=visit)

"""A studio as a whole: what it keeps and may keep, who did what, removing it, and what is taken away for good."""

from __future__ import annotations

import csv
import io
from datetime import datetime, timedelta
from uuid import UUID

from fotaxis.services.jobs import checked_name
from fotaxis.services.ports import Blobs, Clock, Database, Event, Refused, Usage

GRACE = timedelta(days=30)
SAVES_KEPT = timedelta(days=3)
MOST_SHOWN = 300
MOST_EXPORTED = 100_000
MOST_GB = 100_000
MOST_STATES = 100_000_000


class Studio:
    """Raises Refused with the reason; nothing is lost by it."""

    def __init__(self, database: Database, blobs: Blobs, clock: Clock) -> None:
        self._database, self._blobs, self._clock = database, blobs, clock

    def usage(self, studio_id: UUID) -> Usage:
        with self._database.transaction() as repo:
            return repo.usage(studio_id)

    def set_limits(self, studio_id: UUID, *, photo_gb: float, final_gb: float, states: int) -> None:
        """What the studio may keep; what it has already stays."""
        if not (0 < photo_gb <= MOST_GB and 0 < final_gb <= MOST_GB and 1 <= states <= MOST_STATES):
            raise Refused(f"Limits are more than 0 and at most {MOST_GB:,} GB, and 1 to {MOST_STATES:,} states.")
        with self._database.transaction() as repo:
            repo.set_limits(studio_id, photo_bytes=round(photo_gb * 1e9), final_bytes=round(final_gb * 1e9), states=states)
            words = f"Limits: {photo_gb:g} GB of photographs, {final_gb:g} GB of finals, {states} states"
            repo.add_event(studio_id, kind="studio", words=words)

    def rename(self, studio_id: UUID, *, name: str) -> None:
        name = checked_name(name, what="the studio")
        with self._database.transaction() as repo:
            repo.rename_studio(studio_id, name=name)
            repo.add_event(studio_id, kind="studio", words=f"Renamed the studio to {name}")

    def remove(self, studio_id: UUID, *, typed_name: str, name: str) -> datetime:
        """The studio is closed now and deleted for good when the grace period is over; when that is."""
        if typed_name.strip() != name:
            raise Refused(f"To remove the studio, type its name exactly: {name}. Nothing was changed.")
        now = self._clock()
        with self._database.transaction() as repo:
            repo.delete_studio(studio_id, at=now)
            repo.add_event(studio_id, kind="studio", words="Removed the studio")
            for person in repo.people(studio_id):
                if person.role != "owner":
                    repo.end_sessions(person.id)
        return now + GRACE

    def bring_back(self, studio_id: UUID) -> None:
        with self._database.transaction() as repo:
            repo.delete_studio(studio_id, at=None)
            repo.add_event(studio_id, kind="studio", words="Brought the studio back")

    def history(self, studio_id: UUID, *, shot_id: UUID | None = None, most: int = MOST_SHOWN) -> list[Event]:
        """Who did what, the newest first: of the studio, or of one shot."""
        with self._database.transaction() as repo:
            if shot_id is not None:
                repo.shot(studio_id, shot_id)
            return repo.events(studio_id, shot_id=shot_id, most=most)

    def history_csv(self, studio_id: UUID, *, shot_id: UUID | None = None) -> bytes:
        """The whole history as CSV, UTC, the newest first."""
        out = io.StringIO()
        rows = csv.writer(out)
        rows.writerow(["time (UTC)", "who", "what", "in words", "shot"])
        for event in self.history(studio_id, shot_id=shot_id, most=MOST_EXPORTED):
            rows.writerow(
                [event.at.strftime("%Y-%m-%d %H:%M:%S"), *map(_plain, (event.who, event.kind, event.words, event.shot_name))]
            )
        return out.getvalue().encode("utf-8-sig")

    def sweep(self) -> None:
        """Take away for good what was removed longer ago than the grace period, and what only a repeat would have needed."""
        now = self._clock()
        with self._database.transaction() as repo:
            keys = repo.sweep(before=now - GRACE, now=now)
            repo.prune_saves(before=now - SAVES_KEPT)
        for key in keys:
            self._blobs.remove(key)


def _plain(text: str) -> str:
    """Text that no table program takes for a formula."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text

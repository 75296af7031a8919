"""For whoever watches the installation: does everything answer, and how much waits?"""

from __future__ import annotations

from dataclasses import dataclass, field

from fotaxis.services.ports import Clock, Database, Unavailable
from fotaxis.services.turns import Turns
from fotaxis.services.work import ALIVE


@dataclass(frozen=True, slots=True, kw_only=True)
class Health:
    """workers and waiting by lane: screen, final; pictures: quick ones that wait in this server."""

    database: bool
    workers: dict[str, int] = field(default_factory=dict)
    waiting: dict[str, int] = field(default_factory=dict)
    pictures: int = 0

    @property
    def well(self) -> bool:
        """Can people work?"""
        return self.database


class Watch:
    """Over a database whose statements have short time limits of their own."""

    def __init__(self, database: Database, turns: Turns, clock: Clock) -> None:
        self._database, self._turns, self._clock = database, turns, clock

    def look(self) -> Health:
        try:
            with self._database.transaction() as repo:
                return Health(
                    database=True, workers=repo.workers(since=self._clock() - ALIVE), waiting=repo.work_waiting(),
                    pictures=self._turns.length,
                )  # fmt: skip
        except Unavailable:
            return Health(database=False, pictures=self._turns.length)

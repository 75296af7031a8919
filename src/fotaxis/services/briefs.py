"""What a job is to give: its purpose, deliverables, looks, manner of lighting and dates."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import date
from typing import Any
from uuid import UUID

from fotaxis.services.ports import Database, Job, Refused
from fotaxis.services.sanitise import keepable

MOST_WORDS = 2000
MOST_DELIVERABLES = 40
MOST_PIXELS = 60_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Deliverable:
    """So many pictures of one crop and size: width and height as parts ("4:5"), long side in pixels (0: as taken)."""

    name: str
    wide: float = 4.0
    high: float = 5.0
    long_side_px: int = 0
    count: int = 1

    @property
    def words(self) -> str:
        size = f", {self.long_side_px:,} px long" if self.long_side_px else ""
        return f"{self.count} × {self.name}, {self.wide:g}:{self.high:g}{size}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Brief:
    """Dates as year-month-day, '' where there is none."""

    purpose: str = ""
    looks: str = ""
    manner: str = ""
    rehearsal: str = ""
    visit: str = ""
    deliverables: tuple[Deliverable, ...] = ()

    @classmethod
    def of(cls, job: Job) -> Brief:
        """As a job keeps it."""
        kept: dict[str, Any] = dict(job.brief)
        made = tuple(Deliverable(**one) for one in kept.pop("deliverables", []))
        return cls(**kept, deliverables=made)

    @property
    def told(self) -> bool:
        return self != Brief()


def deliverable(name: str, ratio: str, long_side: str, count: str) -> Deliverable:
    """One as typed: 'Shop', '1:1', '2400', '6'. Raises Refused in words."""
    name = " ".join(keepable(name).split())[:80]
    wide, _, high = ratio.replace("×", ":").replace("x", ":").replace("/", ":").partition(":")
    try:
        w, h = float(wide.replace(",", ".")), float(high.replace(",", "."))
    except ValueError:
        w = h = 0.0
    if not (0.1 <= w <= 1000 and 0.1 <= h <= 1000 and 0.05 <= w / h <= 20):
        raise Refused(f"{name}: a crop is written as 4:5, 1:1 or 16:9.")
    pixels = _whole(long_side or "0", f"{name}: the long side", MOST_PIXELS, least=0)
    return Deliverable(
        name=name, wide=w, high=h, long_side_px=pixels, count=_whole(count or "1", f"{name}: how many", 9999, least=1)
    )


def _whole(text: str, what: str, most: int, *, least: int) -> int:
    try:
        number = int(text.strip())
    except ValueError:
        number = -1
    if not least <= number <= most:
        raise Refused(f"{what} is {text.strip()[:20]!r}; write a whole number, {least} to {most:,}.")
    return number


def day(text: str, what: str) -> str:
    """A day as year-month-day, or ''. Raises Refused."""
    if not text.strip():
        return ""
    try:
        return date.fromisoformat(text.strip()).isoformat()
    except ValueError:
        raise Refused(f"{what} is {text[:20]!r}; write a day as 2027-03-14.") from None


class Briefs:
    """Of jobs: read with the job, kept here."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def keep(
        self, studio_id: UUID, job_id: UUID, *, purpose: str, looks: str, manner: str, rehearsal: str, visit: str,
        deliverables: Sequence[Deliverable],
    ) -> None:  # fmt: skip
        """Raises Refused where something cannot be."""
        if len(deliverables) > MOST_DELIVERABLES:
            raise Refused(f"A job has at most {MOST_DELIVERABLES} sorts of deliverables.")
        brief = Brief(
            purpose=_words(purpose), looks=_words(looks), manner=_words(manner), rehearsal=day(rehearsal, "The rehearsal"),
            visit=day(visit, "The client's visit"), deliverables=tuple(deliverables),
        )  # fmt: skip
        with self._database.transaction() as repo:
            repo.set_brief(studio_id, job_id, brief=asdict(brief))
            repo.add_event(studio_id, kind="job", words=f"Changed the brief of {repo.job(studio_id, job_id).name}")


def _words(text: str) -> str:
    return keepable(text).strip()[:MOST_WORDS]

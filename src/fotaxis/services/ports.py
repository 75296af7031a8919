"""What services need from outside: records they exchange with storage, and the Protocols main wires."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import AbstractContextManager
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import Any, Protocol
from uuid import UUID

import numpy as np

from fotaxis.core.frames.line import ReadingLine
from fotaxis.core.frames.photograph import PhotoExposure, Photograph
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.prediction.plan import Plan

Document = dict[str, Any]
"""A shot document as plain JSON values."""


class NotFound(Exception):
    """The thing does not exist, or belongs to another studio: callers cannot tell which."""


class Refused(Exception):
    """The wish cannot be met; the message says why and what to do."""


@dataclass(frozen=True, slots=True, kw_only=True)
class User:
    id: UUID
    studio_id: UUID
    studio_name: str
    login: str
    name: str
    password_hash: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SignIn:
    user: User
    csrf_token: str
    expires_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    id: UUID
    studio_id: UUID
    name: str
    archived: bool
    created_at: datetime
    shot_count: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Shot:
    id: UUID
    studio_id: UUID
    job_id: UUID
    job_name: str
    name: str
    archived: bool
    revision: int
    newest_revision: int
    updated_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class ShotState:
    """One state a shot has been in. parent: number of the one it grew from; pin: the name it is pinned under, or ''."""

    number: int
    parent: int | None
    label: str
    pin: str
    created_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Revision:
    """A state with its document."""

    state: ShotState
    document: Document


@dataclass(frozen=True, slots=True, kw_only=True)
class Frame:
    id: UUID
    studio_id: UUID
    shot_id: UUID
    file_name: str
    media_type: str
    size_bytes: int
    width: int
    height: int
    note: str
    exposure: PhotoExposure
    created_at: datetime


class FinalState(StrEnum):
    """What a final picture is at."""

    WAITING = "waiting"
    WORKING = "working"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


@dataclass(frozen=True, slots=True, kw_only=True)
class Final:
    """A final-quality picture of one revision of a shot, asked for, being made or made; done: share of the work, 0..1."""

    id: UUID
    studio_id: UUID
    shot_id: UUID
    revision: int
    label: str
    long_side: int
    state: FinalState
    done: float
    problem: str
    created_at: datetime
    began_at: datetime | None
    ended_at: datetime | None

    @property
    def open(self) -> bool:
        """Still to be made."""
        return self.state in (FinalState.WAITING, FinalState.WORKING)


class Repository(Protocol):
    """One transaction's view of the database. Every reading and writing call that touches a studio's rows names it."""

    def any_user(self) -> bool: ...
    def add_owner(self, *, studio_name: str, login: str, name: str, password_hash: str) -> User: ...
    def user_by_login(self, login: str) -> User | None: ...
    def add_sign_in(self, *, token_hash: str, user_id: UUID, csrf_token: str, expires_at: datetime) -> None: ...
    def sign_in(self, token_hash: str, *, now: datetime) -> SignIn | None: ...
    def remove_sign_in(self, token_hash: str) -> None: ...
    def count_failures(self, *, login: str, address: str, since: datetime) -> tuple[int, int]: ...
    def add_failure(self, *, login: str, address: str, at: datetime) -> None: ...
    def clear_failures(self, *, login: str) -> None: ...

    def jobs(self, studio_id: UUID, *, archived: bool) -> list[Job]: ...
    def job(self, studio_id: UUID, job_id: UUID) -> Job: ...
    def add_job(self, studio_id: UUID, *, name: str) -> Job: ...
    def rename_job(self, studio_id: UUID, job_id: UUID, *, name: str) -> None: ...
    def archive_job(self, studio_id: UUID, job_id: UUID, *, archived: bool) -> None: ...

    def shots(self, studio_id: UUID, job_id: UUID, *, archived: bool) -> list[Shot]: ...
    def shot(self, studio_id: UUID, shot_id: UUID, *, lock: bool = False) -> Shot: ...
    def add_shot(self, studio_id: UUID, job_id: UUID, *, name: str, document: Document, label: str) -> Shot: ...
    def rename_shot(self, studio_id: UUID, shot_id: UUID, *, name: str) -> None: ...
    def archive_shot(self, studio_id: UUID, shot_id: UUID, *, archived: bool) -> None: ...
    def revision(self, studio_id: UUID, shot_id: UUID, number: int) -> Revision: ...
    def states(self, studio_id: UUID, shot_id: UUID) -> list[ShotState]: ...
    def state_labels(self, studio_id: UUID, shot_id: UUID, number: int) -> tuple[str, int | None, str]: ...
    def pin_revision(self, studio_id: UUID, shot_id: UUID, number: int, *, name: str) -> None: ...
    def add_view_link(self, studio_id: UUID, shot_id: UUID, *, token_hash: str) -> None: ...
    def view_link(self, token_hash: str) -> tuple[UUID, UUID]: ...
    def view_links(self, studio_id: UUID, shot_id: UUID) -> int: ...
    def remove_view_links(self, studio_id: UUID, shot_id: UUID) -> None: ...
    def add_revision(self, studio_id: UUID, shot_id: UUID, *, after: int, label: str, document: Document) -> int: ...
    def go_to_revision(self, studio_id: UUID, shot_id: UUID, number: int) -> None: ...
    def thumbnail(self, studio_id: UUID, shot_id: UUID) -> tuple[int, bytes] | None: ...
    def keep_thumbnail(self, studio_id: UUID, shot_id: UUID, *, revision: int, picture: bytes) -> None: ...

    def frames(self, studio_id: UUID, shot_id: UUID) -> list[Frame]: ...
    def frame(self, studio_id: UUID, frame_id: UUID) -> Frame: ...
    def frame_bytes(self, studio_id: UUID, frame_id: UUID) -> bytes: ...
    def add_frame(
        self, studio_id: UUID, shot_id: UUID, *, file_name: str, data: bytes, photo: Photograph, note: str
    ) -> Frame: ...
    def note_frame(self, studio_id: UUID, frame_id: UUID, *, note: str) -> None: ...
    def remove_frame(self, studio_id: UUID, frame_id: UUID) -> None: ...

    def finals(self, studio_id: UUID, shot_id: UUID) -> list[Final]: ...
    def final(self, studio_id: UUID, final_id: UUID, *, lock: bool = False) -> Final: ...
    def add_final(self, studio_id: UUID, shot_id: UUID, *, revision: int, label: str, long_side: int) -> Final: ...
    def mark_final(self, studio_id: UUID, final_id: UUID, *, state: FinalState, done: float, problem: str = "") -> None: ...
    def keep_final(self, studio_id: UUID, final_id: UUID, *, png: bytes, exr: bytes) -> None: ...
    def final_file(self, studio_id: UUID, final_id: UUID, kind: str) -> bytes: ...
    def remove_final(self, studio_id: UUID, final_id: UUID) -> None: ...


class FinalQueue(Protocol):
    """Hands finals to workers, each to one, and again to another when that one dies."""

    def put(self, studio_id: UUID, final_id: UUID) -> None: ...


class FinalWriter(Protocol):
    """Bytes of a finished picture: as the camera's file would show it, and its linear layers at their powers."""

    def png(self, picture: np.ndarray) -> bytes: ...
    def exr(self, *, keys: tuple[str, ...], pictures: np.ndarray) -> bytes: ...


class Database(Protocol):
    """Opens transactions: committed at the end of the block, rolled back when it raises."""

    def transaction(self) -> AbstractContextManager[Repository]: ...


class ShotCodec(Protocol):
    """Shot documents to checked values and back."""

    def check(self, document: object) -> Document:
        """The document in its canonical form; raises FormatError with the place of a fault."""
        ...

    def current(self, document: Document) -> Document:
        """A kept document as one of this version; nothing is checked."""
        ...

    def plan(self, document: Document) -> Plan:
        """The checked set of a document, checked anew; raises FormatError as check does."""
        ...

    def follower(self) -> Callable[[Document], Plan]:
        """As plan, for documents that follow one hand: what they share with the ones before is not made anew."""
        ...

    def line(self, document: Document) -> ReadingLine: ...
    def readings(self, document: Document) -> tuple[NamedReading, ...]: ...
    def read(self, data: bytes) -> Document: ...
    def write(self, document: Document) -> bytes: ...


class PhotoReader(Protocol):
    def __call__(self, data: bytes) -> Photograph: ...


class PictureWriter(Protocol):
    def __call__(self, picture: np.ndarray) -> bytes: ...


class PasswordKeeper(Protocol):
    def hash(self, password: str) -> str: ...
    def verify(self, password: str, password_hash: str) -> bool: ...


class Clock(Protocol):
    def __call__(self) -> datetime: ...

"""Records that services exchange with storage."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum
from typing import Any
from uuid import UUID

from fotaxis.core.frames.photograph import PhotoExposure
from fotaxis.core.lights.kit import Piece

Document = dict[str, Any]
"""A shot document as plain JSON values."""


class Role(StrEnum):
    """What a person of a studio may do; each may all that the next may."""

    OWNER = "owner"
    PHOTOGRAPHER = "photographer"
    ASSISTANT = "assistant"
    CLIENT = "client"

    def may(self, needed: Role) -> bool:
        """Does this role hold what the needed one may?"""
        order = [*Role]
        return order.index(self) <= order.index(needed)


@dataclass(frozen=True, slots=True, kw_only=True)
class User:
    """A person of a studio. totp_secret: '' without a second factor; removed: may not sign in any more."""

    id: UUID
    studio_id: UUID
    studio_name: str
    login: str
    name: str
    role: Role
    removed: bool
    password_hash: str = field(repr=False)
    totp_secret: str = field(default="", repr=False)
    created_at: datetime | None = None
    studio_deleted_at: datetime | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SignIn:
    user: User
    csrf_token: str = field(repr=False)
    expires_at: datetime
    id: UUID
    token_hash: str = field(repr=False)
    seen_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenSession:
    """A sign-in as its owner sees it in the list."""

    id: UUID
    made_at: datetime
    seen_at: datetime
    address: str
    agent: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Invitation:
    id: UUID
    studio_id: UUID
    studio_name: str
    role: Role
    note: str
    made_by: str
    created_at: datetime
    expires_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Passkey:
    """A key that a browser or device holds; public_key and count as the standard's library needs them."""

    credential_id: bytes
    user_id: UUID
    studio_id: UUID
    public_key: bytes
    sign_count: int
    name: str
    created_at: datetime
    used_at: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """Something that somebody did, in words."""

    at: datetime
    who: str
    kind: str
    words: str
    shot_id: UUID | None
    shot_name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Usage:
    """What a studio keeps and may keep: bytes of photographs and finals, number of states."""

    photo_bytes: int
    photo_limit: int
    final_bytes: int
    final_limit: int
    states: int
    states_limit: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    id: UUID
    studio_id: UUID
    name: str
    archived: bool
    created_at: datetime
    shot_count: int = 0
    deleted_at: datetime | None = None
    brief: dict[str, Any] = field(default_factory=dict)


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
    window: str = ""
    deleted_at: datetime | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ShotState:
    """One state a shot has been in. parent: number of the one it grew from; pin: the name it is pinned under, or ''; who: by
    whom it was made, '' where that is not known; window: the window it was made in."""

    number: int
    parent: int | None
    label: str
    pin: str
    created_at: datetime
    who: str = ""
    window: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Revision:
    """A state with its document."""

    state: ShotState
    document: Document


@dataclass(frozen=True, slots=True, kw_only=True)
class ViewLink:
    """A link through which one shot may be looked at, as its studio sees it."""

    id: UUID
    made_by: str
    created_at: datetime
    expires_at: datetime
    visits: int
    last_visit_at: datetime | None


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
    capture: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class StepShot:
    """A step of the shooting list that was ticked; took_s: None where what went before it is not known."""

    step: str
    at: datetime
    who: str
    reckoned_s: float
    took_s: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class BookEntry:
    """What a shot is found by, as of a revision: words in lower case, and traits by name for finding others like it."""

    shot_id: UUID
    revision: int
    words: str
    traits: dict[str, float]


class FinalState(StrEnum):
    """What a final picture is at."""

    WAITING = "waiting"
    WORKING = "working"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


@dataclass(frozen=True, slots=True, kw_only=True)
class Final:
    """A final-quality picture of one revision of a shot, asked for, being made or made; done: share of the work, 0..1;
    before: how many others of any studio are made first."""

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
    attempts: int = 0
    before: int = 0

    @property
    def open(self) -> bool:
        """Still to be made."""
        return self.state in (FinalState.WAITING, FinalState.WORKING)


@dataclass(frozen=True, slots=True, kw_only=True)
class Merge:
    """Real frames joined, or to be; frames: ids by the capture's key; words: what was found; files: bytes by kind."""

    id: UUID
    studio_id: UUID
    shot_id: UUID
    revision: int
    frames: dict[str, str]
    state: FinalState
    done: float
    words: list[str]
    files: dict[str, int]
    problem: str
    created_at: datetime
    ended_at: datetime | None

    @property
    def open(self) -> bool:
        """Still to be made."""
        return self.state in (FinalState.WAITING, FinalState.WORKING)


class Lane(StrEnum):
    """Two kinds of work: pictures somebody waits for at a screen, and finals."""

    SCREEN = "screen"
    FINAL = "final"


@dataclass(frozen=True, slots=True, kw_only=True)
class Work:
    """A piece of work that a worker has claimed. kind and ref say what; payload: what is needed for it; attempts: this one too."""

    id: UUID
    studio_id: UUID
    lane: Lane
    kind: str
    ref: str
    payload: Document
    attempts: int


@dataclass(frozen=True, slots=True, kw_only=True)
class SharedPicture:
    """A picture that a worker made for everybody on the same database."""

    data: bytes = field(repr=False)
    media_type: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnPiece:
    """A piece of a studio's kit as it is kept."""

    id: UUID
    piece: Piece

"""The rows. Every table that holds a studio's work carries studio_id, and every query names it."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import (
    BigInteger,
    DateTime,
    ForeignKey,
    Index,
    LargeBinary,
    String,
    Text,
    UniqueConstraint,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

Moment = DateTime(timezone=True)
PHOTO_LIMIT, FINAL_LIMIT, STATES_LIMIT = 20_000_000_000, 10_000_000_000, 200_000
"""What a studio may keep unless its limits are set: bytes of photographs and of finals, states of all its shots."""


def now() -> datetime:
    """The present, with its zone."""
    return datetime.now(UTC)


class Base(DeclarativeBase):
    pass


class StudioRow(Base):
    __tablename__ = "studios"
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    name: Mapped[str] = mapped_column(String(80))
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
    deleted_at: Mapped[datetime | None] = mapped_column(Moment)
    served_at: Mapped[datetime | None] = mapped_column(Moment)
    photo_limit: Mapped[int] = mapped_column(BigInteger, default=PHOTO_LIMIT)
    final_limit: Mapped[int] = mapped_column(BigInteger, default=FINAL_LIMIT)
    states_limit: Mapped[int] = mapped_column(default=STATES_LIMIT)


class UserRow(Base):
    __tablename__ = "users"
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    login: Mapped[str] = mapped_column(String(80), unique=True)
    name: Mapped[str] = mapped_column(String(80))
    password_hash: Mapped[str] = mapped_column(String(300))
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
    role: Mapped[str] = mapped_column(String(16), default="owner")
    removed_at: Mapped[datetime | None] = mapped_column(Moment)
    totp_secret: Mapped[str] = mapped_column(String(64), default="")
    totp_step: Mapped[int] = mapped_column(BigInteger, default=0)


class SignInRow(Base):
    __tablename__ = "sign_ins"
    token_hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    user_id: Mapped[UUID] = mapped_column(ForeignKey("users.id"))
    csrf_token: Mapped[str] = mapped_column(String(64))
    expires_at: Mapped[datetime] = mapped_column(Moment)
    id: Mapped[UUID] = mapped_column(default=uuid4)
    made_at: Mapped[datetime] = mapped_column(Moment, default=now)
    seen_at: Mapped[datetime] = mapped_column(Moment, default=now)
    address: Mapped[str] = mapped_column(String(64), default="")
    agent: Mapped[str] = mapped_column(String(200), default="")


class InvitationRow(Base):
    __tablename__ = "invitations"
    token_hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    id: Mapped[UUID] = mapped_column(default=uuid4)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"), index=True)
    role: Mapped[str] = mapped_column(String(16))
    note: Mapped[str] = mapped_column(String(80))
    made_by: Mapped[str] = mapped_column(String(80))
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
    expires_at: Mapped[datetime] = mapped_column(Moment)


class ResetRow(Base):
    """A link with which one person may set a new password, once."""

    __tablename__ = "password_resets"
    token_hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    user_id: Mapped[UUID] = mapped_column(ForeignKey("users.id"))
    expires_at: Mapped[datetime] = mapped_column(Moment)


class PasskeyRow(Base):
    __tablename__ = "passkeys"
    credential_id: Mapped[bytes] = mapped_column(LargeBinary, primary_key=True)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    user_id: Mapped[UUID] = mapped_column(ForeignKey("users.id"), index=True)
    public_key: Mapped[bytes] = mapped_column(LargeBinary)
    sign_count: Mapped[int] = mapped_column(BigInteger)
    name: Mapped[str] = mapped_column(String(80))
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
    used_at: Mapped[datetime | None] = mapped_column(Moment)


class ChallengeRow(Base):
    """What a passkey is asked to sign: good for a few minutes, and once."""

    __tablename__ = "challenges"
    challenge: Mapped[bytes] = mapped_column(LargeBinary, primary_key=True)
    expires_at: Mapped[datetime] = mapped_column(Moment)


class EventRow(Base):
    """Something that somebody did, in words; the person's name as it was then."""

    __tablename__ = "events"
    __table_args__ = (Index("ix_events_studio", "studio_id", "at"),)
    id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=True)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    shot_id: Mapped[UUID | None] = mapped_column(ForeignKey("shots.id"), index=True)
    user_id: Mapped[UUID | None]
    who: Mapped[str] = mapped_column(String(80))
    kind: Mapped[str] = mapped_column(String(20))
    words: Mapped[str] = mapped_column(String(200))
    at: Mapped[datetime] = mapped_column(Moment, default=now)


class SaveRow(Base):
    """The key of a save, kept with it: the same save sent again is answered, not made again."""

    __tablename__ = "saves"
    user_id: Mapped[UUID] = mapped_column(primary_key=True)
    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    answer: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)
    at: Mapped[datetime] = mapped_column(Moment, default=now, index=True)


class FailureRow(Base):
    __tablename__ = "sign_in_failures"
    id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=True)
    login: Mapped[str] = mapped_column(String(80), index=True)
    address: Mapped[str] = mapped_column(String(64), index=True)
    at: Mapped[datetime] = mapped_column(Moment)


class JobRow(Base):
    __tablename__ = "jobs"
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"), index=True)
    name: Mapped[str] = mapped_column(String(80))
    archived_at: Mapped[datetime | None] = mapped_column(Moment)
    deleted_at: Mapped[datetime | None] = mapped_column(Moment)
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
    brief: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)


class PieceRow(Base):
    """So many equal pieces of what a studio owns."""

    __tablename__ = "kit_pieces"
    __table_args__ = (UniqueConstraint("studio_id", "kind", "name"),)
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"), index=True)
    kind: Mapped[str] = mapped_column(String(20))
    name: Mapped[str] = mapped_column(String(60))
    count: Mapped[int]
    values: Mapped[dict[str, Any]] = mapped_column(JSONB)


class ShotRow(Base):
    __tablename__ = "shots"
    __table_args__ = (Index("ix_shots_job", "studio_id", "job_id"),)
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    job_id: Mapped[UUID] = mapped_column(ForeignKey("jobs.id"))
    name: Mapped[str] = mapped_column(String(80))
    revision: Mapped[int]
    newest_revision: Mapped[int]
    archived_at: Mapped[datetime | None] = mapped_column(Moment)
    deleted_at: Mapped[datetime | None] = mapped_column(Moment)
    window: Mapped[str] = mapped_column(String(40), default="")
    pattern_id: Mapped[UUID | None] = mapped_column(ForeignKey("shots.id"))
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
    updated_at: Mapped[datetime] = mapped_column(Moment, default=now)


class RevisionRow(Base):
    __tablename__ = "revisions"
    __table_args__ = (UniqueConstraint("shot_id", "number"),)
    id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=True)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    shot_id: Mapped[UUID] = mapped_column(ForeignKey("shots.id"))
    number: Mapped[int]
    parent: Mapped[int | None]
    pin: Mapped[str | None] = mapped_column(String(80))
    label: Mapped[str] = mapped_column(String(80))
    document: Mapped[dict[str, Any]] = mapped_column(JSONB)
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
    user_id: Mapped[UUID | None]
    who: Mapped[str] = mapped_column(String(80), default="")
    window: Mapped[str] = mapped_column(String(40), default="")


class ViewLinkRow(Base):
    """Whoever has the token may look at the shot, and nothing else."""

    __tablename__ = "view_links"
    token_hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    shot_id: Mapped[UUID] = mapped_column(ForeignKey("shots.id"), index=True)
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
    id: Mapped[UUID] = mapped_column(default=uuid4)
    made_by: Mapped[str] = mapped_column(String(80), default="")
    expires_at: Mapped[datetime] = mapped_column(Moment)
    visits: Mapped[int] = mapped_column(default=0)
    last_visit_at: Mapped[datetime | None] = mapped_column(Moment)


class LastPictureRow(Base):
    """The picture that a shot's page shows before anything new is computed. key: of what is in it."""

    __tablename__ = "last_pictures"
    shot_id: Mapped[UUID] = mapped_column(ForeignKey("shots.id"), primary_key=True)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    key: Mapped[str] = mapped_column(String(80))
    data: Mapped[bytes] = mapped_column(LargeBinary)


class SharedPictureRow(Base):
    """A picture made by a worker, kept as long as there is room. key: of what is in it."""

    __tablename__ = "shared_pictures"
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"), primary_key=True)
    key: Mapped[str] = mapped_column(String(80), primary_key=True)
    media_type: Mapped[str] = mapped_column(String(40))
    size_bytes: Mapped[int] = mapped_column(BigInteger)
    data: Mapped[bytes] = mapped_column(LargeBinary)
    used_at: Mapped[datetime] = mapped_column(Moment, index=True)


class ThumbnailRow(Base):
    __tablename__ = "thumbnails"
    shot_id: Mapped[UUID] = mapped_column(ForeignKey("shots.id"), primary_key=True)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    revision: Mapped[int]
    picture: Mapped[bytes] = mapped_column(LargeBinary)


class FrameRow(Base):
    __tablename__ = "frames"
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    shot_id: Mapped[UUID] = mapped_column(ForeignKey("shots.id"), index=True)
    file_name: Mapped[str] = mapped_column(String(120))
    media_type: Mapped[str] = mapped_column(String(40))
    size_bytes: Mapped[int]
    width: Mapped[int]
    height: Mapped[int]
    note: Mapped[str] = mapped_column(Text)
    exposure: Mapped[dict[str, Any]] = mapped_column(JSONB)
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
    capture: Mapped[str] = mapped_column(String(60), default="")


class StepShotRow(Base):
    """A step of the shooting list that was ticked: when, by whom, what it was reckoned to take and what it took."""

    __tablename__ = "steps_shot"
    shot_id: Mapped[UUID] = mapped_column(ForeignKey("shots.id"), primary_key=True)
    step: Mapped[str] = mapped_column(String(80), primary_key=True)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"), index=True)
    at: Mapped[datetime] = mapped_column(Moment)
    who: Mapped[str] = mapped_column(String(80), default="")
    reckoned_s: Mapped[float]
    took_s: Mapped[float | None]


class MergeRow(Base):
    """Real frames joined, or to be. frames: ids by capture; words: what was found; files: bytes by kind."""

    __tablename__ = "merges"
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"), index=True)
    shot_id: Mapped[UUID] = mapped_column(ForeignKey("shots.id"), index=True)
    revision: Mapped[int]
    frames: Mapped[dict[str, Any]] = mapped_column(JSONB)
    state: Mapped[str] = mapped_column(String(12), default="waiting")
    done: Mapped[float] = mapped_column(default=0.0)
    words: Mapped[list[Any]] = mapped_column(JSONB, default=list)
    files: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)
    size_bytes: Mapped[int] = mapped_column(BigInteger, default=0)
    problem: Mapped[str] = mapped_column(String(400), default="")
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
    ended_at: Mapped[datetime | None] = mapped_column(Moment)


class BookRow(Base):
    """What a shot is found by, as of a revision; written anew when that is out of date."""

    __tablename__ = "book"
    shot_id: Mapped[UUID] = mapped_column(ForeignKey("shots.id"), primary_key=True)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"), index=True)
    revision: Mapped[int]
    words: Mapped[str] = mapped_column(Text)
    traits: Mapped[dict[str, Any]] = mapped_column(JSONB)


class BlobRow(Base):
    """Bytes of photographs and finals, where they are kept in the database itself."""

    __tablename__ = "blobs"
    key: Mapped[str] = mapped_column(String(120), primary_key=True)
    data: Mapped[bytes] = mapped_column(LargeBinary)


class FinalRow(Base):
    __tablename__ = "finals"
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    shot_id: Mapped[UUID] = mapped_column(ForeignKey("shots.id"), index=True)
    revision: Mapped[int]
    label: Mapped[str] = mapped_column(String(120))
    long_side: Mapped[int]
    state: Mapped[str] = mapped_column(String(12), default="waiting")
    done: Mapped[float] = mapped_column(default=0.0)
    problem: Mapped[str] = mapped_column(String(400), default="")
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)
    began_at: Mapped[datetime | None] = mapped_column(Moment)
    ended_at: Mapped[datetime | None] = mapped_column(Moment)
    attempts: Mapped[int] = mapped_column(default=0)
    size_bytes: Mapped[int] = mapped_column(BigInteger, default=0)


class WorkRow(Base):
    """Something that a worker has to do. It belongs to whoever claimed it until that moment is over; then anybody may."""

    __tablename__ = "work"
    __table_args__ = (UniqueConstraint("studio_id", "kind", "ref"), Index("ix_work_lane", "lane", "created_at"))
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    lane: Mapped[str] = mapped_column(String(8))
    kind: Mapped[str] = mapped_column(String(12))
    ref: Mapped[str] = mapped_column(String(80))
    payload: Mapped[dict[str, Any]] = mapped_column(JSONB)
    attempts: Mapped[int] = mapped_column(default=0)
    worker: Mapped[str] = mapped_column(String(80), default="")
    claimed_until: Mapped[datetime | None] = mapped_column(Moment)
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)


class WorkerRow(Base):
    """A worker that lives, as it told last."""

    __tablename__ = "workers"
    name: Mapped[str] = mapped_column(String(80), primary_key=True)
    lane: Mapped[str] = mapped_column(String(8))
    seen_at: Mapped[datetime] = mapped_column(Moment)

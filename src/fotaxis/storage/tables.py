"""The rows. Every table that holds a studio's work carries studio_id, and every query names it."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import BigInteger, DateTime, ForeignKey, Index, LargeBinary, String, Text, UniqueConstraint
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

Moment = DateTime(timezone=True)


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


class UserRow(Base):
    __tablename__ = "users"
    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    login: Mapped[str] = mapped_column(String(80), unique=True)
    name: Mapped[str] = mapped_column(String(80))
    password_hash: Mapped[str] = mapped_column(String(300))
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)


class SignInRow(Base):
    __tablename__ = "sign_ins"
    token_hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    user_id: Mapped[UUID] = mapped_column(ForeignKey("users.id"))
    csrf_token: Mapped[str] = mapped_column(String(64))
    expires_at: Mapped[datetime] = mapped_column(Moment)


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
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)


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


class ViewLinkRow(Base):
    """Whoever has the token may look at the shot, and nothing else."""

    __tablename__ = "view_links"
    token_hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    shot_id: Mapped[UUID] = mapped_column(ForeignKey("shots.id"), index=True)
    created_at: Mapped[datetime] = mapped_column(Moment, default=now)


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


class FrameFileRow(Base):
    """The file as it came, in a table of its own so that lists of frames stay light."""

    __tablename__ = "frame_files"
    frame_id: Mapped[UUID] = mapped_column(ForeignKey("frames.id", ondelete="CASCADE"), primary_key=True)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
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


class FinalFileRow(Base):
    """The finished pictures, in a table of its own so that lists of finals stay light."""

    __tablename__ = "final_files"
    final_id: Mapped[UUID] = mapped_column(ForeignKey("finals.id", ondelete="CASCADE"), primary_key=True)
    studio_id: Mapped[UUID] = mapped_column(ForeignKey("studios.id"))
    png: Mapped[bytes] = mapped_column(LargeBinary)
    exr: Mapped[bytes] = mapped_column(LargeBinary)

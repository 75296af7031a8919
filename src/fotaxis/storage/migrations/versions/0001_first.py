"""Studios, users, sign-ins, jobs, shots with revisions, thumbnails, frames."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None


def moment(name: str, *, nullable: bool = False) -> sa.Column:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=nullable)


def ref(name: str, target: str, **kw) -> sa.Column:
    return sa.Column(name, sa.Uuid, sa.ForeignKey(target, **kw), nullable=False)


def required(name: str, kind) -> sa.Column:
    return sa.Column(name, kind, nullable=False)


def upgrade() -> None:
    op.create_table(
        "studios", sa.Column("id", sa.Uuid, primary_key=True), required("name", sa.String(80)), moment("created_at")
    )
    op.create_table(
        "users",
        sa.Column("id", sa.Uuid, primary_key=True), ref("studio_id", "studios.id"),
        sa.Column("login", sa.String(80), nullable=False, unique=True), required("name", sa.String(80)),
        required("password_hash", sa.String(300)), moment("created_at"),
    )  # fmt: skip
    op.create_table(
        "sign_ins",
        sa.Column("token_hash", sa.String(64), primary_key=True), ref("user_id", "users.id"),
        required("csrf_token", sa.String(64)), moment("expires_at"),
    )  # fmt: skip
    op.create_table(
        "sign_in_failures",
        sa.Column("id", sa.BigInteger, primary_key=True, autoincrement=True),
        sa.Column("login", sa.String(80), nullable=False, index=True),
        sa.Column("address", sa.String(64), nullable=False, index=True), moment("at"),
    )  # fmt: skip
    op.create_table(
        "jobs",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("studio_id", sa.Uuid, sa.ForeignKey("studios.id"), nullable=False, index=True),
        required("name", sa.String(80)), moment("archived_at", nullable=True), moment("created_at"),
    )  # fmt: skip
    op.create_table(
        "shots",
        sa.Column("id", sa.Uuid, primary_key=True), ref("studio_id", "studios.id"), ref("job_id", "jobs.id"),
        required("name", sa.String(80)), required("revision", sa.Integer), required("newest_revision", sa.Integer),
        moment("archived_at", nullable=True), moment("created_at"), moment("updated_at"),
    )  # fmt: skip
    op.create_index("ix_shots_job", "shots", ["studio_id", "job_id"])
    op.create_table(
        "revisions",
        sa.Column("id", sa.BigInteger, primary_key=True, autoincrement=True), ref("studio_id", "studios.id"),
        ref("shot_id", "shots.id"), required("number", sa.Integer), required("label", sa.String(80)),
        required("document", JSONB), moment("created_at"), sa.UniqueConstraint("shot_id", "number"),
    )  # fmt: skip
    op.create_table(
        "thumbnails",
        sa.Column("shot_id", sa.Uuid, sa.ForeignKey("shots.id"), primary_key=True), ref("studio_id", "studios.id"),
        required("revision", sa.Integer), required("picture", sa.LargeBinary),
    )  # fmt: skip
    op.create_table(
        "frames",
        sa.Column("id", sa.Uuid, primary_key=True), ref("studio_id", "studios.id"),
        sa.Column("shot_id", sa.Uuid, sa.ForeignKey("shots.id"), nullable=False, index=True),
        required("file_name", sa.String(120)), required("media_type", sa.String(40)), required("size_bytes", sa.Integer),
        required("width", sa.Integer), required("height", sa.Integer), required("note", sa.Text),
        required("exposure", JSONB), moment("created_at"),
    )  # fmt: skip
    op.create_table(
        "frame_files",
        sa.Column("frame_id", sa.Uuid, sa.ForeignKey("frames.id", ondelete="CASCADE"), primary_key=True),
        ref("studio_id", "studios.id"), required("data", sa.LargeBinary),
    )  # fmt: skip


def downgrade() -> None:
    for table in (
        "frame_files", "frames", "thumbnails", "revisions", "shots", "jobs", "sign_in_failures", "sign_ins", "users",
        "studios",
    ):  # fmt: skip
        op.drop_table(table)

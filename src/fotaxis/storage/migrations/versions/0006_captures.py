"""Frames of captures, steps that were shot, merges, series, and what shots are found by."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column("frames", sa.Column("capture", sa.String(60), nullable=False, server_default=""))
    op.add_column("shots", sa.Column("pattern_id", sa.Uuid, sa.ForeignKey("shots.id"), nullable=True))
    op.create_index("ix_shots_pattern", "shots", ["pattern_id"])
    op.create_table(
        "steps_shot",
        sa.Column("shot_id", sa.Uuid, sa.ForeignKey("shots.id"), primary_key=True),
        sa.Column("step", sa.String(80), primary_key=True),
        sa.Column("studio_id", sa.Uuid, sa.ForeignKey("studios.id"), nullable=False, index=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("who", sa.String(80), nullable=False, server_default=""),
        sa.Column("reckoned_s", sa.Float, nullable=False),
        sa.Column("took_s", sa.Float, nullable=True),
    )
    op.create_table(
        "merges",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("studio_id", sa.Uuid, sa.ForeignKey("studios.id"), nullable=False, index=True),
        sa.Column("shot_id", sa.Uuid, sa.ForeignKey("shots.id"), nullable=False, index=True),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("frames", postgresql.JSONB, nullable=False),
        sa.Column("state", sa.String(12), nullable=False, server_default="waiting"),
        sa.Column("done", sa.Float, nullable=False, server_default="0"),
        sa.Column("words", postgresql.JSONB, nullable=False, server_default="[]"),
        sa.Column("files", postgresql.JSONB, nullable=False, server_default="{}"),
        sa.Column("size_bytes", sa.BigInteger, nullable=False, server_default="0"),
        sa.Column("problem", sa.String(400), nullable=False, server_default=""),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ended_at", sa.DateTime(timezone=True), nullable=True),
    )
    op.create_table(
        "book",
        sa.Column("shot_id", sa.Uuid, sa.ForeignKey("shots.id"), primary_key=True),
        sa.Column("studio_id", sa.Uuid, sa.ForeignKey("studios.id"), nullable=False, index=True),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("words", sa.Text, nullable=False),
        sa.Column("traits", postgresql.JSONB, nullable=False),
    )


def downgrade() -> None:
    for table in ("book", "merges", "steps_shot"):
        op.drop_table(table)
    op.drop_index("ix_shots_pattern", "shots")
    op.drop_column("shots", "pattern_id")
    op.drop_column("frames", "capture")

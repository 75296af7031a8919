"""Final pictures. Earlier installations have a queue of a package of its own beside them, which 0004 takes away."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    moment = sa.DateTime(timezone=True)
    op.create_table(
        "finals",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("studio_id", sa.Uuid, sa.ForeignKey("studios.id"), nullable=False),
        sa.Column("shot_id", sa.Uuid, sa.ForeignKey("shots.id"), nullable=False, index=True),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("label", sa.String(120), nullable=False),
        sa.Column("long_side", sa.Integer, nullable=False),
        sa.Column("state", sa.String(12), nullable=False),
        sa.Column("done", sa.Float, nullable=False),
        sa.Column("problem", sa.String(400), nullable=False),
        sa.Column("created_at", moment, nullable=False),
        sa.Column("began_at", moment),
        sa.Column("ended_at", moment),
    )
    op.create_table(
        "final_files",
        sa.Column("final_id", sa.Uuid, sa.ForeignKey("finals.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("studio_id", sa.Uuid, sa.ForeignKey("studios.id"), nullable=False),
        sa.Column("png", sa.LargeBinary, nullable=False),
        sa.Column("exr", sa.LargeBinary, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("final_files")
    op.drop_table("finals")

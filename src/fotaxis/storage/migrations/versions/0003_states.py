"""Every state of a shot is kept: what each grew from, which are pinned, and links for looking only."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.add_column("revisions", sa.Column("parent", sa.Integer))
    op.execute("update revisions set parent = number - 1 where number > 1")
    op.add_column("revisions", sa.Column("pin", sa.String(80)))
    op.create_table(
        "view_links",
        sa.Column("token_hash", sa.String(64), primary_key=True),
        sa.Column("studio_id", sa.Uuid, sa.ForeignKey("studios.id"), nullable=False),
        sa.Column("shot_id", sa.Uuid, sa.ForeignKey("shots.id"), nullable=False, index=True),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("view_links")
    op.drop_column("revisions", "pin")
    op.drop_column("revisions", "parent")

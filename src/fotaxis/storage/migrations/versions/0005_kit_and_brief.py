"""What a studio owns, and what each job is to give."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.create_table(
        "kit_pieces",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("studio_id", sa.Uuid, sa.ForeignKey("studios.id"), nullable=False, index=True),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("count", sa.Integer, nullable=False),
        sa.Column("values", postgresql.JSONB, nullable=False),
        sa.UniqueConstraint("studio_id", "kind", "name"),
    )
    op.add_column("jobs", sa.Column("brief", postgresql.JSONB, nullable=False, server_default="{}"))


def downgrade() -> None:
    op.drop_column("jobs", "brief")
    op.drop_table("kit_pieces")

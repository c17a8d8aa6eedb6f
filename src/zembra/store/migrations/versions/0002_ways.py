"""Kept ways of reading."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "way",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False, unique=True),
        sa.Column("columns", sa.String, nullable=False),
        sa.Column("how", sa.String, nullable=False),
        sa.Column("ledger", sa.String, nullable=False),
        sa.Column("kept_at", sa.DateTime, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("way")

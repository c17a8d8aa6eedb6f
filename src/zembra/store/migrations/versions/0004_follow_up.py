"""What was noted of periods, a step a row, so that it can be taken back apart from the ledger."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "note",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("study_id", sa.Integer, sa.ForeignKey("study.id"), nullable=False, index=True),
        sa.Column("series", sa.String, nullable=False),
        sa.Column("period", sa.String, nullable=False),
        sa.Column("note", sa.String, nullable=False),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("who", sa.String, nullable=False),
        sa.Column("by_hand", sa.Boolean, nullable=False),
        sa.Column("found_by", sa.String, nullable=False),
        sa.Column("value", sa.Float),
        sa.Column("distance", sa.Float),
        sa.Column("standing", sa.String, nullable=False),
        sa.Column("made_at", sa.DateTime, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("note")

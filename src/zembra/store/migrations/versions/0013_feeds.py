"""Feeds, watches, what they found, and who was told."""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "feed",
        sa.Column("study_id", sa.Integer, sa.ForeignKey("study.id"), primary_key=True),
        sa.Column("words", sa.String, nullable=False),
        sa.Column("private", sa.Boolean, nullable=False),
        sa.Column("cursor", sa.String, nullable=False),
        sa.Column("looked_at", sa.DateTime, nullable=True),
        sa.Column("due_at", sa.DateTime, nullable=True),
        sa.Column("tries", sa.Integer, nullable=False),
        sa.Column("said", sa.String, nullable=False),
        sa.Column("trouble", sa.String, nullable=False),
        sa.Column("received_id", sa.Integer, sa.ForeignKey("dataset.id"), nullable=True),
        sa.Column("digest", sa.String, nullable=False),
    )
    op.create_table(
        "watchof",
        sa.Column("study_id", sa.Integer, sa.ForeignKey("study.id"), primary_key=True),
        sa.Column("words", sa.String, nullable=False),
        sa.Column("token", sa.String, nullable=False, unique=True),
        sa.Column("private", sa.Boolean, nullable=False),
        sa.Column("looked", sa.String, nullable=False),
        sa.Column("unsaid", sa.String, nullable=False),
    )
    op.create_table(
        "watchfinding",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("study_id", sa.Integer, sa.ForeignKey("study.id"), nullable=False),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("series", sa.String, nullable=False),
        sa.Column("period", sa.String, nullable=False),
        sa.Column("text", sa.String, nullable=False),
        sa.Column("value", sa.Float, nullable=True),
        sa.Column("found_at", sa.DateTime, nullable=False),
        sa.Column("gone_at", sa.DateTime, nullable=True),
    )
    op.create_index("ix_watchfinding_study_id", "watchfinding", ["study_id"])
    op.create_table(
        "telling",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("finding_id", sa.Integer, sa.ForeignKey("watchfinding.id"), nullable=False),
        sa.Column("way", sa.String, nullable=False),
        sa.Column("gone", sa.Boolean, nullable=False),
        sa.Column("tries", sa.Integer, nullable=False),
        sa.Column("due_at", sa.DateTime, nullable=False),
        sa.Column("told_at", sa.DateTime, nullable=True),
        sa.Column("trouble", sa.String, nullable=False),
        sa.UniqueConstraint("finding_id", "way", "gone"),
    )
    op.create_index("ix_telling_finding_id", "telling", ["finding_id"])


def downgrade() -> None:
    for table in ("telling", "watchfinding", "watchof", "feed"):
        op.drop_table(table)

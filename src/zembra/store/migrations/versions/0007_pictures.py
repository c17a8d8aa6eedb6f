"""House styles and snapshots are kept."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "style",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False, unique=True),
        sa.Column("words", sa.String, nullable=False),
        sa.Column("kept_at", sa.DateTime, nullable=False),
    )
    op.create_table(
        "snapshot",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("study_id", sa.Integer, sa.ForeignKey("study.id"), nullable=False, index=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("as_of", sa.Date, nullable=False),
        sa.Column("svg", sa.String, nullable=False),
        sa.Column("alt", sa.String, nullable=False),
        sa.Column("note", sa.String, nullable=False),
        sa.Column("points", sa.LargeBinary, nullable=False),
        sa.Column("lines", sa.LargeBinary, nullable=False),
        sa.Column("account", sa.LargeBinary, nullable=False),
        sa.Column("made_at", sa.DateTime, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("snapshot")
    op.drop_table("style")

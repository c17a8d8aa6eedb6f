"""Files and snapshots can be taken off and brought back; what the list of studies says of a study is kept."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("dataset", sa.Column("removed_at", sa.DateTime, nullable=True))
    op.add_column("snapshot", sa.Column("removed_at", sa.DateTime, nullable=True))
    op.create_table(
        "summary",
        sa.Column("study_id", sa.Integer, sa.ForeignKey("study.id"), primary_key=True),
        sa.Column("key", sa.String, nullable=False),
        sa.Column("view", sa.String, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("summary")
    op.drop_column("snapshot", "removed_at")
    op.drop_column("dataset", "removed_at")

"""What judging gave is kept."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "judgedresult",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("study_id", sa.Integer, sa.ForeignKey("study.id"), nullable=False, index=True),
        sa.Column("key", sa.String, nullable=False, unique=True),
        sa.Column("view", sa.String, nullable=False),
        sa.Column("made_at", sa.DateTime, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("judgedresult")

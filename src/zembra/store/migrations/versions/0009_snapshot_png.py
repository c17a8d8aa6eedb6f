"""A snapshot keeps its picture as PNG too; those that were taken before have none."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("snapshot", sa.Column("png", sa.LargeBinary, nullable=True))


def downgrade() -> None:
    op.drop_column("snapshot", "png")

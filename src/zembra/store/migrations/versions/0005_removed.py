"""A study that is removed can be brought back."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("study", sa.Column("removed_at", sa.DateTime))


def downgrade() -> None:
    with op.batch_alter_table("study") as batch:
        batch.drop_column("removed_at")

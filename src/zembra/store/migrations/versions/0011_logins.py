"""People who share a home; whoever came in with a key has a session that is kept, listed and ended."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "login",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("token_hash", sa.String, nullable=False, unique=True),
        sa.Column("key_hash", sa.String, nullable=False),
        sa.Column("agent", sa.String, nullable=False),
        sa.Column("made_at", sa.DateTime, nullable=False),
        sa.Column("seen_at", sa.DateTime, nullable=False),
    )
    op.create_table(
        "person",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False, unique=True),
        sa.Column("key_hash", sa.String, nullable=False, unique=True),
        sa.Column("may_change", sa.Boolean, nullable=False),
        sa.Column("added_at", sa.DateTime, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("person")
    op.drop_table("login")

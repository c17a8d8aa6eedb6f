"""Datasets, studies and revisions."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "dataset",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("sha256", sa.String, nullable=False, index=True),
        sa.Column("size", sa.Integer, nullable=False),
        sa.Column("data", sa.LargeBinary, nullable=False),
        sa.Column("how", sa.String, nullable=False),
        sa.Column("received_at", sa.DateTime, nullable=False),
    )
    op.create_table(
        "study",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("dataset_id", sa.Integer, sa.ForeignKey("dataset.id"), nullable=False, index=True),
        sa.Column("as_of", sa.Date),
        sa.Column("head", sa.Integer, nullable=False),
        sa.Column("created_at", sa.DateTime, nullable=False),
        sa.Column("changed_at", sa.DateTime, nullable=False),
    )
    op.create_table(
        "revision",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("study_id", sa.Integer, sa.ForeignKey("study.id"), nullable=False, index=True),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("parent", sa.Integer),
        sa.Column("ledger", sa.String, nullable=False),
        sa.Column("figure", sa.String, nullable=False),
        sa.Column("what", sa.String, nullable=False),
        sa.Column("made_at", sa.DateTime, nullable=False),
        sa.UniqueConstraint("study_id", "number"),
    )


def downgrade() -> None:
    op.drop_table("revision")
    op.drop_table("study")
    op.drop_table("dataset")

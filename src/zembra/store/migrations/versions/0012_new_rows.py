"""What was taken in, and projections as they were told."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "taking",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("study_id", sa.Integer, sa.ForeignKey("study.id"), nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("before_id", sa.Integer, sa.ForeignKey("dataset.id"), nullable=False),
        sa.Column("received_id", sa.Integer, sa.ForeignKey("dataset.id"), nullable=False),
        sa.Column("dataset_id", sa.Integer, sa.ForeignKey("dataset.id"), nullable=False),
        sa.Column("words", sa.String, nullable=False),
        sa.Column("how", sa.String, nullable=False),
        sa.Column("made_at", sa.DateTime, nullable=False),
        sa.Column("seal", sa.String, nullable=False, server_default=""),
    )
    op.create_index("ix_taking_study_id", "taking", ["study_id"])
    op.create_table(
        "issuedprojection",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("study_id", sa.Integer, sa.ForeignKey("study.id"), nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("as_of", sa.Date, nullable=False),
        sa.Column("why", sa.String, nullable=False),
        sa.Column("numbers", sa.LargeBinary, nullable=False),
        sa.Column("made_at", sa.DateTime, nullable=False),
        sa.Column("seal", sa.String, nullable=False, server_default=""),
        sa.UniqueConstraint("study_id", "revision"),
    )
    op.create_index("ix_issuedprojection_study_id", "issuedprojection", ["study_id"])


def downgrade() -> None:
    op.drop_table("issuedprojection")
    op.drop_table("taking")

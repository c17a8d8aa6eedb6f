"""Each revision says on which dataset and as-of date it was made; neither is the study's any more."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("revision", sa.Column("dataset_id", sa.Integer))
    op.add_column("revision", sa.Column("as_of", sa.Date))
    # a study without a date of its own believed in the day; its revisions keep the one they were made on
    op.execute(
        "UPDATE revision SET dataset_id = (SELECT dataset_id FROM study WHERE study.id = revision.study_id), "
        "as_of = (SELECT coalesce(study.as_of, date(revision.made_at)) FROM study WHERE study.id = revision.study_id)"
    )
    with op.batch_alter_table("revision") as batch:
        batch.alter_column("dataset_id", existing_type=sa.Integer, nullable=False)
        batch.alter_column("as_of", existing_type=sa.Date, nullable=False)
        batch.create_foreign_key("revision_dataset", "dataset", ["dataset_id"], ["id"])
    with op.batch_alter_table("study") as batch:
        batch.drop_index("ix_study_dataset_id")
        batch.drop_column("dataset_id")
        batch.drop_column("as_of")


def downgrade() -> None:
    op.add_column("study", sa.Column("dataset_id", sa.Integer))
    op.add_column("study", sa.Column("as_of", sa.Date))
    op.execute(
        "UPDATE study SET (dataset_id, as_of) = (SELECT dataset_id, as_of FROM revision "
        "WHERE revision.study_id = study.id AND revision.number = study.head)"
    )
    with op.batch_alter_table("study") as batch:
        batch.alter_column("dataset_id", existing_type=sa.Integer, nullable=False)
        batch.create_index("ix_study_dataset_id", ["dataset_id"])
    with op.batch_alter_table("revision") as batch:
        batch.drop_constraint("revision_dataset", type_="foreignkey")
        batch.drop_column("as_of")
        batch.drop_column("dataset_id")

"""Feeds, watches, findings, tellings, people, sessions and gaps have seals too; the rows of every sealed table are counted."""

from typing import Any

import sqlalchemy as sa
from alembic import op

from zembra.store.seals import sealed

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None

# as they are sealed from here on, each with what tells its rows apart
COLUMNS = {
    "feed": (
        "study_id",
        ("study_id", "words", "private", "cursor", "looked_at", "due_at", "tries", "said", "trouble", "received_id", "digest"),
    ),
    "watchof": ("study_id", ("study_id", "words", "token", "private", "looked", "unsaid")),
    "watchfinding": ("id", ("study_id", "kind", "series", "period", "text", "value", "found_at", "gone_at")),
    "telling": ("id", ("finding_id", "way", "gone", "tries", "due_at", "told_at", "trouble")),
    "person": ("id", ("name", "key_hash", "may_change", "added_at")),
    "login": ("id", ("token_hash", "key_hash", "agent", "made_at", "seen_at")),
    "gap": ("id", ("found_at", "confirmed", "found", "accepted_at")),
}  # fmt: skip
OTHERS = ("dataset", "study", "revision", "note", "snapshot", "taking", "issuedprojection", "style", "way")


def upgrade() -> None:
    connection = op.get_bind()
    raw: Any = connection.connection.dbapi_connection
    # as bytes, so that invalid text is sealed too
    raw.text_factory = bytes
    for table, (key, columns) in COLUMNS.items():
        op.add_column(table, sa.Column("seal", sa.String, nullable=False, server_default=""))
        for number, *values in connection.exec_driver_sql(
            f"SELECT {key}, {', '.join(columns)} FROM {table}"
        ).fetchall():
            seal = sealed(values)
            connection.exec_driver_sql(f"UPDATE {table} SET seal = ? WHERE {key} = ?", (seal, number))
    raw.text_factory = str
    op.create_table(
        "tally", sa.Column("name", sa.String, primary_key=True), sa.Column("rows", sa.Integer, nullable=False)
    )
    for table in (*OTHERS, *COLUMNS):
        connection.exec_driver_sql(f"INSERT INTO tally SELECT '{table}', count(*) FROM {table}")


def downgrade() -> None:
    op.drop_table("tally")
    for table in COLUMNS:
        op.drop_column(table, "seal")

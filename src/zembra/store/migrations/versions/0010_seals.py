"""Revisions say who made them; every kept row has a seal, those of revisions chained; what is kept is counted, so that what went missing is noticed."""

import secrets
from typing import Any

import sqlalchemy as sa
from alembic import op

from zembra.store.seals import sealed

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

# as they are sealed from here on; the first of a revision is its study
COLUMNS = {
    "dataset": ("name", "sha256", "size", "how", "received_at", "removed_at"),
    "study": ("name", "head", "created_at", "changed_at", "removed_at"),
    "revision": ("study_id", "number", "parent", "dataset_id", "as_of", "ledger", "figure", "what", "who", "made_at"),
    "note": (
        "study_id", "series", "period", "note", "state", "who", "by_hand", "found_by", "value", "distance", "standing",
        "made_at",
    ),
    "snapshot": (
        "study_id", "name", "revision", "as_of", "svg", "alt", "note", "points", "lines", "account", "png", "made_at",
        "removed_at",
    ),
    "style": ("name", "words", "kept_at"),
    "way": ("name", "columns", "how", "ledger", "kept_at"),
}  # fmt: skip


def upgrade() -> None:
    connection = op.get_bind()
    raw: Any = connection.connection.dbapi_connection
    # as bytes, so that invalid text is sealed too
    raw.text_factory = bytes
    op.add_column("revision", sa.Column("who", sa.String, nullable=False, server_default=""))
    for table, columns in COLUMNS.items():
        op.add_column(table, sa.Column("seal", sa.String, nullable=False, server_default=""))
        order = "study_id, number" if table == "revision" else "id"
        before: dict[object, str] = {}
        numbers = [row[0] for row in connection.exec_driver_sql(f"SELECT id FROM {table} ORDER BY {order}")]
        for number in numbers:
            query = f"SELECT {', '.join(columns)} FROM {table} WHERE id = ?"
            values = tuple(connection.exec_driver_sql(query, (number,)).one())
            chained = table == "revision"
            seal = sealed(values, before.get(values[0], "") if chained else "")
            before[values[0]] = seal
            connection.exec_driver_sql(f"UPDATE {table} SET seal = ? WHERE id = ?", (seal, number))
    raw.text_factory = str
    op.create_table(
        "mark",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("identity", sa.String, nullable=False),
        sa.Column("commits", sa.Integer, nullable=False),
    )
    connection.exec_driver_sql("INSERT INTO mark VALUES (1, ?, 0)", (secrets.token_hex(16),))
    op.create_table(
        "gap",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("found_at", sa.DateTime, nullable=False),
        sa.Column("confirmed", sa.Integer, nullable=False),
        sa.Column("found", sa.Integer, nullable=False),
        sa.Column("accepted_at", sa.DateTime, nullable=True),
    )


def downgrade() -> None:
    op.drop_table("gap")
    op.drop_table("mark")
    for table in COLUMNS:
        op.drop_column(table, "seal")
    op.drop_column("revision", "who")

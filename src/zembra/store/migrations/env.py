"""Alembic's entry point; the engine is handed over by store.database."""

from alembic import context
from sqlmodel import SQLModel

from zembra.store import tables  # noqa: F401  (its classes are the metadata)

context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=SQLModel.metadata,
    render_as_batch=True,
)
with context.begin_transaction():
    context.run_migrations()

"""Alembic's entry point; the engine is handed over by store.database."""

from alembic import context

from zembra.store import tables

context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=tables.SQLModel.metadata,
    render_as_batch=True,
)
with context.begin_transaction():
    context.run_migrations()

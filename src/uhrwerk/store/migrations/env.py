"""Alembic's entry: runs migrations on the connection that the store hands over."""

from alembic import context

from uhrwerk.store import tables

context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=tables.SQLModel.metadata,
    render_as_batch=True,
)
context.run_migrations()

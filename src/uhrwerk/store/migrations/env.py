"""Alembic's entry: runs migrations on the connection that the store hands over."""

from alembic import context
from sqlmodel import SQLModel

from uhrwerk.store import tables  # noqa: F401  (what is registered)

context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=SQLModel.metadata,
    render_as_batch=True,
)
context.run_migrations()

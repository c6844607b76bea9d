"""Runs migrations on the connection that the store hands over."""

from __future__ import annotations

from alembic import context

from fence.store.tables import Base

context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=Base.metadata,
    render_as_batch=True,
    transactional_ddl=True,
)
with context.begin_transaction():
    context.run_migrations()

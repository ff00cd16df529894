"""Alembic's entry: runs the migrations on the connection that the store hands over."""

from alembic import context

from aldea.store.tables import metadata

context.configure(connection=context.config.attributes["connection"], target_metadata=metadata)
with context.begin_transaction():
    context.run_migrations()

"""Alembic's entry: runs on the connection that `anabasis.store.migrate` hands over."""

from alembic import context

from anabasis.store.tables import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()

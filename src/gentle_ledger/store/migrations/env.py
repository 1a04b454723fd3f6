"""Runs the migrations on the connection that `Database.migrate` hands over."""

from alembic import context

from gentle_ledger.store.base import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()

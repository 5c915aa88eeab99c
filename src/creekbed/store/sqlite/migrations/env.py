"""Alembic's environment: runs on the connection that :func:`creekbed.store.sqlite.database.migrate` hands over."""

from alembic import context

from creekbed.store.tables import METADATA

context.configure(connection=context.config.attributes["connection"], target_metadata=METADATA, render_as_batch=True)
with context.begin_transaction():
    context.run_migrations()

"""Alembic's entry: runs the migrations on the connection that `store.database` hands over."""

from __future__ import annotations

from alembic import context

from bridge_chart.store.use_tables import metadata

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=metadata, compare_type=True)
with context.begin_transaction():
    context.run_migrations()

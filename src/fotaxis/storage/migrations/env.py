"""Alembic's entry: runs migrations on the URL that database.migrate hands over."""

from alembic import context
from sqlalchemy import create_engine, text
from sqlalchemy.pool import NullPool

from fotaxis.storage.tables import Base

# Without a pool the line is closed at the end whatever happens, and the lock with it.
engine = create_engine(
    context.config.attributes["url"],
    poolclass=NullPool,
    connect_args={"connect_timeout": 5, "options": "-c lock_timeout=120000"},
)
with engine.connect() as connection:
    # Two starting servers wait for each other here instead of migrating at once.
    connection.execute(text("select pg_advisory_lock(820413)"))
    context.configure(connection=connection, target_metadata=Base.metadata)
    with context.begin_transaction():
        context.run_migrations()
    connection.commit()

"""Engine, transactions and migrations."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine
from sqlalchemy.exc import ArgumentError, OperationalError
from sqlalchemy.orm import Session

from fotaxis.storage.repository import SqlRepository


def sqlalchemy_url(url: str) -> str:
    """Any PostgreSQL URL, spelled for the driver that ships with the application."""
    for start in ("postgresql://", "postgres://"):
        if url.startswith(start):
            return "postgresql+psycopg://" + url[len(start) :]
    return url


class SqlDatabase:
    """services.ports.Database over a pool of connections."""

    def __init__(self, url: str) -> None:
        self._engine = create_engine(sqlalchemy_url(url), pool_size=8, max_overflow=8, pool_pre_ping=True)

    @contextmanager
    def transaction(self) -> Iterator[SqlRepository]:
        with Session(self._engine, expire_on_commit=False) as session, session.begin():
            yield SqlRepository(session)

    def close(self) -> None:
        """Give all connections back."""
        self._engine.dispose()


class Unreachable(Exception):
    """The database does not answer; the message says what was tried and what to check."""


def migrate(url: str) -> None:
    """Bring the database to the newest schema. Raises Unreachable when it does not answer."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.attributes["url"] = sqlalchemy_url(url)
    try:
        command.upgrade(config, "head")
    except (ArgumentError, OperationalError) as error:
        reason = str(getattr(error, "orig", error)).splitlines()[0]
        raise Unreachable(
            f"FOTAXIS_DATABASE_URL: the database does not answer ({reason}). "
            "Check that PostgreSQL runs and that address, name and password are right."
        ) from error

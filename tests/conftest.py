"""A PostgreSQL of the tests' own, gone when they end; a fresh database for every module that asks."""

import os
import socket
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from uuid import uuid4

import psycopg
import pytest

from fotaxis.demo.private_postgres import PrivatePostgres


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def postgres_programs() -> Path:
    """Where Debian keeps the server's programs; the newest when there are several."""
    told = os.environ.get("FOTAXIS_POSTGRES_BIN")
    found = [Path(told)] if told else sorted(Path("/usr/lib/postgresql").glob("*/bin"))
    assert found, "PostgreSQL's server is not installed; run ./run test, which installs it."
    return found[-1]


@contextmanager
def running_postgres(*, lasting: bool = False) -> Iterator[PrivatePostgres]:
    """A server in a folder that is gone afterwards."""
    with tempfile.TemporaryDirectory(prefix="fotaxis-tests-") as folder:
        Path(folder).chmod(0o755)  # the server's own user must be able to pass
        with PrivatePostgres(Path(folder), programs=postgres_programs(), port=free_port(), lasting=lasting) as server:
            yield server


@pytest.fixture(scope="session")
def postgres() -> Iterator[PrivatePostgres]:
    with running_postgres() as server:
        yield server


def new_database(postgres: PrivatePostgres) -> str:
    """The address of a new, empty database."""
    name = f"t_{uuid4().hex}"
    with psycopg.connect(postgres.url, autocommit=True) as connection:
        connection.execute(f'CREATE DATABASE "{name}" TEMPLATE template0')
    return postgres.url.removesuffix("/postgres") + f"/{name}"


@pytest.fixture(scope="module")
def database_url(postgres: PrivatePostgres) -> str:
    return new_database(postgres)

"""What services are tried over: a database, and a studio of the module's own."""

import pytest

from fotaxis.storage.database import SqlDatabase, migrate
from tests.studios import add_studio


@pytest.fixture(scope="module")
def database(database_url):
    migrate(database_url)
    with_rows = SqlDatabase(database_url, pool_size=3)
    yield with_rows
    with_rows.close()


@pytest.fixture(scope="module")
def studio(database, request):
    with database.transaction() as repo:
        return add_studio(repo, request.module.__name__.rsplit(".", 1)[-1])

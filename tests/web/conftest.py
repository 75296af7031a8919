"""The application over a real database, asked through its own HTTP face."""

import pytest
from starlette.testclient import TestClient

from fotaxis.main import Settings, make_app
from tests.web.people import Person


@pytest.fixture(scope="module")
def app(database_url):
    settings = Settings(database_url=database_url, secret="s" * 40, https_only=False)
    made = make_app(settings)
    yield made
    made.state.close()


@pytest.fixture
def nobody(app):
    """A browser that has not signed in."""
    with TestClient(app, base_url="http://fotaxis.test", follow_redirects=False) as client:
        yield client


@pytest.fixture(scope="module")
def alder(app):
    return Person.of_new_studio(app, "alder")


@pytest.fixture(scope="module")
def birch(app):
    return Person.of_new_studio(app, "birch")

"""The application over a real database, asked through its own HTTP face."""

import threading
from contextlib import contextmanager

import pytest
from starlette.testclient import TestClient

from fotaxis.main import Settings, make_app, make_worker
from fotaxis.services.ports import Lane
from fotaxis.storage.blobs import SqlBlobs
from fotaxis.storage.database import SqlDatabase
from fotaxis.storage.news import SqlNews
from tests.web.people import Person


@contextmanager
def working(database_url, lane=Lane.SCREEN):
    """A worker in a thread of this process."""
    database, news = SqlDatabase(database_url, pool_size=3), SqlNews(database_url)
    worker = make_worker(database, news, SqlBlobs(database), lane)
    thread = threading.Thread(target=worker.run, daemon=True)
    thread.start()
    try:
        yield worker
    finally:
        worker.stop()
        thread.join(20)
        news.close()
        database.close()


@pytest.fixture(scope="module")
def app(database_url):
    settings = Settings(database_url=database_url, secret="s" * 40, https_only=False)
    made = make_app(settings)
    with working(database_url):
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

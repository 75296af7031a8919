"""The demo as a photographer meets it: its own server process, a real Chromium, every console word and request kept."""

import pytest

from tests.browser.desk import Desk, running_browser, running_site
from tests.conftest import new_database


@pytest.fixture(scope="session")
def site(postgres):
    with running_site(new_database(postgres)) as address:
        yield address


@pytest.fixture(scope="session")
def browser():
    with running_browser() as browser:
        yield browser


@pytest.fixture
def desk(browser, site):
    """A signed-in page; at the end, nothing may have complained and nothing gone to another host."""
    desk = Desk.opened(browser, site)
    desk.sign_in()
    yield desk
    desk.page.context.close()
    assert desk.errors == []
    assert desk.elsewhere == []


def pytest_collection_modifyitems(items):
    """One more try for what drives a real page: a busy machine may starve the browser; the report counts every rerun."""
    for item in items:
        if item.get_closest_marker("browser"):
            item.add_marker(pytest.mark.flaky(reruns=1))

"""An answer of the reckoner: of the core, over HTTP, and of Python in the browser, from a key to the figure."""

from __future__ import annotations

from bench.timing import line, repeated_ms
from fotaxis.core.reckoner.asked import asked
from fotaxis.core.reckoner.calculations import CALCULATIONS
from tests.browser.desk import Desk, running_browser, running_site
from tests.conftest import running_postgres

WANTED_MS = 50
PRESSES = 3


def run() -> None:
    """Every calculation, each of its unknowns."""
    core = []
    for one in CALCULATIONS:
        for unknown in one.unknowns:
            core += repeated_ms(
                lambda one=one, unknown=unknown: asked({"key": one.key, "unknown": unknown}), times=5, warm=1
            )
    print(line("reckoner: an answer of the core", core, wanted=f"wanted {WANTED_MS}"))
    with running_postgres() as postgres, running_site(postgres.url) as site, running_browser() as browser:
        desk = Desk.opened(browser, site)
        desk.sign_in()
        desk.go("/reckoner#stops")
        desk.until("document.querySelector('[data-figure]').textContent.length > 1")
        over_http = _pressed(desk)
        desk.until("document.body.dataset.computes === 'here'", seconds=120)
        print(line("reckoner: key to figure, Python in the browser", _pressed(desk), wanted=f"wanted {WANTED_MS}"))
        print(line("reckoner: key to figure, first by whoever answers", over_http))


def _pressed(desk: Desk) -> list[float]:
    """Milliseconds from a question to its figure on the page, for steps of every calculation's first field."""
    taken = []
    for one in CALCULATIONS:
        desk.page.evaluate(f"location.hash = '{one.key}'")
        desk.until(f"document.querySelector('#reckoner').dataset.open === '{one.key}'")
        steps = desk.page.locator(".ask .more")
        for _ in range(PRESSES if steps.count() else 0):
            desk.page.evaluate("document.querySelector('#reckoner').dataset.took = ''")
            steps.first.click()
            desk.until("document.querySelector('#reckoner').dataset.took !== ''")
            taken.append(float(desk.page.locator("#reckoner").get_attribute("data-took") or 0))
    return taken

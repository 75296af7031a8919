"""A running demo server, a browser, and one signed-in page that keeps what went wrong in it."""

from __future__ import annotations

import os
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from urllib.parse import urlsplit

from playwright.sync_api import Browser, FloatRect, Locator, Page, sync_playwright

from fotaxis.demo.scenario import LOGIN, PASSWORD
from fotaxis.supervisor import ends_with_us
from tests.conftest import free_port

CHROMIUM = "/usr/bin/chromium"
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--disable-background-networking", "--disable-sync"]


@contextmanager
def running_site(database_url: str) -> Iterator[str]:
    """Address of the demo in a server process of its own, over an empty database."""
    port = free_port()
    environment = os.environ | {
        "FOTAXIS_DATABASE_URL": database_url, "FOTAXIS_SECRET": "t" * 40, "FOTAXIS_HTTPS_ONLY": "false",
        "FOTAXIS_PORT": str(port),
    }  # fmt: skip
    server = subprocess.Popen(
        ends_with_us([sys.executable, "-m", "fotaxis.main", "demo"]), env=environment, stdout=subprocess.DEVNULL
    )
    address = f"http://127.0.0.1:{port}"
    try:
        wait_until_up(address, server)
        yield address
    finally:
        server.terminate()
        server.wait(20)


@contextmanager
def running_browser() -> Iterator[Browser]:
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        yield browser
        browser.close()


def wait_until_up(address, server):
    for _ in range(600):
        assert server.poll() is None, "the server stopped while starting"
        try:
            with urllib.request.urlopen(f"{address}/health") as answer:
                assert answer.status == 200
                return
        except OSError:
            time.sleep(0.2)
    raise AssertionError("the server did not come up")


def box_of(found: Locator) -> FloatRect:
    """Where an element stands on the screen; drawings are drawn anew, so one that is just replaced is looked for again."""
    found.wait_for(state="attached")
    for _ in range(200):
        box = found.bounding_box()
        if box is not None:
            return box
        found.page.wait_for_timeout(50)
    raise AssertionError(f"never seen on the page: {found}")


LISTEN = """
  window.lastMove = window.lastFollowed = 0;
  addEventListener("pointermove", (event) => { window.lastMove = event.timeStamp; window.pointer = event; }, true);
  addEventListener("fotaxis:followed", (event) => { window.lastFollowed = event.detail.moved; });
"""


@dataclass
class Desk:
    """One page with a session, and what went wrong in it."""

    page: Page
    site: str
    errors: list[str] = field(default_factory=list)
    elsewhere: list[str] = field(default_factory=list)

    @classmethod
    def opened(cls, browser: Browser, site: str, **options) -> Desk:
        context = browser.new_context(viewport={"width": 1280, "height": 800}, **options)
        context.add_init_script(LISTEN)
        desk = cls(context.new_page(), site)
        desk.page.on("console", desk.said)
        desk.page.on("pageerror", lambda error: desk.errors.append(str(error)))
        desk.page.on("request", desk.noticed)
        return desk

    def said(self, message):
        """Keep what the console complains of, but for the tests' own reading of pixels."""
        if message.type in ("error", "warning") and "willReadFrequently" not in message.text:
            self.errors.append(f"{message.text} {urlsplit(message.location.get('url', '')).path}".strip())

    def noticed(self, request):
        parts = urlsplit(request.url)
        if parts.scheme in ("http", "https", "ws", "wss") and parts.netloc != urlsplit(self.site).netloc:
            self.elsewhere.append(request.url)

    def go(self, path):
        self.page.goto(self.site + path)
        return self.page

    def sign_in(self, login=LOGIN, password=PASSWORD):
        self.go("/sign-in")
        self.page.get_by_label("Name or e-mail").fill(login)
        self.page.get_by_label("Password").fill(password)
        self.page.get_by_role("button", name="Sign in").click()
        self.page.wait_for_url("**/jobs")

    def shot(self, name):
        """Open a shot of the demo's job on the bench and wait for its picture."""
        self.go("/jobs")
        self.page.get_by_role("link", name="Brindlemoor winter range").click()
        self.page.get_by_role("link", name=name, exact=False).first.click()
        self.settled()

    def import_file(self, file):
        """Bring a shot file into the demo's job by the page's own form; what follows is the caller's to wait for."""
        self.go("/jobs")
        self.page.get_by_role("link", name="Brindlemoor winter range").click()
        self.page.get_by_label("Shot file").set_input_files(file)
        self.page.get_by_role("button", name="Import").click()

    def settled(self):
        self.page.wait_for_selector("body[data-settled]", state="attached", timeout=90_000)
        self.until("document.getElementById('saved').textContent === 'saved'")

    def followed(self):
        """Wait until the picture of the pointer's last place is painted, while a hand still holds something."""
        self.until("lastMove > 0 && lastFollowed >= lastMove", seconds=60)

    def told(self):
        """Wait until what is shown beside the pointer was read at the pointer's place in the frame."""
        self.until("""(() => { const frame = document.getElementById("frame").getBoundingClientRect();
          const parts = [(pointer.clientX - frame.left) / frame.width, (pointer.clientY - frame.top) / frame.height];
          const spot = document.getElementById("spot");
          return !spot.hidden && spot.dataset.at === parts.map((part) => part.toFixed(4)).join(" "); })()""")

    def handle(self, key, handle, view="floor"):
        """Middle of a handle of the selected thing, once the server's drawing with the tapes to it has come."""
        self.page.wait_for_selector("#floor .tape-text", state="attached")
        found = self.page.locator(f"#{view} .thing.selected[data-key={key}] [data-handle={handle}]").last
        found.wait_for(state="visible")
        box = box_of(found)
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    def after(self, action):
        """Do something that changes the picture, and wait until the new one stands."""
        before = self.page.evaluate("document.body.dataset.settled ?? ''")
        action()
        self.until(f"(document.body.dataset.settled ?? {before!r}) !== {before!r}", seconds=90)
        self.settled()

    def after_saved(self, action):
        """Do something that changes the shot, and wait until its next state stands."""
        before = self.page.evaluate("document.body.dataset.revision")
        action()
        self.until(f"document.body.dataset.revision !== '{before}'")
        self.settled()

    def add(self, label, kind):
        """Choose something in the dialog for adding, by the list it stands in."""
        self.page.keyboard.press("Escape")
        self.page.locator("#add-button").click()
        self.page.get_by_label(label, exact=True).select_option(kind)

    def measures(self, segment):
        """Show one group of the chosen thing's measures: place, shape, light or more."""
        self.page.locator(f"[data-to-segment={segment}]").click()

    def judged(self):
        """Wait until the readings belong to the present state."""
        self.settled()
        self.until("document.body.dataset.judged === document.body.dataset.revision")

    def until(self, expression, seconds=15):
        """Wait for a JavaScript expression; the page's own policy forbids the browser driver's waiting by eval."""
        self.wait(lambda: self.page.evaluate(expression), expression, seconds)

    def wait(self, found: Callable[[], object], what: str, seconds=15):
        for _ in range(seconds * 20):
            if found():
                return
            self.page.wait_for_timeout(50)
        raise AssertionError(f"never came true: {what}")

    def pictures_loaded(self):
        asked = "[...document.images].filter((image) => image.getAttribute('src'))"
        self.until(f"{asked}.every((image) => image.complete && image.naturalWidth > 0)", seconds=40)

"""From the pointer to new pixels, in a real browser on a running server."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path

from bench.timing import Stolen, line
from tests.browser.desk import Desk, running_browser, running_site
from tests.conftest import running_postgres
from tests.formats import samples

MOVES = 240
KEEP = """() => { window.drag = []; window.mixed = [];
  addEventListener('fotaxis:followed', (e) => window.drag.push(e.detail.painted - e.detail.moved));
  addEventListener('fotaxis:mixed', (e) => window.mixed.push(e.detail.took)); }"""


def eight_things() -> dict:
    """The demo's bottle with eight things that can be moved."""
    document = samples.raw()
    document["name"] = "Eight things"
    panel = document["lights"][0]
    while len(document["lights"]) + len(document["cards"]) < 8:
        number = len(document["cards"])
        document["cards"].append({
            "key": f"bench-{number}", "name": f"Card {number}", "kind": "white card" if number % 2 else "black card",
            "place": {"x_cm": (-1) ** number * (26 + 4 * number), "y_cm": 18, "z_cm": 24 - 12 * number},
            "turn_deg": (-1) ** (number + 1) * 110, "tilt_deg": 0, "width_cm": 12, "height_cm": 30,
        })  # fmt: skip
    assert panel["key"] == "left"
    return document


def run() -> None:
    with (
        tempfile.TemporaryDirectory() as folder,
        running_postgres(lasting=True) as postgres,
        running_site(postgres.url) as site,
        running_browser() as browser,
    ):
        _measure(Desk.opened(browser, site), Path(folder))


def _measure(desk: Desk, folder: Path) -> None:
    desk.sign_in()
    file = folder / "shot.json"
    file.write_text(json.dumps(eight_things()))
    desk.import_file(file)
    desk.page.wait_for_url("**/shots/*")
    desk.settled()
    desk.page.evaluate(KEEP)
    face = desk.page.locator("#floor .thing[data-key=left] .face").bounding_box()
    x, y = face["x"] + face["width"] / 2, face["y"] + face["height"] / 2
    mouse = desk.page.mouse
    mouse.move(x, y)
    mouse.down()
    with Stolen() as stolen:
        for i in range(MOVES):
            mouse.move(x + 30 * (i % 60) / 60, y + 40 * (i % 80) / 80)
            desk.page.wait_for_timeout(12)
    mouse.up()
    desk.settled()
    drag = desk.page.evaluate("window.drag")[10:]
    desk.page.keyboard.press("Escape")
    desk.page.keyboard.press("1")
    for i in range(60):
        desk.page.keyboard.press("-" if i % 6 < 3 else "+")
        desk.page.wait_for_timeout(20)
    mixed = desk.page.evaluate("window.mixed")[5:]
    size = desk.page.evaluate("[document.getElementById('frame').width, document.getElementById('frame').height]")
    print(
        f"In the browser, eight movable things; {stolen.share:.0%} of the processors' time went to other machines meanwhile"
    )
    print(line(f"pointer to new pixels, 320 x 400, {len(drag)} pictures", drag, wanted="(50, 80 wanted)"))
    print(line(f"power to new pixels, {size[0]} x {size[1]}", mixed, wanted="(16 wanted)"))

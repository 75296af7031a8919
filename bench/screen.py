"""From the pointer to new pixels, in a real browser on a running server."""

from __future__ import annotations

import json
import tempfile
import time
from bisect import bisect_left
from dataclasses import dataclass
from pathlib import Path

from bench.timing import Pace, Stolen, line
from tests.browser.desk import Desk, running_browser, running_site
from tests.conftest import running_postgres
from tests.formats import samples

DRAGGED_S = 6
KEEP = """() => { window.drag = []; window.mixed = []; window.painted = [];
  addEventListener('fotaxis:followed', ({ detail }) => {
    window.drag.push(detail.painted - detail.moved);
    window.painted.push(detail.painted);
  });
  addEventListener('fotaxis:mixed', (e) => window.mixed.push(e.detail.took)); }"""

MOVE = """({ x, y, seconds }) => new Promise((done) => {
  const box = document.getElementById('floor'), began = performance.now();
  let i = 0;
  const next = () => {
    if (performance.now() - began > 1000 * seconds) return done((performance.now() - began) / 1000);
    const at = { clientX: x + (20 * (i % 60)) / 60, clientY: y + (30 * (i % 80)) / 80 };
    box.dispatchEvent(new PointerEvent('pointermove', { pointerId: 1, bubbles: true, buttons: 1, ...at }));
    i++;
    requestAnimationFrame(next);
  };
  next();
})"""
"""The pointer's moves, one a frame of the screen as a browser hands them on. Made in the page: a driver that sends each one from
outside takes as much of the two processors as the page does."""


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


def twelve_things(sheets: tuple[str, str], *, glass: bool) -> dict:
    """Seven lights, of which two stand behind sheets, two white and a black card about a bottle."""
    document = json.loads((samples.DEMO / ("gooseberry-with-glass.json" if glass else "elder-cordial.json")).read_bytes())
    document["name"] = f"Twelve things, {sheets[1]}"
    document["others"] = []

    def place(x: float, y: float, z: float, turn: float) -> dict:
        return {"place": {"x_cm": x, "y_cm": y, "z_cm": z}, "turn_deg": turn, "tilt_deg": 0}

    def head(key: str, *at: float) -> dict:
        return {
            "kind": "head",
            "head": "dish 65°",
            "key": key,
            "name": key,
            "power_stops": -4,
            "lowest_stops": 8,
            **place(*at),
        }

    def flat(key: str, width: float, height: float, *at: float, **more: str) -> dict:
        return {"key": key, "name": key, "width_cm": width, "height_cm": height, **place(*at), **more}

    document["lights"] = [
        head("behind-left", -70, 30, -75, 45),
        head("behind-right", 85, 25, -40, -62),
        {**head("label", 30, 70, 100, -164), "grid_angle_deg": 20},
    ]
    for i in range(4):
        small = flat(f"p{i}", 10, 10, -80 + 40 * i, 90, -60, 0, kind="panel")
        document["lights"].append({**small, "power_stops": -4, "calibration": {"kind": "guide number", "metres": 22}})
    document["cards"] = [
        flat("left", 30, 90, -42, 22, -35, 50, kind="sheet", material=sheets[0]),
        flat("right", 30, 90, 45, 22, -25, -60, kind="sheet", material=sheets[1]),
        flat("white-1", 15, 20, 30, 22, 35, -140, kind="white card"),
        flat("white-2", 15, 20, -25, 22, 30, 130, kind="white card"),
        flat("black", 6, 30, -20, 22, 10, 100, kind="black card"),
    ]
    return document


def run() -> None:
    with (
        tempfile.TemporaryDirectory() as folder,
        running_postgres(lasting=True) as postgres,
        running_site(postgres.url) as site,
        running_browser() as browser,
    ):
        _measure(Desk.opened(browser, site), Path(folder))


@dataclass(frozen=True, slots=True)
class Dragged:
    """One drag: milliseconds from the pointer to each picture, pictures a second, and in the best second of all; of the
    processors the share stolen by the host, and how fast they were (see Pace)."""

    delays_ms: list[float]
    rate: float
    best_rate: int
    stolen: float
    pace: float


def _most_in_a_second(times_ms: list[float]) -> int:
    """How many of some ascending times lie within one second at most."""
    return max((bisect_left(times_ms, at + 1000) - i for i, at in enumerate(times_ms)), default=0)


def _dragged(desk: Desk, file: Path) -> Dragged:
    """The left sheet is dragged about."""
    desk.go("/")
    desk.import_file(file)
    desk.page.wait_for_url("**/shots/*")
    desk.settled()
    desk.page.evaluate(KEEP)
    face = desk.page.locator("#floor .thing[data-key=left] .face").bounding_box()
    x, y = face["x"] + face["width"] / 2, face["y"] + face["height"] / 2
    mouse = desk.page.mouse
    mouse.move(x, y)
    mouse.down()
    with Stolen() as stolen, Pace() as pace:
        taken = desk.page.evaluate(MOVE, {"x": x, "y": y, "seconds": DRAGGED_S})
    drag, painted = desk.page.evaluate("[window.drag, window.painted]")
    mouse.up()
    desk.settled()
    return Dragged(drag[10:], len(drag) / taken, _most_in_a_second(painted), stolen.share, pace.share)


PAINTS = """() => performance.getEntriesByType('paint').find((e) => e.name === 'first-contentful-paint').startTime"""


def _opened(desk: Desk) -> None:
    """A shot opened warm: until the page is painted, until its quick picture stands, until the fine one does."""
    desk.shot("Elder cordial")
    painted, settled = [], []
    for _ in range(8):
        began = time.monotonic()
        desk.page.reload()
        desk.settled()
        settled.append(1000 * (time.monotonic() - began))
        painted.append(desk.page.evaluate(PAINTS))
    print(line("a shot opened warm: first paint", painted[1:], wanted="(1000 wanted)"))
    print(line("a shot opened warm: fine picture stands", settled[1:]))


def _machine(drag: Dragged) -> str:
    return f"processors at {drag.pace:.0%} of their best, {drag.stolen:.0%} of their time stolen"


def _measure(desk: Desk, folder: Path) -> None:
    desk.sign_in()
    _opened(desk)
    for glass, wanted in ((False, 40), (True, 30)):
        for sheets in (("opal acrylic", "full grid cloth"), ("opal acrylic", "half white")):
            file = folder / "twelve.json"
            file.write_text(json.dumps(twelve_things(sheets, glass=glass)))
            drag = _dragged(desk, file)
            print(f"Drag, {'glass' if glass else 'opaque'}, two sheets ({sheets[1]}); {_machine(drag)}")
            print(f"  {drag.rate:.0f} pictures a second, {drag.best_rate} in the best second ({wanted} wanted)")
            print(line("pointer to new pixels", drag.delays_ms))
    file = folder / "shot.json"
    file.write_text(json.dumps(eight_things()))
    drag = _dragged(desk, file)
    desk.page.keyboard.press("Escape")
    desk.page.keyboard.press("1")
    for i in range(60):
        desk.page.keyboard.press("-" if i % 6 < 3 else "+")
        desk.page.wait_for_timeout(20)
    mixed = desk.page.evaluate("window.mixed")[5:]
    size = desk.page.evaluate("[document.getElementById('frame').width, document.getElementById('frame').height]")
    print(f"Drag, eight movable things; {_machine(drag)}")
    print(
        line(f"pointer to new pixels, 320 x 400, {len(drag.delays_ms)} pictures", drag.delays_ms, wanted="(50, 80 wanted)")
    )
    print(line(f"power to new pixels, {size[0]} x {size[1]}", mixed, wanted="(16 wanted)"))

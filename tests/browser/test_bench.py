"""The bench under real hands: drags, keys and powers, and what the pixels do."""

import json
import math

import numpy as np
import pytest

from fotaxis.core.placement.mirror import sphere_spot
from fotaxis.formats import shot_file
from tests.browser.desk import box_of
from tests.formats import samples

pytestmark = pytest.mark.browser

RADIUS_CM, HEIGHT_CM = 4.0, 15.0


def cylinder_shot():
    """A plain black cylinder and one narrow panel beside it, camera on the level of the panel's middle."""
    document = samples.raw()
    document["name"] = "Test cylinder"
    document["subject"]["profile"] = [{"height_cm": 0, "diameter_cm": 8}, {"height_cm": 30, "diameter_cm": 8}]
    document["subject"]["bands"] = []
    document["riser"] = document["background"] = None
    document["room_lux"] = 0
    document["camera"] |= {"distance_cm": 150, "height_cm": HEIGHT_CM, "aim_height_cm": HEIGHT_CM, "side_cm": 0}
    panel = document["lights"][0]
    panel |= {
        "key": "key", "name": "Key", "kind": "panel", "place": {"x_cm": -60, "y_cm": HEIGHT_CM, "z_cm": 20},
        "turn_deg": 105, "tilt_deg": 0, "width_cm": 8, "height_cm": 60, "gradient": "even", "gradient_stops": 0,
        "power_stops": -4, "on": True,
    }  # fmt: skip
    document["lights"] = [panel]
    document["cards"] = []
    document["reading_line"] = {"x0": 0, "y0": 0.5, "x1": 1, "y1": 0.5}
    return document


def import_shot(desk, document, tmp_path):
    file = tmp_path / "shot.json"
    file.write_text(json.dumps(document))
    desk.import_file(file)
    desk.page.wait_for_url("**/shots/*")
    desk.settled()


def exported(desk):
    answer = desk.page.request.get(desk.page.url.split("#")[0] + "/export")
    return shot_file.read(answer.body())


ROW = """() => { const c = document.getElementById('frame');
  const d = c.getContext('2d').getImageData(0, Math.floor(c.height / 2), c.width, 1).data;
  return Array.from(d).filter((_, i) => i % 4 === 1); }"""


def highlight(desk):
    """Left and right end of the bright line in the middle row, in parts of the picture's width."""
    row = np.array(desk.page.evaluate(ROW), float)
    half = row.max() / 2
    inside = np.flatnonzero(row > half)
    assert len(inside) > 1
    a, b = inside[0], inside[-1]
    left = a - (row[a] - half) / (row[a] - row[a - 1])
    right = b + (row[b] - half) / (row[b] - row[b + 1])
    return np.array([left + 0.5, right + 0.5]) / len(row)


def computed(document):
    """The same ends from the closed form: both vertical edges of the panel mirrored in the level circle."""
    camera = document.camera.value()
    panel = document.lights[0]
    eye, centre = camera.place.array(), np.array([0, HEIGHT_CM / 100, 0])
    turn = math.radians(panel.turn_deg)
    across = np.array([math.cos(turn), 0, -math.sin(turn)])
    places = []
    for side in (-1, 1):
        edge = np.array([panel.place.x_cm, HEIGHT_CM, panel.place.z_cm]) / 100 + side * across * panel.width_cm / 200
        spot = sphere_spot(centre=centre, radius_m=RADIUS_CM / 100, eye=eye, light=edge)
        places.append(camera.project(spot, width=1, height=1)[0])
    return np.array(sorted(places))


def grip(desk, key, view="floor"):
    """Middle of a thing's face on the screen."""
    box = box_of(desk.page.locator(f"#{view} .thing[data-key={key}] .face"))
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_dragging_a_panel_moves_its_highlight_the_computed_way(desk, tmp_path):
    import_shot(desk, cylinder_shot(), tmp_path)
    pixel = 1 / desk.page.evaluate("document.getElementById('frame').width")
    start = highlight(desk)
    assert start == pytest.approx(computed(exported(desk)), abs=pixel)

    mouse = desk.page.mouse
    x, y = grip(desk, "key")
    mouse.move(x, y)
    mouse.down()
    mouse.move(x + 20, y + 45, steps=8)
    desk.followed()
    followed = highlight(desk)  # the hand still holds the panel, nothing is kept yet
    assert exported(desk).lights[0].place.x_cm == -60
    # Words follow ten times a second: their timer was set before this one.
    desk.page.evaluate("() => new Promise((go) => setTimeout(go, 150))")
    held = float(desk.page.get_by_label("Right of axis").input_value())
    told = desk.page.locator("p.tape-words").inner_text()
    mouse.up()
    desk.settled()
    after = exported(desk)
    assert after.lights[0].place.x_cm == held != -60
    assert told == desk.page.locator("p.tape-words").inner_text()
    assert told.startswith(f"{math.hypot(held, after.lights[0].place.z_cm):.1f} cm from the axis")
    assert after.lights[0].place.z_cm > 20
    expected = computed(after)
    # Moved towards the camera, the panel's image moves in from the edge: to the right on the left side.
    assert (expected > start + 4 * pixel).all()
    assert followed == pytest.approx(expected, abs=2 / 320)  # the draft has 320 pixels across
    assert highlight(desk) == pytest.approx(expected, abs=pixel)

    desk.page.keyboard.press("Control+z")
    desk.until("document.getElementById('undo').disabled")
    desk.settled()
    assert highlight(desk) == pytest.approx(start, abs=pixel)
    desk.page.keyboard.press("Control+Shift+z")
    desk.until("document.getElementById('redo').disabled")
    desk.settled()
    assert highlight(desk) == pytest.approx(expected, abs=pixel)


def test_the_round_handle_turns_and_the_side_view_lifts(desk, tmp_path):
    import_shot(desk, cylinder_shot(), tmp_path)
    mouse = desk.page.mouse
    desk.page.keyboard.press("1")
    x, y = desk.handle("key", "turn")
    mouse.move(x, y)
    mouse.down()
    mouse.move(x, y + 25, steps=5)
    mouse.up()
    desk.settled()
    turned = exported(desk).lights[0]
    assert turned.turn_deg != 105
    assert turned.place.x_cm == -60
    x, y = grip(desk, "key", "side")
    mouse.move(x, y)
    mouse.down()
    mouse.move(x, y - 30, steps=5)
    mouse.up()
    desk.settled()
    assert exported(desk).lights[0].place.y_cm > HEIGHT_CM + 3


def level_at(desk, part):
    """Linear level of the green channel at a part of the middle row."""
    row = np.array(desk.page.evaluate(ROW), float) / 255
    value = row[int(part * len(row))]
    return value / 12.92 if value <= 0.04045 else ((value + 0.055) / 1.055) ** 2.4


def test_a_stop_less_power_halves_the_light(desk, tmp_path):
    document = cylinder_shot()
    document["lights"][0]["power_stops"] = -5
    import_shot(desk, document, tmp_path)
    middle = highlight(desk).mean()
    before = level_at(desk, middle)
    assert 0.05 < before < 0.9
    desk.page.keyboard.press("1")
    for _ in range(document["lights"][0]["steps_per_stop"]):
        desk.page.keyboard.press("-")
    assert level_at(desk, middle) == pytest.approx(before / 2, rel=0.03)  # at once, before anything is saved; 8 bits
    desk.settled()
    assert exported(desk).lights[0].power_stops == pytest.approx(-6)
    desk.page.get_by_role("button", name="Key on").click()
    assert np.max(desk.page.evaluate(ROW)) == 0
    desk.settled()
    assert exported(desk).lights[0].on is False


def test_the_rail_has_the_heads_notches(desk, tmp_path):
    import_shot(desk, cylinder_shot(), tmp_path)
    rail = desk.page.get_by_label("Power of Key")
    light = exported(desk).lights[0]
    assert int(rail.get_attribute("max")) == light.lowest_stops * light.steps_per_stop
    rail.focus()
    desk.page.keyboard.press("ArrowRight")
    desk.settled()
    assert exported(desk).lights[0].power_stops == pytest.approx(-4 + 1 / light.steps_per_stop)


def test_alone_black_frame_and_clipping_change_the_pixels_only(desk):
    desk.shot("Elder cordial, 70 cl")
    before = exported(desk)
    sums = {}

    def total():
        return desk.page.evaluate(
            "() => { const c = document.getElementById('frame');"
            "return c.getContext('2d').getImageData(0, 0, c.width, c.height).data.reduce((a, b) => a + b, 0); }"
        )

    sums["all"] = total()
    for light in before.lights:
        desk.page.get_by_role("button", name=f"{light.name} alone").click()
        sums[light.key] = total()
        desk.page.get_by_role("button", name=f"{light.name} alone").click()
    assert all(sums[light.key] < sums["all"] for light in before.lights)
    assert len(set(sums.values())) == len(sums)
    assert total() == sums["all"]
    desk.page.keyboard.press("b")
    assert total() < min(sums.values())
    desk.page.keyboard.press("b")
    assert total() == sums["all"]
    assert exported(desk) == before


def test_the_reading_line_is_pulled_and_read(desk):
    desk.shot("Elder cordial, 70 cl")
    assert "stops" in desk.page.locator("#trace-words").inner_text()
    line = desk.page.locator("#reading-line")
    box = box_of(line)
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    path = desk.page.locator("#trace-chart path.level").get_attribute("d")
    desk.page.mouse.move(x, y)
    desk.page.mouse.down()
    desk.page.mouse.move(x, y - 120, steps=8)
    desk.page.mouse.up()
    desk.settled()
    assert desk.page.locator("#trace-chart path.level").get_attribute("d") != path
    assert exported(desk).reading_line.y0 < 0.35
    desk.page.keyboard.press("Control+z")
    desk.settled()


def test_everything_a_hand_can_do_the_keys_can_do(desk, tmp_path):
    import_shot(desk, cylinder_shot(), tmp_path)
    press = desk.page.keyboard.press
    before = exported(desk).lights[0]
    press("1")
    for keys in ("ArrowRight", "Shift+ArrowDown", "PageUp", "Alt+ArrowLeft", "e", "r"):
        press(keys)
    desk.settled()
    after = exported(desk).lights[0]
    assert after.place.x_cm == pytest.approx(before.place.x_cm + 1 - 0.1)
    assert after.place.z_cm == pytest.approx(before.place.z_cm + 10)
    assert after.place.y_cm == pytest.approx(before.place.y_cm + 1)
    assert (after.turn_deg, after.tilt_deg) == (before.turn_deg + 1, before.tilt_deg + 1)
    press("?")
    assert desk.page.locator("#keys").is_visible()
    press("Escape")
    assert not desk.page.locator("#keys").is_visible()


FOCUSED = """() => { const e = document.activeElement;
  return e.id || e.dataset.do || e.dataset.add || e.dataset.key || e.textContent.trim(); }"""

FOCUS_SHOWS = """() => { const e = document.activeElement, s = getComputedStyle(e);
  return e === document.body || s.outlineStyle !== 'none' || s.boxShadow !== 'none' || e.closest('.thing') !== null; }"""


def test_the_whole_bench_is_reached_with_tab_alone(desk):
    desk.shot("Elder cordial, 70 cl")
    reached = set()
    for _ in range(140):
        desk.page.keyboard.press("Tab")
        reached.add(desk.page.evaluate(FOCUSED))
        visible = desk.page.evaluate(FOCUS_SHOWS)
        assert visible, desk.page.evaluate("document.activeElement.outerHTML")[:200]
    for name in ("undo", "frame", "iso", "shutter", "aperture", "tab-set", "tape-button", "add-button", "walk", "left", "on", "alone",
                 "power", "zebra", "black-button", "Set sheet", "Export"):  # fmt: skip
        assert name in reached or (name == "undo" and desk.page.locator("#undo").is_disabled()), name


def test_a_wrong_value_says_what_to_do_and_loses_nothing(desk, tmp_path):
    import_shot(desk, cylinder_shot(), tmp_path)
    before = exported(desk)
    desk.page.get_by_role("tab", name="Camera").click()
    desk.page.get_by_label("Lens to axis, cm").fill("2")
    desk.page.keyboard.press("Enter")
    desk.page.wait_for_selector("#frame-note:not([hidden])")
    assert "move the camera back" in desk.page.locator("#frame-note").inner_text()
    assert exported(desk) == before
    desk.errors[:] = [text for text in desk.errors if "422" not in text]  # Chromium reports the refused request
    desk.page.get_by_label("Lens to axis, cm").fill("140")
    desk.page.keyboard.press("Enter")
    desk.until("document.getElementById('frame-note').hidden")
    desk.settled()
    assert exported(desk).camera.distance_cm == 140


def test_two_windows_see_the_same_shot(desk, browser, site):
    desk.shot("Plum preserve")
    second = type(desk).opened(browser, site)
    second.sign_in()
    second.go(desk.page.url.removeprefix(site))
    second.settled()
    second.page.get_by_label("ISO").select_option("200.0")
    second.settled()
    desk.page.keyboard.press("1")
    desk.page.keyboard.press("ArrowRight")
    desk.settled()
    assert exported(desk).exposure.iso == 200  # the second window's change was kept
    assert second.errors == []
    second.page.context.close()


@pytest.mark.parametrize(("key", "stepped"), [
    ("-", lambda before, after: (after.power_stops - before.power_stops) * -before.steps_per_stop),
    ("ArrowRight", lambda before, after: after.place.x_cm - before.place.x_cm),
])  # fmt: skip
def test_a_step_made_while_the_last_one_is_being_saved_is_not_lost(desk, tmp_path, key, stepped):
    import_shot(desk, cylinder_shot(), tmp_path)
    before = exported(desk).lights[0]
    desk.page.keyboard.press("1")
    held = []
    desk.page.route("**/changes", lambda route: held.append(route), times=1)
    desk.page.keyboard.press(key)
    desk.until("document.getElementById('saved').textContent === 'saving…'")
    desk.wait(lambda: held, "the first step is on its way")
    desk.page.keyboard.press(key)
    held[0].continue_()
    desk.settled()
    assert stepped(before, exported(desk).lights[0]) == pytest.approx(2)


def test_pictures_that_overtake_one_another_do_not_paint_an_older_place(desk, tmp_path):
    # The first of the pictures of this drag takes long to decode: it comes after the last one and is left out.
    desk.page.add_init_script("""window.Slow = ImageDecoder;
      window.ImageDecoder = class { constructor(of) { this.own = new Slow(of); }
        async decode() { const first = window.dragged === 1; window.dragged += 1; const picture = await this.own.decode();
          if (first) { await new Promise((go) => setTimeout(go, 1500)); window.late = true; }
          return picture; }
        close() { setTimeout(() => this.own.close(), 2000); } };""")
    import_shot(desk, cylinder_shot(), tmp_path)
    start = highlight(desk)
    mouse = desk.page.mouse
    x, y = grip(desk, "key")
    mouse.move(x, y)
    mouse.down()
    desk.page.evaluate("() => { window.dragged = 1; }")
    mouse.move(x + 4, y + 8)
    desk.until("dragged > 1")
    mouse.move(x + 20, y + 45, steps=4)
    desk.followed()
    newest = highlight(desk)
    assert (newest > start + 0.01).all()
    desk.until("window.late === true")
    desk.page.wait_for_timeout(200)
    assert highlight(desk) == pytest.approx(newest)
    mouse.up()
    desk.settled()


def test_a_riser_is_given_another_surface_and_taken_away(desk, tmp_path):
    document = cylinder_shot()
    document["riser"] = {"height_cm": 4, "diameter_cm": 8, "surface": "black matte"}
    import_shot(desk, document, tmp_path)
    desk.page.get_by_role("tab", name="Surface").click()
    desk.page.get_by_label("Riser surface").select_option("white matte")
    desk.settled()
    assert exported(desk).riser.surface == "white matte"
    desk.page.get_by_label("Riser height, cm").fill("0")
    desk.page.keyboard.press("Enter")
    desk.settled()
    assert exported(desk).riser is None


def test_the_frame_says_what_state_its_picture_is_in(desk, tmp_path):
    import_shot(desk, cylinder_shot(), tmp_path)
    state = desk.page.locator("#picture-state")
    assert state.inner_text() == "fine"
    mouse = desk.page.mouse
    x, y = grip(desk, "key")
    mouse.move(x, y)
    mouse.down()
    mouse.move(x + 15, y + 10, steps=4)
    desk.wait(lambda: state.inner_text() == "quick", "quick while the hand moves")
    asked = []
    desk.page.route("**/layers*", lambda route: asked.append(route))  # held back: what a heavy picture does by itself
    mouse.up()
    desk.wait(lambda: state.inner_text().startswith("refining, "), "refining, with its seconds")
    first = state.inner_text()
    desk.wait(lambda: state.inner_text() not in (first, "fine"), "the seconds go on")
    for route in asked:
        route.continue_()
    desk.page.unroute("**/layers*")
    desk.wait(lambda: state.inner_text() == "fine", "fine again")

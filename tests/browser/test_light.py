"""Shaping light in a real browser: heads, sheets, cards and gels by choice and by hand, pixels that change; finals."""

import numpy as np
import pytest

from tests.browser.test_products import brought_in, changed, document, drag, frame
from tests.formats.test_lamps import ies

pytestmark = pytest.mark.browser


@pytest.fixture
def bottle(desk, tmp_path):
    return brought_in(desk, tmp_path, "elder-cordial", lights=[], cards=[])


def add(desk, label, kind):
    desk.after(lambda: desk.add(label, kind))


def test_a_head_behind_a_sheet_makes_a_line_that_follows_the_head(bottle):
    add(bottle, "Add a sheet or net", "opal acrylic")
    dark = frame(bottle)
    add(bottle, "Add a head", "dish 65°")
    lit = frame(bottle)
    assert changed(dark, lit) > 0.005
    while_held = []
    drag(bottle, '#floor [data-key="dish-65"] .grip', 0, 30, held=lambda: while_held.append(frame(bottle)))
    assert np.abs(while_held[0] - lit).max() > 12 or while_held[0].shape != lit.shape  # it moved under the hand
    assert changed(lit, frame(bottle)) > 0.001
    assert document(bottle)["cards"][0]["material"] == "opal acrylic"


def test_a_net_dims_and_another_sheet_changes_the_light(bottle):
    add(bottle, "Add a sheet or net", "opal acrylic")
    add(bottle, "Add a head", "dish 65°")
    before = frame(bottle)
    bottle.page.locator('#floor [data-key="opal-acrylic"] .grip').first.click()
    bottle.measures("shape")
    bottle.after(lambda: bottle.page.get_by_label("Sheet", exact=True).select_option("light frost"))
    frost = frame(bottle)
    assert changed(before, frost) > 0.002
    assert document(bottle)["cards"][0]["material"] == "light frost"


def test_a_gel_colours_its_light_and_white_balance_takes_it_back(bottle):
    add(bottle, "Add a head", "dish with a grid")
    white = frame(bottle)
    bottle.measures("light")
    bottle.after(lambda: bottle.page.get_by_label("Gel 1").select_option("full warm"))
    warm = frame(bottle)
    bright = white.max(axis=2) > 0.5 * white.max()

    def warmth(picture):
        return picture[bright][:, 0].mean() - picture[bright][:, 2].mean()

    assert warmth(warm) > warmth(white) + 0.2 * white.max()
    bottle.page.get_by_role("tab", name="Camera").click()
    balance = bottle.page.get_by_label("White balance, K")
    balance.fill("2960")
    bottle.after(lambda: balance.press("Enter"))
    assert abs(warmth(frame(bottle)) - warmth(white)) < 0.06 * white.max()


def test_a_lamp_file_is_brought_in(bottle, tmp_path):
    file = tmp_path / "lamp.ies"
    file.write_bytes(ies())
    bottle.page.locator("#lamp-file").set_input_files(file)
    bottle.page.get_by_text("Made-up downlight").first.wait_for()
    assert document(bottle)["lights"][0]["head"] == "measured lamp"


def test_a_final_picture_is_asked_for_and_called_off(bottle):
    bottle.page.get_by_role("link", name="Finals").click()
    bottle.page.get_by_role("button", name="Make a final picture").click()
    bottle.page.get_by_role("button", name="Cancel").click()  # there while it waits and while the demo's own worker makes it
    bottle.page.get_by_text("cancelled").first.wait_for()
    assert bottle.page.get_by_role("button", name="Cancel").count() == 0


def test_the_list_of_finals_comes_anew_and_leaves_the_keyboard_where_it_is(bottle):
    bottle.page.get_by_role("link", name="Finals").click()
    bottle.page.get_by_label("Long side, pixels").fill("1600")
    bottle.page.get_by_role("button", name="Make a final picture").click()
    seen = []  # the list as it is after a second, again and again: how fast the worker is does not matter

    def same(route):
        seen.append(seen[0] if seen else route.fetch().text())
        route.fulfill(body=seen[0], content_type="text/html")

    bottle.page.route("**/finals/list", same)
    cancel = bottle.page.get_by_role("button", name="Cancel")
    cancel.focus()
    cancel.evaluate("(button) => { window.button = button; }")
    bottle.wait(lambda: len(seen) > 2, "the list has come three times")
    assert bottle.page.evaluate("[window.button.isConnected, document.activeElement.textContent]") == [False, "Cancel"]
    bottle.page.unroute("**/finals/list")


def test_a_final_picture_is_made_by_the_demos_worker_and_shown(bottle):
    bottle.page.get_by_role("link", name="Finals").click()
    bottle.page.get_by_label("Long side, pixels").fill("200")
    bottle.page.get_by_role("button", name="Make a final picture").click()
    picture = bottle.page.get_by_role("img", name="Final picture, 200 px")
    picture.wait_for()
    bottle.pictures_loaded()
    assert picture.evaluate("(image) => [image.naturalWidth, image.naturalHeight]") == [160, 200]


def test_a_lamp_is_led_by_points_and_lit_for_part_of_its_way(desk, tmp_path):
    # A bulb carried behind the bottle while the shutter is open for four seconds: it draws its way into the frame.
    bulb = {
        "key": "bulb", "name": "Bulb", "kind": "head", "head": "household lamp", "power_stops": 0, "turn_deg": 0,
        "place": {"x_cm": -15, "y_cm": 8, "z_cm": -25},
    }  # fmt: skip
    exposure = {"iso": 100, "shutter_s": 4, "f_number": 8, "sync_s": 0.004}
    bottle = brought_in(desk, tmp_path, "elder-cordial", lights=[bulb], cards=[], exposure=exposure)
    page = bottle.page
    page.keyboard.press("1")
    still = frame(bottle)
    bottle.measures("more")
    bottle.after(lambda: page.get_by_label("Moved during the exposure").check())
    moved = frame(bottle)
    assert changed(still, moved) > 0.001
    bottle.after_saved(lambda: page.get_by_role("button", name="Add a point").click())
    right = page.get_by_label("point 1: right")
    bottle.after(lambda: (right.fill("-25"), right.press("Enter")))
    lamp = document(bottle)["lights"][0]
    assert lamp["via"][0]["place"]["x_cm"] == -25
    assert page.locator("#floor circle.way").count() == 2  # the point, and where the way ends
    led = frame(bottle)
    assert changed(moved, led) > 0.001
    lit_to = page.get_by_label("lit to, % of way")
    assert lit_to.input_value() == "100"
    bottle.after(lambda: (lit_to.fill("40"), lit_to.press("Enter")))
    assert document(bottle)["lights"][0]["lit_to_percent"] == 40
    assert changed(led, frame(bottle)) > 0.001
    bottle.after(lambda: page.get_by_role("button", name="Remove point 1").click())
    assert document(bottle)["lights"][0]["via"] == []

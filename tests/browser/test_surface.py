"""Surfaces by hand: chosen from pictures, their edges pulled in plan and side, and by keys."""

import pytest

from tests.browser.test_products import brought_in, changed, document, drag, frame

pytestmark = pytest.mark.browser


@pytest.fixture
def shot(desk, tmp_path):
    return brought_in(desk, tmp_path, "elder-cordial")


def scale(desk, view):
    return float(desk.page.locator(f"#{view} svg").get_attribute("data-scale"))


def test_a_top_is_chosen_by_its_picture(shot):
    page, picture = shot.page, frame(shot)
    page.get_by_role("tab", name="Surface").click()
    tile = page.locator("[data-tile-of='table.surface'][value='white matte']")
    shot.until("document.querySelector('[data-tile-of] img').naturalWidth > 0", seconds=60)
    shot.after_saved(tile.click)
    shot.settled()
    assert document(shot)["table"]["surface"] == "white matte"
    assert tile.get_attribute("aria-pressed") == "true"
    assert changed(picture, frame(shot)) > 0.02
    shot.after_saved(page.locator("[data-tile-of='background.skin.material']").first.click)
    assert document(shot)["background"]["skin"]["material"]


@pytest.mark.parametrize(
    ("view", "part", "across", "down", "grows"),
    [("floor", "table.width_cm", 10, 0, 20), ("floor", "table.depth_cm", 0, 5, 10), ("floor", "background.distance_cm", 0, 10, -10),
     ("side", "riser.height_cm", 0, -3, 3), ("side", "table.sweep_cm", 0, -20, 20)],
)  # fmt: skip
def test_edges_are_pulled(shot, view, part, across, down, grows):
    owner, name = part.split(".")
    before = document(shot)[owner][name]
    per_cm = scale(shot, view)
    shot.page.locator(f"#{view} svg").hover(position={"x": 5, "y": 5})
    drag(shot, f"#{view} [data-part='{part}']", across * per_cm, down * per_cm)
    assert document(shot)[owner][name] == pytest.approx(before + grows, abs=1.2)


def test_an_edge_follows_the_keys(shot):
    before = document(shot)["riser"]["diameter_cm"]
    shot.page.locator("#floor [data-part='riser.diameter_cm']").focus()
    shot.after_saved(lambda: shot.page.keyboard.press("ArrowRight"))
    assert document(shot)["riser"]["diameter_cm"] == pytest.approx(before + 0.5)

"""Products in a real browser: the camera and a glass under the hand, glass and liquid by choice, pixels that change."""

import base64
import io
import itertools
import json

import numpy as np
import pytest
from PIL import Image

from tests.browser.desk import box_of
from tests.formats.samples import DEMO, TETRAHEDRON

pytestmark = pytest.mark.browser

PIXELS = "() => document.getElementById('frame').toDataURL('image/png').split(',')[1]"


def frame(desk):
    """The pixels that the canvas holds now, (height, width, 3)."""
    data = base64.b64decode(desk.page.evaluate(PIXELS))
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGB"), float)


def changed(before, after):
    """Share of pixels that differ visibly."""
    return float((np.abs(before - after).max(axis=2) > 12).mean()) if before.shape == after.shape else 1.0


def drag(desk, selector, dx, dy, *, held=None):
    box = box_of(desk.page.locator(selector).first)
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    mouse = desk.page.mouse
    mouse.move(x, y)
    mouse.down()
    for i in range(1, 9):
        mouse.move(x + dx * i / 8, y + dy * i / 8)
        desk.page.wait_for_timeout(40)
    if held:
        held()
    mouse.up()
    desk.settled()


def document(desk):
    return desk.page.request.get(desk.page.url.split("#")[0] + "/export").json()


def brought_in(desk, folder, name, **changes):
    """A shot of the demo brought in anew, so that tests do not see each other's changes."""
    file = folder / "shot.json"
    file.write_text(json.dumps(json.loads((DEMO / f"{name}.json").read_text()) | changes))
    desk.import_file(file)
    desk.page.wait_for_url("**/shots/*")
    desk.settled()
    return desk


@pytest.fixture
def glass_shot(desk, tmp_path):
    return brought_in(desk, tmp_path, "gooseberry-with-glass")


@pytest.fixture
def bottle_shot(desk, tmp_path):
    """The bottle of glass by itself."""
    return brought_in(desk, tmp_path, "gooseberry-with-glass", others=[])


@pytest.fixture
def black_shot(desk, tmp_path):
    """A black bottle, quick to draw."""
    return brought_in(desk, tmp_path, "elder-cordial")


def test_a_glass_is_dragged_and_the_frame_follows_while_held(glass_shot):
    desk = glass_shot
    before, was = frame(desk), document(desk)["others"][0]
    seen = []

    def look():
        desk.followed()
        seen.append(changed(before, frame(desk)))

    drag(desk, "#floor .thing[data-key=glass]", 30, 0, held=look)
    assert seen[0] > 0.01
    now = document(desk)["others"][0]
    assert now["x_cm"] > was["x_cm"] + 2
    assert now["z_cm"] == pytest.approx(was["z_cm"], abs=1)
    assert changed(before, frame(desk)) > 0.01


def test_the_camera_is_dragged_sideways_and_nudged_by_keys(black_shot):
    desk = black_shot
    before = frame(desk)
    drag(desk, "#floor .camera-thing", 24, 0)
    moved = document(desk)["camera"]
    assert moved["side_cm"] > 2
    assert changed(before, frame(desk)) > 0.008
    desk.page.locator("#floor .camera-thing").focus()
    desk.page.keyboard.press("Enter")
    desk.page.keyboard.press("ArrowLeft")
    desk.settled()
    assert document(desk)["camera"]["side_cm"] == pytest.approx(moved["side_cm"] - 1, abs=0.01)


def test_wine_is_chosen_diluted_and_poured_out(bottle_shot):
    desk = bottle_shot
    page = desk.page
    page.get_by_role("tab", name="Product").click()
    pictures = [frame(desk)]
    desk.after(lambda: page.get_by_label("Filled with").select_option("dark cordial"))
    pictures.append(frame(desk))
    slider = page.get_by_role("slider", name="Water added")
    desk.after(lambda: slider.fill("0.9"))
    assert document(desk)["subject"]["liquid"]["water_share"] == pytest.approx(0.9, abs=0.01)
    pictures.append(frame(desk))
    desk.after(lambda: page.get_by_label("Filled with").select_option(""))
    assert document(desk)["subject"]["liquid"] is None
    pictures.append(frame(desk))
    for one, other in itertools.pairwise(pictures):
        assert changed(one, other) > 0.003
    # Undiluted it is the darkest.
    dark = [picture[int(picture.shape[0] * 0.5) : int(picture.shape[0] * 0.54)].mean() for picture in pictures[:3]]
    assert dark[1] < dark[0]
    assert dark[1] < dark[2]


def test_a_zone_is_added_its_material_changed_and_its_relief_read(black_shot):
    desk = black_shot
    page = desk.page
    page.get_by_role("tab", name="Product").click()
    desk.after(lambda: page.get_by_role("button", name="Emboss", exact=True).click())
    page.get_by_text("relief contrast").wait_for()
    zone = page.locator("fieldset.band").filter(has_text="Emboss").last
    desk.after(lambda: zone.get_by_label("Material").select_option("polished copper"))
    assert document(desk)["subject"]["bands"][-1]["skin"]["material"] == "polished copper"


def test_parts_of_a_model_take_materials_of_their_own(black_shot, tmp_path):
    from tests.formats.test_models import two_balls

    desk, page = black_shot, black_shot.page
    file = tmp_path / "flask.obj"
    file.write_bytes(two_balls("objects"))
    page.get_by_role("tab", name="Product").click()
    page.get_by_label("Shape").select_option("model")
    page.locator("#model-form input[type=file]").set_input_files(file)
    page.locator("#model-form select[name=unit]").select_option("cm")
    desk.after_saved(page.get_by_role("button", name="Use this model").click)
    stopper = page.get_by_label("Material of Stopper")
    picture = frame(desk)
    desk.after_saved(lambda: stopper.select_option("gold foil"))
    assert [(part["skin"] or {}).get("material") for part in document(desk)["subject"]["parts"]] == [None, "gold foil"]
    assert changed(picture, frame(desk)) > 0.003
    page.locator(".model-part").nth(1).get_by_label("Roughness").wait_for()
    picture = frame(desk)
    desk.after_saved(lambda: page.get_by_label("Material of Stopper").select_option("the body's"))
    assert changed(picture, frame(desk)) > 0.003


def test_a_model_file_is_brought_in_by_its_form(black_shot, tmp_path):
    desk = black_shot
    page = desk.page
    file = tmp_path / "stand.obj"
    file.write_bytes(TETRAHEDRON)
    page.get_by_role("tab", name="Product").click()
    page.get_by_label("Shape").select_option("model")
    page.get_by_label("Model (").set_input_files(file)
    page.locator("#model-form select[name=unit]").select_option("cm")
    page.get_by_role("button", name="Use this model").click()
    page.get_by_label("Its unit is").wait_for()
    desk.settled()
    assert document(desk)["subject"]["kind"] == "model"


def test_a_can_is_put_beside_the_product_and_removed_by_undo(black_shot):
    desk = black_shot
    before = frame(desk)
    desk.after(lambda: desk.add("Put a thing beside the product", "can"))
    desk.page.locator("#floor .thing[data-key=can]").wait_for()
    assert changed(before, frame(desk)) > 0.002
    desk.page.keyboard.press("Control+z")
    desk.settled()
    assert desk.page.locator("#floor .thing[data-key=can]").count() == 0

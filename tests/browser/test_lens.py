"""What stands before the lens, in a real browser: filters turned, the window mask, aperture and focus, haze; pixels that change."""

import numpy as np
import pytest

from fotaxis.core.camera.tone import Tone, soft_shoulder
from tests.browser.test_products import brought_in, changed, document, frame

pytestmark = pytest.mark.browser

BACK = {
    "kind": "panel", "key": "back", "name": "Back", "place": {"x_cm": 0, "y_cm": 45, "z_cm": -90}, "turn_deg": 0, "tilt_deg": 0,
    "width_cm": 90, "height_cm": 90, "calibration": {"kind": "guide number", "metres": 22}, "power_stops": -6,
}  # fmt: skip
STRIPE = {"kind": "white card", "key": "stripe", "name": "Stripe", "place": {"x_cm": 9, "y_cm": 30, "z_cm": -80}, "turn_deg": 0,
          "width_cm": 4, "height_cm": 60}  # fmt: skip


@pytest.fixture
def bottle(desk, tmp_path):
    def with_(**more):
        return brought_in(desk, tmp_path, "elder-cordial", **{"lights": [BACK], "cards": [], "room_lux": 0, **more})

    return with_


def tab(desk, name):
    desk.page.get_by_role("tab", name=name, exact=True).click()


def tones(desk):
    words = desk.page.locator("#tones").inner_text()
    return int(words.split()[1])


def test_a_polariser_is_put_on_and_turned(bottle):
    desk = bottle(camera={"distance_cm": 110, "height_cm": 75, "aim_height_cm": 3, "focal_length_mm": 85})
    bare = frame(desk)
    desk.after(lambda: desk.page.get_by_label("Polariser", exact=False).first.select_option("0"))
    killed = frame(desk)
    desk.after(lambda: desk.page.locator("#polariser").select_option("90"))
    kept = frame(desk)
    assert document(desk)["lens"]["polariser"]["turn_deg"] == 90
    table = slice(int(0.5 * bare.shape[0]), int(0.8 * bare.shape[0])), slice(20, int(0.3 * bare.shape[1]))
    assert bare[table].mean() > 20  # the panel mirrored in the table
    assert killed[table].mean() < 0.3 * kept[table].mean()
    desk.after(lambda: desk.page.locator("#polariser").select_option(""))
    assert changed(bare, frame(desk)) < 0.001


def test_a_window_mask_takes_the_veil_away(bottle):
    desk = bottle(lens={"glare_percent": 5})
    veiled = tones(desk)
    tab(desk, "Camera")
    desk.after(lambda: desk.page.get_by_label("Window mask").check())
    assert desk.page.get_by_label("Before the lens, cm").is_visible()
    assert tones(desk) < veiled
    assert document(desk)["lens"]["mask"]["before_cm"] == 40


def test_opening_the_aperture_softens_what_is_behind(bottle):
    desk = bottle(
        cards=[STRIPE], lights=[{**BACK, "place": {"x_cm": -75, "y_cm": 45, "z_cm": 10}, "turn_deg": 142, "power_stops": -2}]
    )

    def sharpest():
        picture = frame(desk).astype(float)
        right = picture[int(0.3 * len(picture)) : int(0.5 * len(picture)), int(0.62 * picture.shape[1]) :]
        return np.abs(np.diff(right.mean(axis=(0, 2)))).max() / max(right.max(), 1)

    desk.after(lambda: desk.page.locator("#aperture").select_option(label="f/16"))
    narrow = sharpest()
    desk.after(lambda: desk.page.locator("#aperture").select_option(label="f/2"))
    assert sharpest() < 0.5 * narrow
    tab(desk, "Camera")
    assert desk.page.locator("#lens-words").inner_text().startswith("Sharp from")
    desk.after(lambda: desk.page.get_by_label("Focus", exact=True).select_option("all sharp"))
    assert sharpest() > 0.8 * narrow


def test_haze_glows_before_the_light_behind(bottle):
    desk = bottle(lights=[{**BACK, "place": {"x_cm": -70, "y_cm": 45, "z_cm": -140}, "turn_deg": 25}])
    clear = frame(desk)
    tab(desk, "Surface")
    desk.after(lambda: desk.page.get_by_label("Haze", exact=True).check())
    assert desk.page.get_by_text("mind smoke detectors").is_visible()
    hazed = frame(desk)
    corner = slice(0, 80), slice(0, 80)
    assert hazed[corner].mean() > clear[corner].mean() + 2


def test_barn_doors_open_their_fields_and_cut_the_light(bottle):
    desk = bottle(lights=[])
    desk.after(lambda: desk.add("Add a head", "dish 65°"))
    desk.measures("more")
    desk.page.locator('#floor [data-key="dish-65"] .grip').first.click()
    assert desk.page.get_by_label("Left door, °").count() == 1
    assert not desk.page.get_by_label("Left door, °").is_visible()
    desk.after(lambda: desk.page.get_by_label("Barn doors").check())
    door = desk.page.get_by_label("Right door, °")
    assert door.is_visible()
    door.fill("-15")
    door.press("Enter")
    desk.settled()
    assert document(desk)["lights"][0]["doors_deg"] == [60, -15, 60, 60]


def test_another_crop_makes_a_frame_of_another_shape_at_once(bottle):
    desk = bottle(camera={"distance_cm": 110, "height_cm": 20, "aim_height_cm": 15, "focal_length_mm": 85})

    def shape():
        return desk.page.evaluate("""(() => { const f = document.getElementById('frame');
            return [f.width / f.height, f.clientWidth / f.clientHeight]; })()""")

    assert shape() == pytest.approx([0.8, 0.8], abs=0.01)
    tab(desk, "Camera")
    desk.page.route(
        "**/layers*", lambda route: None
    )  # the fine picture is long in coming: the quick one has the shape already
    box = desk.page.get_by_label("Crop: width, wide", exact=True)
    box.fill("5")
    box.press("Enter")
    desk.wait(lambda: shape() == pytest.approx([1.0, 1.0], abs=0.01), "a square frame")


def test_an_empty_set_follows_its_camera(bottle):
    desk = bottle(lights=[])
    tab(desk, "Camera")
    for value in ("120", "130", "140"):
        box = desk.page.get_by_label("Lens to axis, cm", exact=True)
        desk.after(lambda box=box, value=value: (box.fill(value), box.press("Enter")))
    desk.until("document.getElementById('frame-note').hidden")
    assert desk.errors == []


def test_a_soft_shoulder_and_the_points_are_seen_at_once_and_are_in_the_file(desk, tmp_path):
    # A green can four stops over.
    exposure = {"iso": 1600, "shutter_s": 0.0078125, "f_number": 8, "sync_s": 0.00390625}
    shot = brought_in(desk, tmp_path, "sparkling-can", exposure=exposure)
    page = shot.page
    page.get_by_role("tab", name="Camera").click()
    hard = frame(shot)
    page.get_by_label("Soft shoulder").check()
    shot.until("document.getElementById('tones').textContent.includes('soft shoulder')")
    soft = frame(shot)
    assert changed(hard, soft) > 0.001
    assert (soft.max(axis=2) == 255).mean() < (hard.max(axis=2) == 255).mean()
    black = page.get_by_label("Black point, of 255")
    shot.after_saved(lambda: (black.fill("20"), black.press("Enter")))
    assert document(shot)["exposure"] | {"black_point": 20, "soft_shoulder": True} == document(shot)["exposure"]
    toned = frame(shot)
    assert toned.min() == 0
    assert toned.mean() < soft.mean()
    # The page tones as the server: its own module, asked in the page.
    levels = [[3.0, 2.0, 0.1], [0.95, 0.2, 0.4], [0.5, 0.5, 0.5], [20.0, 30.0, 1.0]]
    asked = """async (levels) => {
      const main = document.querySelector("script[type=module]").src;
      const { shoulder, curveOf } = await import(new URL("mixer.js", main));
      for (const each of levels) shoulder(each);
      return [levels, [...curveOf(20, 240)]];
    }"""
    softened, curve = page.evaluate(asked, levels)
    assert np.allclose(softened, [soft_shoulder(*each) for each in levels], rtol=1e-9)
    assert np.abs(np.array(curve) - Tone(black=20, white=240).curve).max() <= 1

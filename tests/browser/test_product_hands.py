"""One's own bottle from a photograph, with its label on it, by hand: on the page that begins a shot, and on the bench."""

import json
import time

import numpy as np
import pytest
from PIL import Image

from tests.browser.desk import box_of
from tests.browser.test_products import brought_in, changed, document, drag, frame
from tests.core.frames.silhouettes import OUTLINES, off, photograph, profile

pytestmark = pytest.mark.browser


@pytest.fixture
def files(tmp_path):
    """A made photograph of a bottle, and a label of two colours 60 mm wide at 300 dpi."""
    side = tmp_path / "side.png"
    Image.fromarray(photograph(np.random.default_rng(0), profile(OUTLINES[0]))).save(side)
    label = np.full((472, 709, 3), (244, 240, 228), np.uint8)
    label[150:320, 200:500] = (190, 20, 30)
    printed = tmp_path / "label.png"
    Image.fromarray(label).save(printed, dpi=(300, 300))
    return side, printed


def test_from_nothing_to_ones_own_bottle_with_its_label(desk, files):
    side, printed = files
    began, actions = time.monotonic(), 0

    def act(done):
        nonlocal actions
        actions += 1
        return done()

    page = desk.page
    desk.go("/jobs")
    act(page.get_by_role("link", name="Brindlemoor winter range").click)
    act(page.get_by_role("link", name="New shot from pictures").click)
    act(lambda: page.get_by_label("Name").fill("Our own bottle"))
    act(lambda: page.get_by_label("Height, measured").fill("30.8"))
    page.wait_for_load_state("networkidle")
    act(lambda: page.get_by_label("Photograph from the side").set_input_files(side))
    desk.until("document.getElementById('own-words').textContent.includes('points')")
    assert page.locator("#own-outline .outline-point").count() > 20
    assert float(page.get_by_label("Width, measured").input_value()) == pytest.approx(7.4, rel=0.01)
    act(page.locator("label.tile:has(input[value=overhead])").click)
    act(page.get_by_role("button", name="Begin").click)
    page.wait_for_url("**/shots/*")
    desk.settled()
    act(page.get_by_role("tab", name="Product").click)
    act(lambda: page.get_by_label("Label from a picture").set_input_files(printed))
    desk.until("document.querySelectorAll('#unrolled image').length >= 1")
    desk.settled()
    assert actions <= 25
    assert time.monotonic() - began < 180
    made = document(desk)
    found = [(p["height_cm"] / 100, p["diameter_cm"] / 200) for p in made["subject"]["profile"]]
    assert np.median(off(found, profile(OUTLINES[0]))) < 0.01
    label = next(band for band in made["subject"]["bands"] if band.get("artwork"))
    width = np.radians(label["width_deg"]) * 3.7
    assert width == pytest.approx(6.0, abs=0.05)  # as its file tells
    assert label["high_cm"] - label["low_cm"] == pytest.approx(4.0, abs=0.05)
    assert reddest(desk)[0] > 40


def reddest(desk):
    """How many pixels are clearly red, and their middle (parts of the frame)."""
    picture = frame(desk)
    red = picture[..., 0] - picture[..., 1:].max(axis=2)
    there = red > 0.5 * max(red.max(), 20)
    y, x = np.nonzero(there)
    return len(x), (x.mean() / there.shape[1] if len(x) else 0, y.mean() / there.shape[0] if len(y) else 0)


@pytest.fixture
def labelled(desk, tmp_path, files):
    desk = brought_in(desk, tmp_path, "elder-cordial")
    desk.page.get_by_role("tab", name="Product").click()
    desk.page.get_by_label("Artwork of Label", exact=True).set_input_files(files[1])
    desk.until("document.querySelectorAll('#unrolled image').length >= 1")
    desk.settled()
    return desk


def test_a_zone_is_dragged_on_the_unrolled_surface_and_by_keys(labelled):
    page = labelled.page
    before, picture = document(labelled)["subject"]["bands"][0], frame(labelled)
    scale = page.evaluate(
        "(() => { const r = document.querySelector('.zone.selected rect').getBoundingClientRect(); return r.height; })()"
    )
    per_cm = scale / (before["high_cm"] - before["low_cm"])
    drag(labelled, ".zone.selected rect >> nth=3", 0, -3 * per_cm)
    after = document(labelled)["subject"]["bands"][0]
    assert after["low_cm"] == pytest.approx(before["low_cm"] + 3, abs=0.11)
    assert after["high_cm"] - after["low_cm"] == pytest.approx(before["high_cm"] - before["low_cm"], abs=0.002)
    assert changed(picture, frame(labelled)) > 0.005
    page.locator(".zone.selected").focus()
    labelled.after_saved(lambda: page.keyboard.press("Alt+ArrowUp"))
    assert document(labelled)["subject"]["bands"][0]["low_cm"] == pytest.approx(after["low_cm"] + 0.01, abs=0.0015)
    labelled.after_saved(lambda: page.keyboard.press("Shift+ArrowRight"))
    wider = document(labelled)["subject"]["bands"][0]
    assert np.radians(wider["width_deg"] - after["width_deg"]) * 3.7 == pytest.approx(0.1, abs=0.005)


def test_a_zone_goes_with_the_hand_over_the_frame(labelled):
    page = labelled.page
    _, from_ = reddest(labelled)
    page.locator("[data-on-frame='0']").click()
    box = box_of(page.locator("#frame"))
    x, y = box["x"] + from_[0] * box["width"], box["y"] + from_[1] * box["height"]
    page.mouse.move(x, y)
    page.mouse.down()
    for i in range(1, 7):
        page.mouse.move(x, y - 5 * i)
        page.wait_for_timeout(60)
    page.mouse.up()
    labelled.until("document.getElementById('saved').textContent === 'saved'")
    labelled.settled()
    _, to = reddest(labelled)
    # The mark is where the hand let go of it: within a pixel of the page.
    assert (from_[1] - to[1]) * box["height"] == pytest.approx(30, abs=1.5)
    assert (to[0] - from_[0]) * box["width"] == pytest.approx(0, abs=1.5)
    page.keyboard.press("Escape")
    assert page.locator("[data-on-frame='0']").get_attribute("aria-pressed") == "false"


def test_foil_and_emboss_are_masks_of_the_label_and_go_again(labelled, tmp_path):
    page = labelled.page
    mask = np.zeros((472, 709), np.uint8)
    mask[20:100] = 255
    file = tmp_path / "mask.png"
    Image.fromarray(mask).save(file)
    before = frame(labelled)
    page.get_by_label("Foil mask of Label", exact=True).set_input_files(file)
    page.get_by_role("button", name="Foil mask of Label off").wait_for()
    labelled.settled()
    assert document(labelled)["subject"]["bands"][0]["artwork"]["foil"]
    assert changed(before, frame(labelled)) > 0.001
    page.get_by_role("button", name="Foil mask of Label off").click()
    page.get_by_role("button", name="Foil mask of Label off").wait_for(state="detached")
    labelled.settled()
    assert document(labelled)["subject"]["bands"][0]["artwork"]["foil"] == ""
    assert changed(before, frame(labelled)) < 0.001


def test_a_file_that_is_no_picture_is_refused_in_words_and_nothing_is_lost(labelled, tmp_path):
    bad = tmp_path / "bad.png"
    bad.write_bytes(b"no picture at all")
    before = document(labelled)
    labelled.page.get_by_label("Artwork of Label", exact=True).set_input_files(bad)
    labelled.until("document.getElementById('frame-note').textContent.includes('PNG, JPEG or SVG')")
    assert document(labelled) == before
    labelled.errors = [said for said in labelled.errors if "artwork" not in said]


def test_wall_and_level_are_dragged_in_the_cross_section(desk, tmp_path):
    desk = brought_in(desk, tmp_path, "gooseberry-glow")
    desk.page.get_by_role("tab", name="Product").click()
    desk.page.locator(".level-line").wait_for()
    before = document(desk)["subject"]
    height = before["profile"][-1]["height_cm"]
    per_cm = (
        desk.page.evaluate(
            "(() => { const r = document.querySelector('.outer-line').getBoundingClientRect(); return r.height; })()"
        )
        / height
    )
    drag(desk, ".level-line", 0, 2 * per_cm)
    after = document(desk)["subject"]
    assert after["liquid"]["level_cm"] == pytest.approx(before["liquid"]["level_cm"] - 2, abs=0.06)
    desk.page.locator("[data-grip=p4]").focus()
    desk.after_saved(lambda: desk.page.keyboard.press("ArrowRight"))
    wider = document(desk)["subject"]["profile"][4]["diameter_cm"]
    assert wider == pytest.approx(before["profile"][4]["diameter_cm"] + 0.1, abs=0.005)


def test_a_photograph_proposes_an_outline_on_the_bench_and_can_be_dropped(desk, tmp_path, files):
    desk = brought_in(desk, tmp_path, "elder-cordial")
    desk.page.get_by_role("tab", name="Product").click()
    before = document(desk)
    desk.page.get_by_label("Photograph from the side").set_input_files(files[0])
    desk.page.get_by_role("button", name="Take this outline").wait_for()
    assert "The sides differ by" in desk.page.locator("#cross-words").inner_text()
    desk.page.get_by_role("button", name="Drop it").click()
    assert json.dumps(document(desk)) == json.dumps(before)
    desk.page.get_by_label("Photograph from the side").set_input_files(files[0])
    desk.page.get_by_role("button", name="Take this outline").click()
    desk.settled()
    found = [(p["height_cm"] / 100, p["diameter_cm"] / 200) for p in document(desk)["subject"]["profile"]]
    assert np.median(off(found, profile(OUTLINES[0]))) < 0.01

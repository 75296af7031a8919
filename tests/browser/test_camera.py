"""The camera by hand: its frame pulled in plan and side, framings under names, a part of the frame made the frame, the loupe."""

import pytest

from tests.browser.desk import box_of
from tests.browser.test_products import brought_in, changed, document, drag, frame

pytestmark = pytest.mark.browser


@pytest.fixture
def shot(desk, tmp_path):
    return brought_in(desk, tmp_path, "elder-cordial")


def choose_camera(desk):
    desk.page.locator("#side .camera-thing").click()
    desk.page.locator("#side .camera-frame.selected [data-handle=aim]").wait_for()


def scale(desk, view):
    return float(desk.page.locator(f"#{view} svg").get_attribute("data-scale"))


def test_the_frames_middle_and_end_are_pulled_in_the_side_view(shot):
    choose_camera(shot)
    before, picture = document(shot)["camera"], frame(shot)
    drag(shot, "#side .camera-frame [data-handle=aim]", 0, -5 * scale(shot, "side"))
    aimed = document(shot)["camera"]
    assert aimed["aim_height_cm"] == pytest.approx(before["aim_height_cm"] + 5, abs=0.6)
    assert changed(picture, frame(shot)) > 0.01
    handle = box_of(shot.page.locator("#side .camera-frame [data-handle=frame]"))
    aim = box_of(shot.page.locator("#side .camera-frame [data-handle=aim]"))
    half = aim["y"] + aim["height"] / 2 - handle["y"] - handle["height"] / 2
    drag(shot, "#side .camera-frame [data-handle=frame]", 0, half / 2)  # half as high: twice the length
    assert document(shot)["camera"]["focal_length_mm"] == pytest.approx(2 * before["focal_length_mm"], rel=0.05)


def test_framings_have_names_and_come_back(shot):
    page = shot.page
    page.get_by_role("tab", name="Camera").click()
    wide = document(shot)["camera"]
    page.get_by_label("Keep this framing as").fill("Whole bottle")
    shot.after_saved(lambda: page.get_by_role("button", name="Keep", exact=True).click())
    length = page.locator("#panel-camera [data-path='camera.focal_length_mm']")
    length.fill("180")
    shot.after_saved(lambda: length.press("Enter"))
    page.get_by_label("Keep this framing as").fill("Close")
    shot.after_saved(lambda: page.get_by_role("button", name="Keep", exact=True).click())
    whole = page.get_by_role("button", name="Whole bottle", exact=True)
    shot.after_saved(whole.click)
    assert document(shot)["camera"] == wide
    assert whole.get_attribute("aria-pressed") == "true"
    shot.after_saved(page.get_by_role("button", name="Forget the framing Close").click)
    assert [one["name"] for one in document(shot)["cameras"]] == ["Whole bottle"]


def test_a_part_of_the_frame_becomes_the_frame(shot):
    page = shot.page
    before = document(shot)["camera"]
    picture = frame(shot)
    label = picture[..., 0] > 100
    rows = label.any(axis=1).nonzero()[0]
    page.get_by_role("button", name="Frame a part").click()
    box = box_of(page.locator("#frame"))
    left, top, wide, high = 0.3, 0.55, 0.4, 0.4
    page.mouse.move(box["x"] + left * box["width"], box["y"] + top * box["height"])
    page.mouse.down()
    page.mouse.move(box["x"] + (left + wide) * box["width"], box["y"] + (top + high) * box["height"], steps=6)
    shot.after_saved(page.mouse.up)
    shot.settled()
    camera = document(shot)["camera"]
    assert (camera["crop_width"], camera["crop_height"]) == (before["crop_width"], before["crop_height"])
    image = 1 / (
        1 / before["focal_length_mm"] - 1 / (10 * before["distance_cm"])
    )  # thin lens, behind which the part is 0.4 as large
    assert camera["focal_length_mm"] == pytest.approx(1 / (0.4 / image + 1 / (10 * before["distance_cm"])), rel=0.02)
    assert camera["aim_side_cm"] == pytest.approx(before["aim_side_cm"], abs=0.2)
    assert camera["aim_height_cm"] < before["aim_height_cm"] - 5
    assert len(rows)
    assert changed(picture, frame(shot)) > 0.05
    assert page.get_by_role("button", name="Frame a part").get_attribute("aria-pressed") == "false"


def test_the_loupe_shows_the_fine_picture_pixel_for_pixel(shot):
    page = shot.page
    page.get_by_role("button", name="Loupe").click()
    box = box_of(page.locator("#frame"))
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 0.7 * box["height"])
    page.mouse.move(box["x"] + box["width"] / 2 + 2, box["y"] + 0.7 * box["height"])
    loupe = page.locator("#loupe")
    loupe.wait_for()
    assert "picture.png?side=1600" in loupe.evaluate("(part) => part.style.backgroundImage")
    assert loupe.evaluate("(part) => parseFloat(part.style.backgroundSize)") == pytest.approx(1280, abs=4)
    shot.until("document.getElementById('loupe').style.backgroundImage.includes('-fine')", seconds=90)
    page.get_by_role("button", name="Loupe").click()
    assert not loupe.is_visible()


def test_shift_and_tilt_change_the_picture_and_are_told(shot):
    page = shot.page
    page.get_by_role("tab", name="Camera").click()
    for path, value, words in (
        ("camera.shift_up_mm", "4", ""), ("camera.tilt_deg", "6", "leans by"), ("camera.swing_deg", "-3", "right of the lens"),
    ):  # fmt: skip
        picture, field = frame(shot), page.locator(f"#panel-camera [data-path='{path}']")
        field.fill(value)
        shot.after_saved(lambda field=field: field.press("Enter"))
        assert changed(picture, frame(shot)) > 0.002, path
        assert words in page.locator("#lens-words").inner_text()
    kept = document(shot)["camera"]
    assert (kept["shift_up_mm"], kept["tilt_deg"], kept["swing_deg"]) == (4, 6, -3)
    field = page.locator("#panel-camera [data-path='camera.tilt_deg']")
    field.fill("40")
    field.press("Enter")
    page.get_by_text("tilt of the lens").first.wait_for()
    assert document(shot)["camera"]["tilt_deg"] == 6
    shot.errors[:] = [words for words in shot.errors if "422" not in words]  # Chromium reports the refused request
    page.goto(page.url + "/sheet")
    assert "+4 mm up" in page.locator("body").inner_text()
    assert "hinge" in page.locator("body").inner_text() or "leans by" in page.locator("body").inner_text()

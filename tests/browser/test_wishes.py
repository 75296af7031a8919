"""What the picture must show, on the bench: wishes added and changed by hand, met by one key, taken back by another."""

import pytest

from tests.browser.test_products import brought_in, changed, document, frame

pytestmark = pytest.mark.browser


@pytest.fixture
def shot(desk, tmp_path):
    return brought_in(desk, tmp_path, "elder-cordial")


def powers(desk):
    return {light["key"]: light["power_stops"] for light in document(desk)["lights"]}


def test_usual_wishes_are_met_by_one_key_and_undo_brings_back(shot):
    page = shot.page
    shot.after_saved(lambda: page.locator("#wish-set").select_option("usual"))
    shot.until("document.getElementById('balance').textContent.includes('head')")
    before, picture = powers(shot), frame(shot)
    words = page.locator("#balance-words li").all_inner_texts()
    assert words
    shot.after_saved(lambda: page.keyboard.press("l"))
    after = powers(shot)
    assert after != before
    assert changed(picture, frame(shot)) > 0.002
    shot.until("document.querySelector('#wish-list [data-key=label-level]').dataset.state === 'met'")
    shot.until("document.querySelector('#wish-list [data-key=left-right]').dataset.state === 'met'")
    shot.after_saved(lambda: page.keyboard.press("Control+z"))
    assert powers(shot) == before


def test_a_wish_about_a_reading_is_added_changed_held_and_removed(shot):
    page = shot.page
    shot.after_saved(lambda: page.locator("#wish-set").select_option("usual"))
    count = len(document(shot)["wishes"])
    page.get_by_label("Reading", exact=True).select_option("background")
    page.get_by_label("What is wished for").select_option("level")
    shot.after_saved(page.locator("#add-wish").get_by_role("button", name="Add").click)
    added = document(shot)["wishes"][count]
    assert (added["kind"], added["reading"]) == ("level", "background")
    page.locator(f"#wish-list [data-key={added['key']}] .wish-about").click()
    row = page.locator(f"#wish-list [data-key={added['key']}]")
    level = row.get_by_label("Level, stops")
    level.fill("-6")
    shot.after_saved(lambda: level.press("Enter"))
    shot.after_saved(lambda: row.get_by_label("Side").select_option("at most"))
    kept = document(shot)["wishes"][count]
    assert (kept["stops"], kept["side"]) == (-6, "at most")
    shot.until(f"document.querySelector('#wish-list [data-key={added['key']}]').dataset.state === 'met'")
    shot.after_saved(page.locator("#held").get_by_role("button", name="3 Label light").click)
    assert document(shot)["held"] == [document(shot)["lights"][2]["key"]]
    fixed = powers(shot)[document(shot)["held"][0]]
    shot.until("document.getElementById('balance').textContent.includes('Balance')")
    page.keyboard.press("l")
    shot.settled()
    assert powers(shot)[document(shot)["held"][0]] == fixed
    shot.after_saved(row.get_by_role("button", name="Remove").click)
    assert len(document(shot)["wishes"]) == count


def test_a_head_is_aimed_in_the_drawings_too(shot):
    page = shot.page
    page.keyboard.press("3")
    page.locator("#tape [data-to-segment=aim]").click()
    page.locator("#tape [data-aim-place]").click()
    shot.after_saved(page.locator("#side .camera-thing .grip").click)
    assert document(shot)["lights"][2]["aim"]["at"] == "camera"
    page.locator("#tape [data-aim-place]").click()
    shot.after_saved(lambda: page.locator("#floor .product-group").first.click(force=True))
    aim = document(shot)["lights"][2]["aim"]
    assert (aim["at"], aim["on"]) == ("place", "the product")
    assert abs(aim["x_cm"]) < 10
    assert abs(aim["z_cm"]) < 10


def test_the_sheet_tells_the_wishes(shot):
    shot.after_saved(lambda: shot.page.locator("#wish-set").select_option("usual"))
    shot.page.goto(shot.page.url + "/sheet")
    text = shot.page.locator("main").inner_text()
    assert "What the picture must show." in text
    assert "Left line over Right line equal, within 0.2" in text


def test_the_list_gives_way_to_what_is_chosen(shot):
    page = shot.page
    assert page.locator("#wishes").is_visible()
    page.keyboard.press("1")
    page.locator("#wishes").wait_for(state="hidden")
    page.keyboard.press("Escape")
    page.locator("#wishes").wait_for(state="visible")


def test_a_head_is_aimed_on_the_frame_and_stays_aimed(shot):
    page = shot.page
    page.keyboard.press("3")
    page.locator("#tape [data-to-segment=aim]").click()
    page.locator("#tape [data-aim-place]").click()
    box = page.locator("#frame").bounding_box()
    before = document(shot)["lights"][2]
    shot.after_saved(lambda: page.mouse.click(box["x"] + box["width"] / 2, box["y"] + 0.7 * box["height"]))
    aimed = document(shot)["lights"][2]
    assert aimed["aim"]["at"] == "place"
    assert aimed["aim"]["on"] == "Label"
    assert (aimed["turn_deg"], aimed["tilt_deg"]) != (before["turn_deg"], before["tilt_deg"])
    picture = frame(shot)
    shot.after_saved(lambda: [page.keyboard.press("Shift+ArrowRight") for _ in range(3)])
    moved = document(shot)["lights"][2]
    assert moved["place"]["x_cm"] == pytest.approx(aimed["place"]["x_cm"] + 30)
    assert moved["turn_deg"] != aimed["turn_deg"]
    assert changed(picture, frame(shot)) > 0.002
    shot.after_saved(lambda: page.get_by_label("Aimed at").select_option("camera"))
    assert document(shot)["lights"][2]["aim"]["at"] == "camera"
    shot.after_saved(lambda: page.keyboard.press("q"))
    assert document(shot)["lights"][2]["aim"] is None


def test_a_lines_panel_goes_where_its_image_is_the_line(desk, tmp_path):
    line = {"kind": "edge", "key": "left-line", "name": "Left line", "side": "left", "low": 0.08, "high": 0.6}
    wish = {
        "kind": "place",
        "key": "left-place",
        "reading": "left-line",
        "near": 0.65,
        "far": 0.8,
        "within": 0.04,
        "height": 0.2,
    }
    shot = brought_in(desk, tmp_path, "elder-cordial", readings=[line], wishes=[wish])
    page = shot.page
    row = page.locator("#wish-list [data-key=left-place]")
    row.get_by_text("too far out").wait_for()
    before, picture = document(shot)["lights"][0], frame(shot)
    shot.after_saved(row.get_by_role("button", name="Put its panel there").click)
    moved = document(shot)["lights"][0]
    assert len(document(shot)["lights"]) == 3  # the panel that makes the line, no other
    assert (moved["place"], moved["width_cm"]) != (before["place"], before["width_cm"])
    assert changed(picture, frame(shot)) > 0.002
    shot.until("document.querySelector('#wish-list [data-key=left-place]').dataset.state === 'met'")
    shot.after_saved(lambda: page.keyboard.press("Control+z"))
    assert document(shot)["lights"][0]["place"] == before["place"]


def test_from_no_lights_to_lines_at_their_place_and_level(desk, tmp_path):
    shot = brought_in(desk, tmp_path, "elder-cordial", lights=[], cards=[])
    page, actions = shot.page, 0

    def act(done):
        nonlocal actions
        actions += 1
        shot.after_saved(done)

    act(lambda: page.locator("#wish-set").select_option("usual"))
    for side in ("left", "right"):
        act(page.locator(f"#wish-list [data-key={side}-place]").get_by_role("button", name="Put its panel there").click)
        shot.until(f"document.querySelector('#wish-list [data-key={side}-place]').dataset.state === 'met'")
    act(lambda: page.keyboard.press("l"))
    shot.until("document.querySelector('#wish-list [data-key=left-right]').dataset.state === 'met'")
    assert [light["name"] for light in document(shot)["lights"]] == ["Left panel", "Right panel"]
    assert actions == 4

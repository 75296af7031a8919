"""What makes the bench one instrument: pointing, handles, pairs, tape, units, schools, groups, readings, states, windows in step."""

import math
import time

import numpy as np
import pytest

from tests.browser.desk import Desk, box_of
from tests.browser.test_bench import cylinder_shot, exported, grip, highlight, import_shot

pytestmark = pytest.mark.browser


def point(desk, x, y):
    """Put the pointer at parts of the frame and wait for what is told there."""
    box = box_of(desk.page.locator("#frame"))
    desk.page.mouse.move(box["x"] + x * box["width"] + 3, box["y"] + y * box["height"])
    desk.page.mouse.move(box["x"] + x * box["width"], box["y"] + y * box["height"])
    desk.told()
    return desk.page.locator("#spot").inner_text()


def drag(desk, start, by, steps=6):
    mouse = desk.page.mouse
    mouse.move(*start)
    mouse.down()
    mouse.move(start[0] + by[0], start[1] + by[1], steps=steps)
    mouse.up()
    desk.settled()


def middle(desk, selector):
    box = box_of(desk.page.locator(selector))
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def lamp(key, x, turn=90):
    return {
        "kind": "head", "head": "dish 65°", "key": key, "name": key.title(), "place": {"x_cm": x, "y_cm": 20, "z_cm": -30},
        "turn_deg": turn, "tilt_deg": 0, "power_stops": -4, "lowest_stops": 8, "steps_per_stop": 3,
    }  # fmt: skip


# ---- three views that are one thing


def test_pointing_at_the_frame_names_what_is_mirrored_and_draws_its_way(desk, tmp_path):
    import_shot(desk, cylinder_shot(), tmp_path)
    place = float(np.mean(highlight(desk)))
    told = point(desk, place, 0.44)  # beside the reading line
    assert "1 Key, mirrored in" in told
    assert "stops" in told
    for view in ("floor", "side"):
        assert desk.page.locator(f"#{view}-over .way-of-light").count() >= 1
    assert desk.page.locator("#floor .thing.mirrored-here[data-key=key]").count() == 1
    # The way on the floor ends at the panel: the drawing's own scale says where.
    points = desk.page.locator("#floor-over .way-of-light").first.get_attribute("points")
    last = points.split(" ")[-1]
    panel = box_of(desk.page.locator("#floor .thing[data-key=key] .face"))
    floor = box_of(desk.page.locator("#floor-over"))
    x, y = (float(v) for v in last.split(","))
    assert abs(floor["x"] + x - panel["x"] - panel["width"] / 2) < panel["width"]
    assert abs(floor["y"] + y - panel["y"] - panel["height"] / 2) < panel["height"] + 8
    box = box_of(desk.page.locator("#frame"))
    desk.page.mouse.click(box["x"] + place * box["width"], box["y"] + 0.44 * box["height"])
    desk.until("document.querySelector('.light.selected')?.dataset.key === 'key'")
    assert desk.page.locator("#side .thing.selected[data-key=key]").count() == 1
    desk.page.mouse.move(5, 5)
    desk.until("document.getElementById('spot').hidden")


def test_hovering_a_thing_outlines_its_image_where_the_highlight_is(desk, tmp_path):
    import_shot(desk, cylinder_shot(), tmp_path)
    left, right = highlight(desk)
    desk.page.mouse.move(*grip(desk, "key"))
    desk.until("document.querySelector('#image-outlines path')?.getAttribute('d')?.length > 10")
    path = desk.page.evaluate("document.querySelector('#image-outlines path').getAttribute('d')")
    x = np.array([float(p.split()[0]) for p in path.replace("M", "L").replace("Z", "").split("L") if p]) / 1000
    # The outline comes from a picture 320 pixels wide.
    assert x.min() == pytest.approx(left, abs=2 / 320)
    assert x.max() == pytest.approx(right, abs=2 / 320)
    desk.page.mouse.move(5, 5)
    desk.until("document.querySelectorAll('#image-outlines path').length === 0")


# ---- direct handling


def test_a_handle_sizes_a_panel_and_its_highlight(desk, tmp_path):
    import_shot(desk, cylinder_shot(), tmp_path)
    before = highlight(desk)
    desk.page.keyboard.press("1")
    start = desk.handle("key", "width")
    face = grip(desk, "key")
    out = start[0] - face[0], start[1] - face[1]
    drag(desk, start, (3 * out[0], 3 * out[1]))
    after = exported(desk).lights[0]
    assert after.width_cm > 12
    assert after.place.x_cm == -60
    assert np.ptp(highlight(desk)) > 1.5 * np.ptp(before)
    tall = after.height_cm
    drag(desk, desk.handle("key", "height", "side"), (0, -25))
    assert exported(desk).lights[0].height_cm > tall


def test_a_panel_snaps_to_the_place_opposite_another(desk, tmp_path):
    document = cylinder_shot()
    place = {"x_cm": 52, "y_cm": 15, "z_cm": 12}
    document["lights"].append({**document["lights"][0], "key": "fill", "name": "Fill", "place": place})
    import_shot(desk, document, tmp_path)
    scale = float(desk.page.evaluate("document.querySelector('#floor svg').dataset.scale"))
    x, y = grip(desk, "fill")
    mouse = desk.page.mouse
    mouse.move(x, y)
    mouse.down()
    mouse.move(x + 8 * scale + 0.3, y + 8 * scale + 0.3, steps=6)
    desk.until("document.querySelector('#floor-over .guides text')?.textContent.includes('opposite Key')")
    mouse.up()
    desk.settled()
    place = exported(desk).lights[1].place
    assert (place.x_cm, place.z_cm) == (60, 20)
    assert desk.page.locator("#floor-over .guides line").count() == 0


def test_a_mirrored_panel_follows_its_twin_while_it_is_dragged(desk, tmp_path):
    import_shot(desk, cylinder_shot(), tmp_path)
    desk.page.keyboard.press("1")
    desk.after(lambda: desk.page.keyboard.press("m"))
    assert len(exported(desk).lights) == 2
    twin = exported(desk).lights[1].key
    x, y = grip(desk, "key")
    before = grip(desk, twin)
    mouse = desk.page.mouse
    mouse.move(x, y)
    mouse.down()
    mouse.move(x - 14, y + 10, steps=6)
    desk.followed()
    now = grip(desk, twin)  # the hand still holds the first one
    assert now[0] > before[0] + 8
    assert now[1] > before[1] + 5
    mouse.up()
    desk.settled()
    one, other = exported(desk).lights
    assert (other.place.x_cm, other.place.z_cm, other.turn_deg) == (-one.place.x_cm, one.place.z_cm, -one.turn_deg)
    desk.page.locator("[data-unlink]").click()
    desk.settled()
    assert exported(desk).lights[0].pair is None


def test_a_tape_between_two_things_reads_what_a_tape_would(desk, tmp_path):
    import_shot(desk, cylinder_shot(), tmp_path)
    desk.page.keyboard.press("t")
    desk.page.mouse.click(*grip(desk, "key"))
    desk.page.locator("#floor .product-group .product").first.click()
    desk.until("document.getElementById('tape-words').textContent.includes('straight')")
    # By hand: 60 cm left, 20 cm in front, both middles 15 cm high: 63.2 cm.
    assert "63.2 cm straight, 63.2 cm on the floor" in desk.page.locator("#tape-words").inner_text()
    assert desk.page.locator("#floor .tape-end").count() == 2
    desk.page.keyboard.press("Escape")
    desk.until("document.getElementById('tape-words').hidden")


def test_inches_are_shown_typed_and_kept_as_what_they_are(desk, tmp_path):
    import_shot(desk, cylinder_shot(), tmp_path)
    desk.page.keyboard.press("1")
    field = desk.page.locator("#tape").get_by_label("Width, cm")
    assert field.input_value() == "8"
    units = """[...document.querySelectorAll('#panel-camera .with-unit')]
      .map((f) => f.querySelector('input').dataset.label + ' ' + f.textContent.trim())"""
    before = desk.page.evaluate(units)
    assert "Focal length mm" in before
    assert "Lens height cm" in before
    desk.page.keyboard.press("u")
    assert float(field.input_value()) == pytest.approx(8 / 2.54, abs=0.01)
    assert [text[:-2] + "cm" if text.endswith(" in") else text for text in desk.page.evaluate(units)] == before
    desk.until("document.querySelector('#floor .ruler-text').textContent.endsWith(' in')")
    field.fill("10")
    desk.after(lambda: field.press("Enter"))
    assert exported(desk).lights[0].width_cm == pytest.approx(25.4)
    desk.page.locator("#unit-switch").click()
    desk.until("document.querySelector('#floor .ruler-text').textContent.endsWith(' cm')")


# ---- adding


def test_one_key_adds_a_thing_and_another_a_whole_school(desk, tmp_path):
    document = cylinder_shot()
    document["lights"] = []
    import_shot(desk, document, tmp_path)
    desk.page.keyboard.press("n")
    desk.page.wait_for_selector("#adding[open]")
    desk.after(lambda: desk.page.keyboard.press("c"))
    shot = exported(desk)
    assert [card.kind for card in shot.cards] == ["sheet"]
    assert len(shot.lights) == 1
    desk.page.keyboard.press("n")
    schools = "[...document.querySelectorAll('#school-tiles img')].filter((i) => i.complete && i.naturalWidth > 0).length"
    desk.until(f"{schools} >= 4", seconds=40)
    desk.after(lambda: desk.page.keyboard.press("2"))
    shot = exported(desk)
    assert [card.material for card in shot.cards] == ["opal acrylic"] * 2
    assert shot.lights[0].place.x_cm == -shot.lights[1].place.x_cm
    assert shot.lights[0].group == "edges"
    desk.page.keyboard.press("Control+z")
    desk.settled()
    assert len(exported(desk).cards) == 1


# ---- lights


def lamps_shot():
    document = cylinder_shot()
    document["lights"] = [lamp("one", -50), lamp("two", 50, -90), {**lamp("three", -20, 30), "power_stops": 0}]
    for light in document["lights"][:2]:
        light["group"] = "sides"
    place = {"x_cm": -30, "y_cm": 20, "z_cm": -18}
    sheet = {"kind": "sheet", "material": "opal acrylic", "key": "cloth", "name": "Cloth", "place": place}
    document["cards"] = [{**sheet, "turn_deg": 62, "tilt_deg": 0, "width_cm": 40, "height_cm": 60}]
    return document


def test_lights_one_after_the_other_groups_and_ways(desk, tmp_path):
    import_shot(desk, lamps_shot(), tmp_path)
    desk.judged()
    assert "opal acrylic −" in desk.page.locator(".light[data-key=one] .way").inner_text()
    assert "weakest at full power" in desk.page.locator("#weakest").inner_text()
    seen = []
    alone = "document.querySelector('.light [data-do=alone][aria-pressed=true]')?.closest('.light').dataset.key ?? ''"
    for _ in range(4):
        desk.page.keyboard.press("w")
        seen.append(desk.page.evaluate(alone))
    assert seen == ["one", "two", "three", ""]
    desk.page.keyboard.press("1")
    desk.page.keyboard.press("g")
    desk.settled()
    assert [light.on for light in exported(desk).lights] == [False, False, True]
    desk.page.get_by_label("Group sides off", exact=True).click()
    desk.page.keyboard.press(".")
    desk.settled()
    assert [round(light.power_stops, 2) for light in exported(desk).lights] == [-3.67, -3.67, 0]
    desk.page.locator(".tape-chain [data-select=cloth]").click()
    desk.until("document.querySelector('#floor .thing.selected')?.dataset.key === 'cloth'")


def test_a_light_is_carried_to_another_place_of_the_order(desk, tmp_path):
    import_shot(desk, lamps_shot(), tmp_path)
    start = middle(desk, ".light[data-key=three] .name")
    to = middle(desk, ".light[data-key=one] .name")
    drag(desk, start, (to[0] - start[0] - 10, 0))
    assert [light.key for light in exported(desk).lights] == ["three", "one", "two"]
    desk.page.keyboard.press("1")
    desk.page.keyboard.press("]")
    desk.settled()
    assert [light.key for light in exported(desk).lights] == ["one", "three", "two"]


# ---- readings


def test_readings_stay_with_the_product_when_the_camera_moves(desk):
    desk.shot("Elder cordial, 70 cl")
    desk.page.get_by_role("tab", name="Readings").click()
    if desk.page.locator("#usual-readings").is_enabled():
        desk.page.locator("#usual-readings").click()
    desk.until("document.querySelectorAll('#readings-table tbody tr').length === 4")
    desk.judged()
    desk.until("document.querySelectorAll('#reading-marks g').length === 4")
    words = desk.page.locator("#readings-table").inner_text()
    assert "Sides equal" in desk.page.locator("#between").inner_text()
    assert "Label light 100 %" in words.replace("\n", " ")
    desk.page.locator("#add-spot").click()
    box = box_of(desk.page.locator("#frame"))
    desk.page.mouse.click(box["x"] + 0.46 * box["width"], box["y"] + 0.72 * box["height"])
    desk.until("document.querySelectorAll('#readings-table tbody tr').length === 5")
    spot = exported(desk).readings[-1]
    assert spot.kind == "spot"
    desk.judged()
    marks = "document.querySelector('#reading-marks g[data-key=spot-1] circle').getAttribute('cx')"
    before = float(desk.page.evaluate(marks))
    desk.page.get_by_role("tab", name="Camera").click()
    desk.page.get_by_label("Aim to the side, cm").fill("6")
    desk.after(lambda: desk.page.keyboard.press("Enter"))
    desk.judged()
    desk.until(f"Math.abs({marks} - {before}) > 20")
    assert exported(desk).readings[-1] == spot
    desk.page.keyboard.press("Escape")
    desk.page.get_by_role("tab", name="Readings").click()
    assert desk.page.evaluate("document.querySelector('#histogram .whole').getAttribute('d').length") > 60
    desk.page.get_by_label("Remove Spot 1").click()
    desk.until("document.querySelectorAll('#readings-table tbody tr').length === 4")


def test_black_that_is_not_quite_black_is_dotted(desk, tmp_path):
    document = cylinder_shot()
    document["room_lux"] = 3.0
    document["background"] = {
        "distance_cm": 100, "width_cm": 300, "height_cm": 300, "centre_height_cm": 50, "skin": {"reflectance": [0.04, 0.04, 0.04]},
    }  # fmt: skip
    document["exposure"]["shutter_s"] = 2.0**-5
    import_shot(desk, document, tmp_path)
    count = """() => { const c = document.getElementById('frame'), d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;
      let n = 0; for (let i = 0; i < d.length; i += 4) n += d[i] === 176 && d[i + 1] === 176; return n; }"""
    before = desk.page.evaluate(count)  # the gradient of a line may pass through that very grey
    assert before < 100
    desk.page.keyboard.press("k")
    assert "1–8:" in desk.page.locator("#tones").inner_text()
    dotted = desk.page.evaluate(count) - before
    share = float(desk.page.locator("#tones").inner_text().split("1–8: ")[1].split(" %")[0]) / 100
    size = desk.page.evaluate("document.getElementById('frame').width * document.getElementById('frame').height")
    if share > 0.05:
        assert dotted == pytest.approx(share * size / 9, rel=0.5)  # 4 of 36 pixels
    desk.page.keyboard.press("k")
    assert desk.page.evaluate(count) == before


# ---- states


def test_states_are_pinned_compared_and_gone_back_to_across_a_reload(desk, tmp_path):
    import_shot(desk, cylinder_shot(), tmp_path)
    desk.page.keyboard.press("p")
    desk.until("document.getElementById('frame-note').textContent.includes('Pinned')")
    desk.page.keyboard.press("1")
    desk.page.keyboard.press("+")
    desk.page.keyboard.press("+")
    desk.page.keyboard.press("+")
    desk.settled()
    desk.page.reload()
    desk.settled()
    desk.page.get_by_role("tab", name="States").click()
    desk.until("document.querySelectorAll('#states li').length >= 2")
    desk.page.locator("[data-compare=difference]").click()
    desk.until("document.body.dataset.compared?.includes('difference')", seconds=60)
    levels = desk.page.evaluate("""() => { const i = document.getElementById('compare-picture'), c = document.createElement('canvas');
      c.width = i.naturalWidth; c.height = i.naturalHeight; const x = c.getContext('2d'); x.drawImage(i, 0, 0);
      const d = x.getImageData(0, c.height / 2, c.width, 1).data; return Array.from(d).filter((_, n) => n % 4 === 0); }""")
    # One stop more from the only light: a third of the way from grey to white.
    assert max(levels) == pytest.approx(127.5 + 127.5 / 3, abs=2)
    desk.page.locator("[data-compare=split]").click()
    desk.until("document.body.dataset.compared?.includes('picture.png')", seconds=60)
    desk.page.locator("#compare-split").fill("30")
    assert "70%" in desk.page.evaluate("document.getElementById('compare-picture').style.clipPath")
    desk.page.keyboard.press("Escape")
    assert desk.page.locator("#compare").is_hidden()
    desk.page.locator("#frame").focus()
    desk.page.keyboard.down("c")
    desk.until("document.body.dataset.compare === 'flip'")
    desk.page.keyboard.up("c")
    desk.until("document.body.dataset.compare === ''")
    desk.after_saved(lambda: desk.page.locator("#states [data-go='1']").click())
    assert exported(desk).lights[0].power_stops == -4
    desk.page.locator("#redo").click()
    desk.settled()
    assert exported(desk).lights[0].power_stops != -4


def test_two_windows_stay_in_step_and_a_client_only_looks(desk, browser, site, tmp_path):
    import_shot(desk, cylinder_shot(), tmp_path)
    second = type(desk).opened(browser, site)
    second.sign_in()
    second.go(desk.page.url.removeprefix(site))
    second.settled()
    desk.page.locator("#view-link").click()
    desk.page.wait_for_selector("#link-dialog[open]")
    desk.page.locator("#make-link").click()
    desk.until("document.getElementById('link-address').value !== ''")
    address = desk.page.locator("#link-address").input_value()
    desk.page.keyboard.press("Escape")
    client = type(desk).opened(browser, site)
    client.go(address.removeprefix(site))
    client.until("document.body.dataset.state !== undefined")
    shown = client.page.evaluate("document.getElementById('looking-frame').src")
    before = highlight(second)
    desk.page.keyboard.press("1")
    for _ in range(3):
        desk.page.keyboard.press("Shift+ArrowDown")
    desk.settled()
    kept = desk.page.evaluate("document.body.dataset.revision")
    second.until(f"document.body.dataset.revision === '{kept}'", seconds=20)
    second.settled()
    assert highlight(second) != pytest.approx(before, abs=0.01)
    client.until(f"document.getElementById('looking-frame').src !== '{shown}'", seconds=30)
    assert client.page.locator("button, input, a").count() == 0
    assert (second.errors, client.errors, client.elsewhere) == ([], [], [])
    for other in (second, client):
        other.page.context.close()


# ---- as a whole


def test_the_page_is_light_and_does_not_jump(desk):
    sizes = []
    client = desk.page.context.new_cdp_session(desk.page)
    client.send("Network.enable")
    client.send("Network.setCacheDisabled", {"cacheDisabled": True})
    files = {}
    client.on("Network.responseReceived", lambda e: files.__setitem__(e["requestId"], e["response"]["url"]))
    client.on("Network.loadingFinished", lambda e: sizes.append((files.get(e["requestId"], ""), e["encodedDataLength"])))
    desk.page.add_init_script(
        "window.jumps = []; new PerformanceObserver((list) => { for (const e of list.getEntries())"
        " if (!e.hadRecentInput) window.jumps.push(e.value); })"
        ".observe({ type: 'layout-shift', buffered: true });"
    )
    desk.shot("Elder cordial, 70 cl")
    sizes.clear()
    desk.page.reload()
    desk.settled()
    desk.judged()
    desk.pictures_loaded()
    # The picture itself comes after the page: layers are data of the shot.
    page = sum(size for url, size in sizes if "/layers" not in url and "thumbnail" not in url)
    assert 20_000 < page < 600_000, sorted(sizes, key=lambda pair: -pair[1])[:8]
    assert sum(desk.page.evaluate("window.jumps")) < 0.02


SIZES = [(1280, 800), (1024, 768), (2560, 1440)]


@pytest.mark.parametrize(("width", "height"), SIZES)
def test_everything_fits_without_scrolling(desk, width, height):
    desk.page.set_viewport_size({"width": width, "height": height})
    desk.shot("Elder cordial, 70 cl")
    desk.page.keyboard.press("1")
    desk.page.wait_for_selector("#floor .tape-text", state="attached")
    assert desk.page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    assert desk.page.evaluate("document.documentElement.scrollHeight <= innerHeight")
    for selector in (
        "#frame", "#trace", "#floor", "#side", "#tape .tape-name", "#lights .light", "#exposure", "#add-button", "#keys-button",
    ):  # fmt: skip
        box = box_of(desk.page.locator(selector).first)
        assert box["x"] >= 0
        assert box["x"] + box["width"] <= width + 1, selector
        assert box["y"] + box["height"] <= height + 1, selector
    desk.page.keyboard.press("3")  # a head high up: the care to be taken stands with it
    care = desk.page.locator("#tape p", has_text="High up").last
    care.wait_for()
    desk.judged()
    work, words = box_of(desk.page.locator("#work")), box_of(care)
    assert words["y"] + words["height"] <= work["y"] + work["height"] + 1, "the caution is cut off"
    frame = box_of(desk.page.locator("#frame"))
    others = [box_of(desk.page.locator(f"#{name}")) for name in ("floor", "side")]
    assert all(frame["width"] * frame["height"] > 1.5 * o["width"] * o["height"] for o in others), (
        "the picture is the largest"
    )


def test_a_finger_drags_a_panel(browser, site, tmp_path):
    desk = Desk.opened(browser, site, has_touch=True)
    desk.sign_in()
    import_shot(desk, cylinder_shot(), tmp_path)
    x, y = grip(desk, "key")
    client = desk.page.context.new_cdp_session(desk.page)

    def touch(kind, *points):
        client.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": [{"x": a, "y": b} for a, b in points]})

    touch("touchStart", (x, y))
    for i in range(1, 7):
        touch("touchMove", (x + 3 * i, y + 5 * i))
        desk.page.wait_for_timeout(30)
    touch("touchEnd")
    desk.settled()
    assert exported(desk).lights[0].place.z_cm > 22
    assert desk.errors == []
    desk.page.context.close()


def test_from_an_empty_shot_to_a_balanced_symmetrical_bottle(desk):
    """The timed walk: under 3 minutes and 60 actions, each a click, a key or a drag as a person would do it."""
    actions = 0

    def act(do):
        nonlocal actions
        actions += 1
        do()

    page = desk.page
    desk.go("/jobs")
    began = time.monotonic()
    act(lambda: page.get_by_role("link", name="Brindlemoor winter range").click())
    act(lambda: page.get_by_label("New shot").fill("Walk"))
    act(lambda: page.get_by_label("Begin with").select_option("empty"))
    act(lambda: page.get_by_role("button", name="Add shot").or_(page.get_by_role("button", name="Create")).first.click())
    page.wait_for_url("**/shots/*")
    desk.settled()
    act(lambda: page.keyboard.press("n"))
    act(lambda: desk.after(lambda: page.keyboard.press("2")))  # two acrylic sheets, fitted
    act(lambda: page.keyboard.press("n"))
    act(lambda: desk.after(lambda: page.keyboard.press("g")))  # a gridded head for the label, selected
    act(lambda: page.get_by_role("tab", name="Readings").click())
    act(lambda: page.locator("#usual-readings").click())
    desk.until("document.querySelectorAll('#readings-table tbody tr').length === 4")
    desk.judged()

    def label():
        desk.judged()
        words = page.locator("#readings-table tr[data-key=label-centre] td:nth-child(3)").inner_text()
        return float(words.split(" stops")[0].replace("−", "-")) if "stops" in words else -9.0

    now = label()
    while abs(now - 0.8) > 0.25 and actions < 60:
        key = "-" if now > 0.8 else "+"
        steps = max(1, min(9, round(abs(now - 0.8) * 3)))  # a step of the head is a third of a stop
        desk.after_saved(lambda key=key, steps=steps: [act(lambda: page.keyboard.press(key)) for _ in range(steps)])
        now = label()
    act(lambda: page.keyboard.press("p"))
    took = time.monotonic() - began
    desk.judged()
    assert "Sides equal in brightness, at equal distance" in page.locator("#between").inner_text()
    for side in ("left-line", "right-line"):
        words = page.locator(f"#readings-table tr[data-key={side}]").inner_text()
        place = float(words.split("at ")[1].split(" %")[0])
        assert 80 < place < 99
    assert abs(label() - 0.8) <= 0.34  # a step of the head
    shot = exported(desk)
    assert shot.lights[0].place.x_cm == -shot.lights[1].place.x_cm
    assert actions < 60
    assert took < 180
    assert math.isfinite(took)

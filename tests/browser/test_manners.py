"""Honest words and good manners: what the bench says, and how it answers the hand."""

from __future__ import annotations

import math

import pytest

from fotaxis.services.presets import start_document
from tests.browser.desk import box_of
from tests.browser.test_bench import cylinder_shot, exported, grip, import_shot

pytestmark = pytest.mark.browser


def light_text(desk, number, part):
    return desk.page.locator(f"#lights .light >> nth={number - 1} >> {part}").inner_text()


def bottle(**more):
    document = start_document("bottle")
    return {**document, **more}


# ---- words and figures


def test_a_ratio_is_typed_and_the_power_follows(desk, tmp_path):
    import_shot(desk, bottle(), tmp_path)
    desk.page.keyboard.press("2")
    desk.measures("light")
    field = desk.page.locator("[data-ratio]")
    assert field.input_value() in ("0", "−0.1", "+0.1")
    field.fill("-1 1/3")
    desk.after_saved(lambda: field.press("Enter"))
    left, right = exported(desk).lights
    # By hand: both stand alike, so a ratio in stops is a power in stops, on the head's thirds.
    assert right.power_stops - left.power_stops == pytest.approx(-4 / 3, abs=0.17)
    assert "−1" in light_text(desk, 2, ".ratio")
    assert "key" in light_text(desk, 1, ".ratio")
    # The keys are the bench's again: Y makes this one the key, and the first is told against it.
    desk.after_saved(lambda: desk.page.keyboard.press("y"))
    assert exported(desk).key_light == "right"
    desk.until("document.querySelectorAll('#lights .light .ratio')[0].textContent.includes('+1')")


@pytest.mark.parametrize(("typed", "stops"), [("1/64", -6), ("1/8 +1/3", -8 / 3), ("-5", -5), ("50 %", -1), ("full", 0)])
def test_a_power_is_typed_as_one_thinks_it(desk, tmp_path, typed, stops):
    import_shot(desk, bottle(), tmp_path)
    desk.page.keyboard.press("1")
    desk.measures("light")
    field = desk.page.locator("[data-power]")
    field.fill(typed)
    desk.after_saved(lambda: field.press("Enter"))
    assert exported(desk).lights[0].power_stops == pytest.approx(stops, abs=1e-3)


def test_powers_are_written_as_the_studio_likes(desk, tmp_path):
    import_shot(desk, bottle(), tmp_path)
    assert light_text(desk, 1, ".power") == "1/16"
    desk.page.locator("#power-style").click()
    assert light_text(desk, 1, ".power") == "−4.0 stops"
    desk.page.locator("#power-style").click()
    assert light_text(desk, 1, ".power") == "6.3 %"


def test_the_meter_is_set_down_on_the_frame_and_says_what_a_photographer_would(desk, tmp_path):
    import_shot(desk, bottle(room_lux=0), tmp_path)
    assert desk.page.locator("#metered").inner_text() == "Lit by reflections"
    assert "judge the lines" in desk.page.locator("#metered-how").inner_text()
    desk.page.locator("#meter").click()
    desk.page.locator("#meter-place").click()
    box = box_of(desk.page.locator("#frame"))
    desk.after_saved(lambda: desk.page.mouse.click(box["x"] + 0.08 * box["width"], box["y"] + 0.1 * box["height"]))
    meter = exported(desk).meter
    assert meter.on == "background"
    assert meter.place.z_cm == pytest.approx(-150, abs=0.5)
    assert "at background" in desk.page.locator("#meter-where").inner_text()
    desk.after_saved(lambda: desk.page.locator("#meter-faces").select_option("left"))
    desk.after_saved(lambda: desk.page.locator("#meter-dome").select_option("1"))
    assert (exported(desk).meter.faces, exported(desk).meter.dome) == ("left", True)
    desk.after_saved(lambda: desk.page.locator("#meter-usual").click())
    assert exported(desk).meter is None


def test_line_words_follow_the_light_that_is_alone(desk, tmp_path):
    import_shot(desk, bottle(), tmp_path)
    words = desk.page.locator("#trace-words")
    assert "left line" in words.inner_text()
    assert "right line" in words.inner_text()
    desk.page.keyboard.press("1")
    desk.page.keyboard.press("a")
    desk.until("!document.getElementById('trace-words').textContent.includes('right line')")
    assert "left line" in words.inner_text()


def test_what_is_wrong_is_said_and_a_flag_is_put_where_it_helps(desk, tmp_path):
    document = bottle(table=None, background=None)
    turn = math.degrees(math.atan2(-70, 150 + 90))
    rim = {
        "kind": "head", "head": "dish 65°", "key": "rim", "name": "Rim", "place": {"x_cm": 70, "y_cm": 40, "z_cm": -90},
        "turn_deg": round(turn, 1), "tilt_deg": -5, "power_stops": -2, "lowest_stops": 8, "steps_per_stop": 3,
    }  # fmt: skip
    document["lights"] = [rim]
    document["cards"] = [
        {"kind": "white card", "key": "near", "name": "Near card", "place": {"x_cm": 8, "y_cm": 20, "z_cm": 5}, "turn_deg": 0,
         "width_cm": 6, "height_cm": 8}
    ]  # fmt: skip
    import_shot(desk, document, tmp_path)
    desk.page.keyboard.press("Escape")
    desk.until("document.getElementById('faults').textContent.includes('Near card')")
    told = desk.page.locator("#faults").inner_text()
    assert "Rim shines into the lens" in told
    assert "things to look at" in desk.page.locator("#faults-button").inner_text()
    desk.after_saved(lambda: desk.page.get_by_role("button", name="Put the flag there").click())
    desk.judged()
    desk.until("!document.getElementById('faults').textContent.includes('shines into the lens')")
    assert exported(desk).cards[-1].name == "Lens flag"


# ---- manners


def test_enter_ends_an_entry_and_gives_the_keys_back(desk, tmp_path):
    import_shot(desk, bottle(), tmp_path)
    desk.page.keyboard.press("1")
    field = desk.page.locator("[data-path='lights.left.turn_deg']")
    field.fill("48")
    desk.after_saved(lambda: field.press("Enter"))
    assert exported(desk).lights[0].turn_deg == 48
    # A digit is no part of the field any more: it selects a light.
    desk.page.keyboard.press("2")
    desk.until("document.querySelector('.light.selected')?.dataset.key === 'right'")
    assert exported(desk).lights[0].turn_deg == 48
    # Escape leaves what was there.
    field = desk.page.locator("[data-path='lights.right.turn_deg']")
    field.fill("12")
    field.press("Escape")
    desk.page.wait_for_timeout(300)
    assert field.input_value() == "-50"
    assert exported(desk).lights[1].turn_deg == -50


def test_what_is_refused_stays_until_it_fits_with_its_neighbour(desk, tmp_path):
    haze = {"from_cm": 20, "to_cm": 100, "percent_per_m": 10}
    import_shot(desk, bottle(haze=haze), tmp_path)
    desk.page.get_by_role("tab", name="Surface").click()
    begin, end = (desk.page.locator(f"[data-path='haze.{name}']") for name in ("from_cm", "to_cm"))
    begin.fill("150")
    begin.press("Enter")
    desk.until("document.querySelector(\"[data-path='haze.from_cm']\").classList.contains('refused')")
    assert begin.input_value() == "150"
    assert exported(desk).haze.from_cm == 20
    end.fill("300")
    desk.after_saved(lambda: end.press("Enter"))
    assert (exported(desk).haze.from_cm, exported(desk).haze.to_cm) == (150, 300)
    assert "refused" not in (begin.get_attribute("class") or "")
    desk.errors = [words for words in desk.errors if "422" not in words]


def test_a_shorter_range_offers_to_raise_the_power_with_it(desk, tmp_path):
    document = bottle()
    document["lights"][0]["power_stops"] = -7
    import_shot(desk, document, tmp_path)
    desk.page.keyboard.press("1")
    desk.measures("output")
    field = desk.page.locator("[data-path='lights.left.lowest_stops']")
    field.fill("5")
    field.press("Enter")
    offer = desk.page.get_by_role("button", name="Raise it to 1/32")
    desk.after_saved(lambda: offer.click())
    left = exported(desk).lights[0]
    assert (left.power_stops, left.lowest_stops) == (-5, 5)


def test_a_state_says_what_was_and_is_and_a_row_of_presses_is_one(desk, tmp_path):
    import_shot(desk, bottle(), tmp_path)
    before = int(desk.page.evaluate("document.body.dataset.revision"))
    desk.page.keyboard.press("1")

    def presses():
        for _ in range(4):
            desk.page.keyboard.press("q")

    desk.after_saved(presses)
    assert int(desk.page.evaluate("document.body.dataset.revision")) == before + 1
    assert "Left panel turned 50° → 46°" in desk.page.locator("#undo").get_attribute("title")


def test_a_light_in_candela_burns_on_and_film_has_a_shutter_angle(desk, tmp_path):
    import_shot(desk, bottle(), tmp_path)
    desk.page.keyboard.press("1")
    desk.measures("output")
    desk.after_saved(lambda: desk.page.locator("[data-path='lights.left.calibration.kind']").select_option("candela"))
    assert exported(desk).lights[0].continuous
    flag = desk.page.locator("[data-path='lights.left.continuous']")
    desk.after_saved(lambda: flag.click())
    assert not exported(desk).lights[0].continuous
    desk.page.get_by_role("tab", name="Camera").click()
    fps = desk.page.locator("[data-film=fps]")
    fps.fill("25")
    desk.after_saved(lambda: fps.press("Enter"))
    assert exported(desk).exposure.shutter_s == pytest.approx(1 / 50)
    angle = desk.page.locator("[data-film=angle]")
    angle.fill("90")
    desk.after_saved(lambda: angle.press("Enter"))
    # Shutter angle: open for 90 of 360 degrees of a twenty-fifth.
    assert exported(desk).exposure.shutter_s == pytest.approx(1 / 100)


def test_cards_have_a_row_and_keys_and_what_overlaps_is_chosen_in_turn(desk, tmp_path):
    document = cylinder_shot()
    over = dict(document["lights"][0]["place"])
    document["cards"] = [
        {"kind": "white card", "key": "one", "name": "One", "place": over, "turn_deg": 105, "width_cm": 8, "height_cm": 60},
        {"kind": "black card", "key": "two", "name": "Two", "place": {"x_cm": 40, "y_cm": 15, "z_cm": 20}, "turn_deg": -105,
         "width_cm": 8, "height_cm": 20},
    ]  # fmt: skip
    import_shot(desk, document, tmp_path)
    desk.page.keyboard.press("Shift+2")
    desk.until("document.querySelector('.card-chip.selected')?.dataset.key === 'two'")
    assert desk.page.locator("#floor .thing.selected[data-key=two]").count() == 1
    desk.handle("two", "turn")  # the drawing with the tapes to the chosen card stands
    x, y = grip(desk, "key")
    chosen = set()
    for _ in range(3):
        desk.page.mouse.click(x, y)
        desk.page.wait_for_timeout(400)
        chosen.add(desk.page.evaluate("document.querySelector('#floor .thing.selected')?.dataset.key"))
    assert chosen == {"key", "one"}


@pytest.mark.parametrize(
    ("word", "kind"),
    [("beauty", "Broad dish"), ("fresnel", "Lens spot"), ("gobo", "Focusing spot"), ("softbox", "Square box"),
     ("floppy", "Black card"), ("snoot", "Snoot")],
)  # fmt: skip
def test_things_are_found_by_what_photographers_call_them(desk, tmp_path, word, kind):
    import_shot(desk, bottle(), tmp_path)
    desk.page.keyboard.press("n")
    desk.page.keyboard.press("/")
    desk.page.keyboard.type(word)
    names = desk.page.locator("#add-found button").all_inner_texts()
    assert kind in names
    if names[0] == kind:
        desk.after_saved(lambda: desk.page.keyboard.press("Enter"))
        things = exported(desk).lights + exported(desk).cards
        assert kind.lower() in {one.name.lower() for one in things}


def test_a_new_light_shows_what_it_does_while_its_picture_is_being_made(desk, tmp_path):
    import_shot(desk, bottle(), tmp_path)
    desk.page.keyboard.press("n")
    desk.page.keyboard.press("g")
    desk.until("document.querySelectorAll('#lights .light').length === 3")
    brightest = """(() => { const c = document.querySelectorAll('#lights .light canvas')[2];
      return Math.max(...c.getContext('2d').getImageData(0, 0, c.width, c.height).data.filter((_, i) => i % 4 < 3)); })()"""
    desk.until(f"{brightest} > 60")
    desk.settled()
    assert desk.page.locator("#picture-state").inner_text() == "fine"


def test_the_strip_of_states_is_thinned_to_pins(desk, tmp_path):
    import_shot(desk, start_document("bottle"), tmp_path)
    for power in ("-", "-", "-"):
        desk.page.keyboard.press("1")
        desk.after_saved(lambda power=power: desk.page.keyboard.press(power))
        desk.page.keyboard.press("1")
    desk.page.get_by_role("tab", name="States").click()
    desk.until("document.querySelectorAll('#states li').length >= 4")
    desk.page.locator("#states [data-pin='2']").fill("Good")
    desk.page.locator("#states [data-pin='2']").press("Tab")
    desk.until("document.querySelector('#states li').dataset.number === '2'")  # pins come first, once they are kept
    desk.page.get_by_role("button", name="Pins only").click()
    shown = desk.page.locator("#states li").evaluate_all("(all) => all.map((one) => Number(one.dataset.number))")
    assert 2 in shown
    assert len(shown) <= 3  # the pin, the present one, the one compared with
    desk.page.get_by_role("button", name="Pins only").click()
    assert desk.page.locator("#states li").count() >= 4

"""Lens, haze, and what shapes light, as the page and the shot file have them."""

import numpy as np
import pytest

from fotaxis.core.scene.catalogue_sets.light_entries import SHAPES
from fotaxis.formats import shot_file
from fotaxis.services.presets import CORRIDOR_KIND, SHAPED
from tests.web.test_lights import add, picture
from tests.web.test_shots import change


@pytest.fixture
def shot(alder):
    return alder.new_shot(alder.new_job())


def state(alder, shot):
    return alder.get(f"/shots/{shot}/state").json()


def test_cards_for_a_purpose_and_the_sun_can_be_added_where_they_belong(alder, shot):
    for kind in (*SHAPED, "sun", "octabox"):
        assert add(alder, shot, kind).status_code == 200, kind
    assert add(alder, shot, CORRIDOR_KIND).status_code == 200
    document = alder.document(shot)
    assert [c["name"] for c in document["cards"][-2:]] == ["Corridor, front", "Corridor, back"]
    cards = {card["name"].lower(): card for card in document["cards"]}
    hole = cards["lens-hole card"]
    assert hole["hole_cm"] > 0
    assert 5 < document["camera"]["distance_cm"] - hole["place"]["z_cm"] < 20  # before the lens
    assert cards["card behind the bottle"]["like_product"] is True
    assert cards["card behind the bottle"]["height_cm"] < document["subject"]["profile"][-1]["height_cm"]
    assert any(light.get("octagon") for light in document["lights"])
    sun = next(row for row in state(alder, shot)["things"] if row["kind"] == "sun")
    assert sun["words"].endswith("of where the camera looks")
    assert change(alder, shot, ["lights", "sun", "hour"], 23).status_code == 200
    sun = next(row for row in state(alder, shot)["things"] if row["kind"] == "sun")
    assert sun["words"] == "below the horizon"
    sheet = alder.get(f"/shots/{shot}/sheet", json=False).text
    assert "hole Ø 9 cm" in sheet
    assert "cut like the product" in sheet


@pytest.mark.parametrize(("path", "value"), [
    (["lens", "polariser"], {"turn_deg": 30}), (["lens", "mask"], {}), (["lens", "hood"], {}), (["lens", "glare_percent"], 2),
    (["lens", "focus"], "all sharp"), (["haze"], {}), (["exposure", "f_number"], 2.0),
])  # fmt: skip
def test_what_the_lens_makes_of_the_scene_changes_the_layers(alder, shot, path, value):
    before = state(alder, shot)["layersKey"]
    assert change(alder, shot, path, value).status_code == 200
    assert state(alder, shot)["layersKey"] != before


def test_filters_change_gains_and_the_meters_words_but_not_the_layers(alder, shot):
    assert change(alder, shot, ["room_lux"], 20).status_code == 200
    before = state(alder, shot)
    assert change(alder, shot, ["lens", "nd_stops"], 3).status_code == 200
    after = state(alder, shot)
    assert after["layersKey"] == before["layersKey"]
    assert after["roomGain"] == pytest.approx(before["roomGain"] / 8)
    assert [a["gain"] / b["gain"] for a, b in zip(after["lights"], before["lights"], strict=True)] == pytest.approx(
        [1 / 8] * 2
    )
    assert after["exposure"]["meter"] != before["exposure"]["meter"]
    beside = {"place": {"x_cm": -20, "y_cm": 22, "z_cm": -10}, "normal": [-0.8, 0, -0.6], "on": "the air", "faces": "left"}
    assert change(alder, shot, ["meter"], beside).status_code == 200
    assert state(alder, shot)["exposure"]["meter"]["how"] == "−3.0 stops on the lens"
    assert change(alder, shot, ["lens", "nd_stops"], 0).status_code == 200
    assert state(alder, shot)["exposure"]["meter"]["how"] == "at the air"
    assert state(alder, shot)["exposure"]["meter"]["long"] == "Incident meter, flat, on the air, facing Left panel"


def test_the_sharp_depth_and_diffraction_are_said(alder, shot):
    assert change(alder, shot, ["exposure", "f_number"], 45.0).status_code == 200
    assert "Diffraction: a spot of" in state(alder, shot)["exposure"]["lens"]
    assert change(alder, shot, ["exposure", "f_number"], 8.0).status_code == 200
    words = state(alder, shot)["exposure"]["lens"]
    assert words.startswith("Sharp from ")
    assert "Diffraction spot 11 µm" in words  # 2.44 x 550 nm x 8


@pytest.mark.parametrize(("path", "value", "words"), [
    (["lens", "polariser"], {"loss_stops": 0.2}, "1"), (["lens", "mask"], {"before_cm": 0}, "more than 0"),
    (["lens", "glare_percent"], 50, "20"), (["lens", "focus"], "nowhere", "aim"), (["haze"], {"from_cm": 90, "to_cm": 30}, "haze"),
    (["haze"], {"percent_per_m": 100}, "99"), (["lights", "left", "wrinkles"], 3, "1"), (["lights", "left", "hue_deg"], 999, "360"),
    (["exposure", "range_stops"], 99, "18"),
])  # fmt: skip
def test_what_no_lens_has_is_refused_in_words(alder, shot, path, value, words):
    before = alder.document(shot)
    answer = change(alder, shot, path, value)
    assert answer.status_code == 422
    assert words in answer.text
    assert alder.document(shot) == before


def test_a_spots_gate_doors_and_way_are_kept_and_said(alder, shot):
    add(alder, shot, "focusing spot")
    spot = ["lights", "focusing-spot"]
    gate = {"blades_percent": [20, 0, 0, 0], "mask": "window", "focus_cm": 120, "blur_percent": 5}
    assert change(alder, shot, [*spot, "gate"], gate).status_code == 200
    assert change(alder, shot, [*spot, "doors_deg"], [10, 60, 60, 60]).status_code == 200
    assert (
        change(alder, shot, [*spot, "to"], {"place": {"x_cm": 0, "y_cm": 50, "z_cm": -60}, "turn_deg": 20}).status_code
        == 200
    )
    assert change(alder, shot, [*spot, "pops"], 4).status_code == 200
    row = next(row for row in state(alder, shot)["things"] if row["key"] == "focusing-spot")
    for words in ("doors 10/60/60/60°", "blades 20/0/0/0 %, mask window", "moved to 0 right", "4 flashes"):
        assert words in row["size"]
    exported = alder.get(f"/shots/{shot}/export", json=False).content
    document = shot_file.read(exported)
    assert shot_file.write(document) == exported
    assert document.lights[-1].gate.focus_cm == 120
    assert change(alder, shot, [*spot, "head"], "candle").status_code == 422  # barn doors on a flame


def test_documents_from_before_the_lens_are_still_read(alder, shot):
    old = alder.document(shot)
    del old["lens"], old["haze"]
    document = shot_file.from_raw(old)
    assert document.lens.focus == "aim"
    assert document.haze is None


def test_the_light_page_shows_every_shape(alder):
    text = alder.get("/lights", json=False).text
    for shape in SHAPES:
        assert f"<strong>{shape.name}</strong>" in text
    grids = [text.split(f"<strong>grid {angle}°</strong>")[1].split("stops at 1 m")[0] for angle in (10, 20, 40)]
    losses = [float(words.rsplit("−", 1)[1]) for words in grids]
    assert losses[0] > losses[1] > losses[2] > 0  # the tighter the grid, the more of the dish it hides
    slats = picture(alder, "shape", "mask: slats")
    assert np.ptp(slats[60:130, 140].mean(axis=1)) > 60  # bars across the wall
    red = picture(alder, "shape", "LED hue 0°")[20:60, 120:180].mean(axis=(0, 1))
    assert red[0] > 100 > 10 > red[2]

"""Heads, sheets, nets, cards and gels on the bench and on the light page."""

import io
import json

import numpy as np
import pytest
from PIL import Image

from fotaxis.core.lights.card_finishes import FINISHES
from fotaxis.core.lights.gels import GELS
from fotaxis.core.lights.heads import HEADS
from fotaxis.services.presets import BOXES, CARD_KINDS, HEAD_KINDS, SHEET_KINDS
from tests.formats.test_lamps import ies
from tests.web.test_shots import change


@pytest.fixture
def shot(alder):
    return alder.new_shot(alder.new_job())


def add(alder, shot, kind):
    return alder.post(
        f"/shots/{shot}/things", content=json.dumps({"kind": kind}), headers={"content-type": "application/json"}
    )


def picture(alder, kind, name):
    answer = alder.get(f"/lights/picture.png?kind={kind}&name={name}", json=False)
    assert answer.status_code == 200
    return np.asarray(Image.open(io.BytesIO(answer.content)).convert("RGB"), float)


def test_every_head_sheet_net_and_card_can_be_added(alder, shot):
    kinds = [*HEAD_KINDS, *CARD_KINDS, *SHEET_KINDS]
    assert len(HEAD_KINDS) == len(HEADS)
    assert len(CARD_KINDS) + len(SHEET_KINDS) == len(FINISHES) + 1  # the diffuser disc is a kind of its own
    for kind in kinds[:20]:
        answer = add(alder, shot, kind)
        assert answer.status_code == 200, kind
        row = next(row for row in answer.json()["things"] if row["key"] == answer.json()["selected"])
        assert row["name"].lower() == kind.lower()
    document = alder.document(shot)
    assert len(document["lights"]) + len(document["cards"]) == 20 + 2  # the pair of panels a shot begins with


def test_boxes_and_panels_that_burn_follow_the_shutter(alder, shot):
    for kind in BOXES:
        answer = add(alder, shot, kind)
        assert answer.status_code == 200, kind
        light = next(light for light in answer.json()["lights"] if light["key"] == answer.json()["selected"])
        assert light["continuous"] == (BOXES[kind].get("candela", 0) > 0)


def test_a_sheet_says_what_it_costs(alder, shot):
    answer = add(alder, shot, "full grid cloth")
    row = next(row for row in answer.json()["things"] if row["key"] == answer.json()["selected"])
    assert row["kind"] == "full grid cloth, −2 stops"


def test_gels_and_white_balance_change_the_layers_and_power_does_not(alder, shot):
    def key():
        return alder.get(f"/shots/{shot}/state").json()["layersKey"]

    first = key()
    assert change(alder, shot, ["lights", "left", "power_stops"], -2).status_code == 200
    assert key() == first
    assert change(alder, shot, ["lights", "left", "gels"], ["half warm", "half warm"]).status_code == 200
    second = key()
    assert second != first
    assert change(alder, shot, ["exposure", "white_k"], 3200).status_code == 200
    assert key() != second


@pytest.mark.parametrize(("path", "value", "words"), [
    (["lights", "left", "gels"], ["puce"], "is no gel known here"), (["lights", "left", "gels"], ["red"] * 5, "at most 4"),
    (["lights", "left", "colour_k"], 300, "1700"), (["lights", "left", "grid_angle_deg"], 120, "90"),
    (["exposure", "white_k"], "warm", "number"),
])  # fmt: skip
def test_what_is_wrong_is_refused_in_words(alder, shot, path, value, words):
    before = alder.document(shot)
    answer = change(alder, shot, path, value)
    assert answer.status_code == 422
    assert words in answer.text
    assert alder.document(shot) == before


def test_a_head_is_as_usual_until_it_is_metered(alder, shot):
    add(alder, shot, "candle")
    state = alder.get(f"/shots/{shot}/state").json()
    candle = next(light for light in state["lights"] if light["key"] == "candle")
    assert candle["continuous"] is True  # the shutter counts
    assert change(alder, shot, ["lights", "candle", "head"], "dish 65°").status_code == 200
    state = alder.get(f"/shots/{shot}/state").json()
    assert next(light for light in state["lights"] if light["key"] == "candle")["continuous"] is False


def test_a_lamp_file_becomes_a_head(alder, shot):
    answer = alder.post(f"/shots/{shot}/lamp", files={"file": ("lamp.ies", ies())})
    assert answer.status_code == 200
    key = answer.json()["selected"]
    light = next(light for light in alder.document(shot)["lights"] if light["key"] == key)
    assert light["head"] == "measured lamp"
    assert light["measured"]["candela"][0] == 1000
    assert light["name"] == "Made-up downlight"
    uneven = ies(horizontal=(0, 90), candela=((1000, 1000, 1000, 1000), (1000, 500, 500, 500)))
    assert "not round" in alder.post(f"/shots/{shot}/lamp", files={"file": ("lamp.ies", uneven)}).json()["note"]
    refused = alder.post(f"/shots/{shot}/lamp", files={"file": ("lamp.ies", b"nothing")})
    assert refused.status_code == 422
    assert "no TILT= line" in refused.text


def test_the_light_page_shows_everything_with_its_figures(alder):
    text = alder.get("/lights", json=False).text
    for thing in (*HEADS, *FINISHES, *GELS):
        assert f"<strong>{thing.name}</strong>" in text
    assert "−1.3 stops" in text
    assert "+159 mired" in text


def test_the_light_page_s_pictures_are_those_of_the_tools(alder):
    wide, narrow = picture(alder, "head", "dish 110°"), picture(alder, "head", "torch")
    corner = slice(0, 20), slice(0, 20)
    assert narrow[corner].mean() < 0.3 * wide[corner].mean()  # a pool on the wall, its corners dark
    warm = picture(alder, "gel", "full warm")[20:60, 120:180].mean(axis=(0, 1))
    assert warm[0] > 1.5 * warm[2]
    net = picture(alder, "finish", "triple net")
    assert net.std() > 0
    assert alder.get("/lights/picture.png?kind=head&name=nonsense", json=False).status_code == 404
